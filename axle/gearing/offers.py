"""Sets that can be had, with price, time and what they fit; else every pair that could be cut."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError, quoted
from axle.gearing.teeth import TeethMeeting

_TEETH = re.compile(r"(\d{1,2})\s*[/:x×-]\s*(\d{1,2})", re.ASCII)
_NEAR: Final = 0.08


class _Bounds(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    least_sum: int
    most_sum: int
    least_pinion: tuple[tuple[float, int], ...]


@dataclass(frozen=True)
class Offer:
    """A ring and pinion that can be had.

    :param pinion: N1.
    :param ring: N2.
    :param sold_as: the ratio's name where it is sold, such as "3.73"; "" where nobody sells it.
    :param price: of the set, or nothing where it is not known.
    :param days: until it is here, or nothing.
    :param carrier_low: least ratio of the carrier that it bolts to, or nothing.
    :param carrier_high: largest ratio of that carrier, or nothing.
    :param thickness: of the ring gear from flange to back angle [mm], or nothing.
    :param supplier: who has it, or "".
    :param ring_diameter: of the ring gear [mm], or nothing where it is not told.
    :param thick: made thick so that it fits a carrier of the other side of the carrier break.
    :raises AxleError: for teeth that no axle has, or a name that is another ratio.
    """

    pinion: int
    ring: int
    sold_as: str = ""
    price: Decimal | None = None
    days: int | None = None
    carrier_low: float | None = None
    carrier_high: float | None = None
    thickness: float | None = None
    supplier: str = ""
    thick: bool = False
    ring_diameter: float | None = None

    def __post_init__(self) -> None:
        TeethMeeting(self.pinion, self.ring)
        if not self.sold_as:
            return
        try:
            named = float(self.sold_as)
        except ValueError:
            named = 0.0
        if not abs(named / self.ratio - 1) <= 0.02:
            raise AxleError(
                "sold as",
                given=f"{quoted(self.sold_as)} for {self.ring}/{self.pinion}",
                wanted=f"a name near its ratio, {self.ratio:.3f}, as 3.73 for 41/11",
            )

    @property
    def ratio(self) -> float:
        """N2/N1, exact; all arithmetic uses it."""
        return self.ring / self.pinion

    @property
    def teeth(self) -> str:
        """The pair as it is spoken of."""
        return f"{self.ring}/{self.pinion}"

    @property
    def name(self) -> str:
        """The pair with the name it is sold under."""
        return f"{self.teeth} ({self.sold_as or f'{self.ratio:.2f}'})"


def read_pair(text: str, what: str = "teeth") -> tuple[int, int]:
    """Read a tooth pair in either order.

    :param text: such as "41/11", "11-41", "41:11".
    :param what: the field's name, for the error.
    :returns: (N1, N2).
    :raises AxleError: for anything else.
    :source: the ring gear has the larger count.

    >>> read_pair("11-41")
    (11, 41)
    """
    found = _TEETH.fullmatch(text.strip())
    if found is None:
        raise AxleError(what, given=quoted(text), wanted="both tooth counts, as 41/11")
    low, high = sorted((int(found[1]), int(found[2])))
    TeethMeeting(low, high)
    return low, high


def read_ratio(text: str, what: str = "ratio") -> float:
    """Read a ratio, exact from its teeth or as a number.

    :param text: such as "41/11" or "3.73".
    :param what: the field's name, for the error.
    :returns: N2/N1 [1].
    :raises AxleError: for a ratio that no axle has, 1.5 to 12.
    :source: :func:`read_pair`.

    >>> round(read_ratio("41/11"), 3), read_ratio("3.73")
    (3.727, 3.73)
    """
    typed = text.strip().replace(",", ".")
    if re.fullmatch(r"\d{1,2}(?:\.\d{1,4})?", typed, re.ASCII):
        value = float(typed)
    else:
        low, high = read_pair(text, what)
        value = high / low
    if not 1.5 <= value <= 12:
        raise AxleError(what, given=quoted(text), wanted="1.5 to 12, or both tooth counts as 41/11")
    return value


def pairs_near(ratio: float, within: float = _NEAR) -> tuple[Offer, ...]:
    """Every tooth pair near a ratio that could be cut, where nothing is known of what is sold.

    :param ratio: wanted N2/N1, 1.5 to 12.
    :param within: how far from it, as a share, 0 to 0.3.
    :returns: offers without price, nearest first.
    :raises AxleError: for a ratio that no axle has.
    :source: ``data/pairs.toml``: least pinion teeth by ratio and least sum of teeth of bevel and hypoid
        design manuals, from memory.

    >>> [offer.teeth for offer in pairs_near(41 / 11, 0.003)][:2]
    ['41/11', '56/15']
    """
    if not 1.5 <= ratio <= 12:
        raise AxleError("ratio", given=f"{ratio:g}", wanted="1.5 to 12")
    found = [
        Offer(pinion, ring)
        for pinion in range(5, 21)
        for ring in range(pinion + 1, 81)
        if abs(ring / pinion / ratio - 1) <= within and _can_be_cut(pinion, ring)
    ]
    return tuple(sorted(found, key=lambda offer: (round(abs(offer.ratio / ratio - 1), 9), offer.ring)))


def _can_be_cut(pinion: int, ring: int) -> bool:
    bounds = _bounds()
    if not bounds.least_sum <= pinion + ring <= bounds.most_sum:
        return False
    least = next(teeth for upto, teeth in bounds.least_pinion if ring / pinion <= upto)
    return pinion >= least


@cache
def _bounds() -> _Bounds:
    return read_table(__file__, "data/pairs.toml", _Bounds)


def read_offers(rows: Iterable[Mapping[str, str]]) -> tuple[Offer, ...]:
    """Read a table of sets, as shops exchange it.

    :param rows: each with ``teeth``, and where known ``sold_as``, ``price``, ``days``, ``carrier_low``,
        ``carrier_high``, ``ring_diameter`` and ``thickness`` [mm], ``thick`` (yes, no) and ``supplier``.
    :returns: the offers, in order.
    :raises AxleError: naming the row, counted from 1 for the one after the heading.
    :source: docs/format.md.
    """
    found = []
    for number, row in enumerate(rows, start=1):
        try:
            found.append(_offer(row))
        except AxleError as problem:
            raise AxleError(
                f"row {number}, {problem.what}", given=problem.given, wanted=problem.wanted
            ) from None
    return tuple(found)


def _offer(row: Mapping[str, str]) -> Offer:
    pinion, ring = read_pair(row.get("teeth") or "")
    low, high = _number(row, "carrier_low", 1, 12), _number(row, "carrier_high", 1, 12)
    if low is not None and high is not None and low > high:
        raise AxleError("carrier", given=f"{low:g} to {high:g}", wanted="the smaller ratio first")
    price, days = _number(row, "price", 0, 100_000), _number(row, "days", 0, 365)
    if days is not None and days != int(days):
        raise AxleError("days", given=f"{days:g}", wanted="a whole number of days")
    thick = (row.get("thick") or "no").strip().lower()
    if thick not in ("yes", "no"):
        raise AxleError("thick", given=quoted(thick), wanted="yes or no")
    return Offer(
        pinion,
        ring,
        sold_as=(row.get("sold_as") or "").strip(),
        price=None if price is None else Decimal(f"{price:.2f}"),
        days=None if days is None else int(days),
        carrier_low=low,
        carrier_high=high,
        thickness=_number(row, "thickness", 10, 120),
        supplier=(row.get("supplier") or "").strip()[:80],
        thick=thick == "yes",
        ring_diameter=_number(row, "ring_diameter", 100, 400),
    )


def _number(row: Mapping[str, str], name: str, low: float, high: float) -> float | None:
    text = (row.get(name) or "").strip().replace(",", ".")
    if not text:
        return None
    if not re.fullmatch(r"\d{1,6}(?:\.\d{1,4})?", text, re.ASCII) or not low <= float(text) <= high:
        raise AxleError(
            name.replace("_", " "),
            given=quoted(text),
            wanted=f"a number from {low:g} to {high:g}, or nothing",
        )
    return float(text)
