"""What a drawer could make, as a page shows it."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.measure.units import Display
from axle.shims.choose import Order, PackChoice, choose, reachable, to_order
from axle.shims.pieces import USUAL, Piece, Rules
from shop.drawing.reach import NumberLine, Tick, number_line
from shop.drawing.svg import Svg
from shop.people.models import Shop
from shop.stock.models import Family
from shop.stock.queries import catalogue, pieces_for

# Half a thou either way is closer than a pack is held on the bench; the line shows five either way.
CLOSE: Final = Decimal("0.0127")
REACH: Final = Decimal("0.127")


@dataclass(frozen=True)
class Made:
    """What can be made around a wanted thickness, and what to order where nothing fits."""

    choice: PackChoice
    line: Svg
    orders: tuple[Order, ...]
    count: int


def could_make(shop: Shop | None, family: str, shape: str, wanted: str, display: Display) -> Made:
    """Work out what a family of the drawer can make.

    :raises AxleError: for a family or a thickness that makes no sense.
    """
    if family not in Family.values:
        raise AxleError("family", given=f"“{family[:20]}”", wanted=", ".join(Family.values))
    asked = parse(wanted, display.length, "wanted pack").core.quantize(Decimal("0.00001"))
    return around(asked, pieces_for(shop, family, shape), catalogue(shop, (family,)), display)


def around(
    asked: Decimal,
    drawer: Sequence[Piece],
    sizes: Sequence[Decimal],
    display: Display,
    *,
    fitted: Decimal | None = None,
    rules: Rules = USUAL,
    close: Decimal = CLOSE,
) -> Made:
    """The choice, the number line, and the orders that would help.

    :raises AxleError: for a thickness that makes no sense.
    """
    choice = choose(asked, close, drawer, rules)
    can = reachable(asked, REACH, drawer, rules)
    orders = () if choice.pack else to_order(asked, close, drawer=drawer, sizes=sizes, rules=rules)
    chosen = float(choice.pack.thickness) if choice.pack else None
    ticks = [Tick(float(reach.thickness), reach.pieces) for reach in can]
    shown = NumberLine(
        float(asked),
        float(REACH),
        close=float(close),
        ticks=ticks,
        fitted=float(fitted) if fitted else None,
        chosen=chosen,
    )
    return Made(choice, number_line(shown, display.length), orders=orders, count=len(can))
