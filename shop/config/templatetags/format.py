"""The few small things templates need; built into every template."""

from datetime import datetime
from decimal import Decimal

from django import template
from django.utils import timezone

from axle.layout import Place
from axle.measure.units import Dimension, Display, percent, show
from axle.procedure.findings import parts
from axle.procedure.stations import kind_named, stations
from shop.config.currency import Currency

register = template.Library()


@register.filter
def as_length(core: Decimal | float, display: Display) -> str:
    """A length in the reader's unit."""
    return display.show(core)


@register.filter
def as_change(core: Decimal | float, display: Display) -> str:
    """A change of length in the reader's unit, with its sign."""
    return show(core, display.length, sign=True)


@register.filter
def as_position(holes: Decimal | None) -> str:
    """Where an adjuster stands, as a field can take it back."""
    return "" if holes is None else f"{holes.normalize():f}"


@register.filter
def as_set(holes: Decimal | None) -> str:
    """Where an adjuster stands, to be read."""
    return "—" if holes is None else f"{holes.normalize():f}".replace("-", "−")


@register.filter
def as_holes(change: Decimal) -> str:
    """A change of an adjuster in holes, with its sign."""
    return f"{change.normalize():+f}".replace("-", "−")


@register.filter
def as_torque(core: Decimal | float, display: Display) -> str:
    """A rotating torque in the reader's unit."""
    return display.show(core, Dimension.TORQUE)


@register.filter
def as_percent(share: float) -> str:
    """A chance or a weight in whole percent."""
    return percent(share)


@register.filter
def as_width(share: float) -> str:
    """A chance as the width of its bar, 0 to 100."""
    return f"{share:.0%}".rstrip("%")


@register.filter
def as_depth(error: float, display: Display) -> str:
    """Where a pinion sits against where it should, in words."""
    shown = display.show(abs(error))
    if shown.strip("0.") == "":
        return "as wanted"
    return f"{shown} {'deep' if error > 0 else 'shallow'}"


@register.filter
def station_title(name: str) -> str:
    """A station's name in the trade's words; a reading's own title where the name is a reading's."""
    found = stations().get(name)
    return found.title if found else kind_named(name).title


@register.filter
def kind_title(name: str) -> str:
    """A reading kind's title."""
    return kind_named(name).title


@register.filter
def place_title(place: str | Place) -> str:
    """A place as a label."""
    value = place.value if isinstance(place, Place) else place
    return {"depth": "Depth shim", "preload": "Preload pack", "ring": "Ring side", "far": "Far side"}[value]


@register.filter
def part_title(name: str) -> str:
    """An inspected part as its title."""
    return parts()[name].title


@register.filter
def as_moment(text: str) -> str:
    """A moment kept as text, by the shop's clock."""
    return f"{timezone.localtime(datetime.fromisoformat(text)):%-d %b %Y, %H:%M}"


@register.simple_tag
def firstof_typed(typed: dict[str, str], name: str, kept: str) -> str:
    """What was typed and not stored, else what is kept."""
    return typed.get(name, kept)


@register.filter
def get(mapping: dict[object, object], key: object) -> object:
    """Look a key up."""
    return mapping.get(key)


@register.filter
def as_money(amount: Decimal | str | float | None, currency: Currency) -> str:
    """An amount in the shop's own form; a dash where there is none."""
    return "—" if amount is None or amount == "" else currency.show(amount)


@register.filter
def as_quantity(quantity: Decimal | str | float) -> str:
    """A quantity without noughts behind it."""
    return f"{Decimal(str(quantity)).normalize():f}"


@register.filter
def get_day(week: dict[str, str], number: int) -> str:
    """The hours of a weekday, as they were typed."""
    return week.get(str(number), "")
