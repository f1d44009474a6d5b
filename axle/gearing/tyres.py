"""How far a wheel goes in one turn: from a tyre's size, or measured."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.errors import AxleError, quoted
from axle.measure.figures import LENGTH, PULSES, read_figure, read_number
from axle.measure.parse import with_point
from axle.measure.uncertainty import Measured, combined

# Rolling circumference over free diameter, by construction; from memory. π is 3 % too much.
_FACTOR: Final = {"radial": 3.05, "bias": 2.99}
# Standard uncertainty, as a share of the circumference; from memory.
_OF_A_SIZE: Final = 0.010
# A size by height names the largest a tyre may be: many are a little smaller.
_OF_A_HEIGHT: Final = 0.015
_OF_A_LOADED_RADIUS: Final = 0.010
_OF_A_PUBLISHED_COUNT: Final = 0.007
# Two tyres of one size on one car: their make, load, pressure and wear still differ.
_OF_A_PAIR: Final = 0.007
# A mark on the floor [mm], at each end of a rolled distance, and the tape's share of it.
_MARK: Final = 10.0
_TAPE: Final = 0.0005
# A worn tread is so much less in circumference than a new one; from memory.
_TREAD: Final = 0.02
# How far the rolling radius lies below the free one, as a share of what the tyre gives under load.
_GIVES: Final = 1 / 3
_FORMS: Final = (
    "a size as 265/70R17 or 31x10.50R15, a rolled distance as 12.05 m in 5 turns, "
    "turns as 415 /km or 668 /mile, a circumference as 2410 mm, or a size with its loaded radius as "
    "265/70R17, 375 mm loaded"
)
_METRIC = re.compile(
    r"(?:P|LT|T|ST)?\s*(\d{3})\s*/\s*(\d{1,3})\s*(?:Z?R|/|(?P<bias>[BD-]))\s*(\d{2}(?:\.5)?)"
    r"\s*(?:LT|C)?(?:\s+\d{2,3}(?:/\d{2,3})?\s*[A-Z])?",
    re.IGNORECASE | re.ASCII,
)
_BY_HEIGHT = re.compile(
    r"(\d{2}(?:\.\d{1,2})?)\s*[x×X]\s*(\d{1,2}(?:\.\d{1,2})?)\s*(?:R|/|(?P<bias>[B-]))\s*(\d{2}(?:\.5)?)"
    r"\s*(?:LT)?(?:\s+\d{2,3}(?:/\d{2,3})?\s*[A-Z])?",
    re.IGNORECASE | re.ASCII,
)
_ROLLED = re.compile(r"(.+?)\s+(?:in|over)\s+(\d+(?:\.\d+)?)\s+turns?", re.IGNORECASE | re.ASCII)
_LOADED = re.compile(r"(.+?)\s*,\s*(.+?)\s+loaded", re.IGNORECASE | re.ASCII)
_LEAST: Final = 900.0
_MOST: Final = 6500.0


class Tread(Enum):
    """How much of the tread is left."""

    UNKNOWN = "unknown"
    NEW = "new"
    HALF = "half"
    WORN = "worn"


TREAD_WORDS: Final = {
    Tread.UNKNOWN: "not looked at",
    Tread.NEW: "as new",
    Tread.HALF: "half worn",
    Tread.WORN: "worn out",
}
# Share of the circumference that is gone, and how well that is known.
_GONE: Final = {
    Tread.UNKNOWN: Measured(_TREAD / 2, _TREAD / math.sqrt(12)),
    Tread.NEW: Measured(0.0, _TREAD / 8),
    Tread.HALF: Measured(_TREAD / 2, _TREAD / 8),
    Tread.WORN: Measured(_TREAD, _TREAD / 8),
}


@dataclass(frozen=True)
class TyreSize:
    """A tyre by its size.

    :param text: as typed.
    :param diameter: free, new [mm], 400 to 1600.
    :param width: of its section [mm], 90 to 700.
    :param rim: diameter [in], 8 to 30.
    :param construction: "radial" or "bias".
    :param by_height: named by height and width, not by width and aspect ratio.
    :raises AxleError: outside these ranges.
    """

    text: str
    diameter: float
    width: float
    rim: float
    construction: str = "radial"
    by_height: bool = False

    def __post_init__(self) -> None:
        for what, value, low, high in (
            ("tyre diameter, mm", self.diameter, 400, 1600),
            ("tyre width, mm", self.width, 90, 700),
            ("rim, in", self.rim, 8, 30),
        ):
            if not low <= value <= high:
                raise AxleError(
                    what, given=f"{value:.0f} of {quoted(self.text)}", wanted=f"{low} to {high}"
                )
        if self.rim * 25.4 >= self.diameter - 20:
            raise AxleError(
                "tyre",
                given=f"{quoted(self.text)}, lower than its rim",
                wanted="a tyre higher than its rim",
            )


@dataclass(frozen=True)
class Rolling:
    """How far a wheel goes in one turn.

    :param circumference: rolling circumference [mm], 900 to 6500, with its standard uncertainty.
    :param words: where it comes from.
    :param size: of the tyre, where it is told.
    :param measured: on this car, not taken from a size or a list.
    :raises AxleError: for a circumference that no wheel of a car has.
    """

    circumference: Measured
    words: str
    size: TyreSize | None = None
    measured: bool = False

    def __post_init__(self) -> None:
        if not _LEAST <= self.circumference.value <= _MOST:
            raise AxleError(
                "rolling circumference",
                given=LENGTH.show(self.circumference.value),
                wanted=f"{LENGTH.both(_LEAST)} to {LENGTH.both(_MOST)}",
            )

    @property
    def value(self) -> float:
        """C [mm]."""
        return self.circumference.value

    @property
    def share(self) -> float:
        """Its standard uncertainty as a share of it [1]."""
        return self.circumference.spread / self.circumference.value

    @property
    def turns_per_km(self) -> float:
        """How often the wheel turns on a kilometre [1/km]."""
        return 1e6 / self.value


def read_size(text: str, what: str = "tyre") -> TyreSize:
    """Read a tyre's size, metric with aspect ratio or by height and width.

    A dash before the rim marks a bias-ply tyre, as does a B or D; a slash is taken for an R.

    :param text: such as "265/70R17", "LT265/70R17 115S", "31x10.50R15", "31×10.5-15".
    :param what: the field's name, for the error.
    :returns: its free diameter [mm]: rim and twice the section's height, or the height itself.
    :raises AxleError: for anything else.
    :source: the designation's own definition (ISO 4000-1, ISO 4223-1); rim code × 25.4 mm.

    >>> round(read_size("205/55R16").diameter, 1)
    631.9
    >>> read_size("31x10.50-15").construction
    'bias'
    """
    typed = " ".join(text.strip().split())
    metric = _METRIC.fullmatch(typed)
    if metric:
        width, aspect, rim = float(metric[1]), float(metric[2]), float(metric[4])
        if not 20 <= aspect <= 100:
            raise AxleError(what, given=quoted(text), wanted="an aspect ratio of 20 to 100")
        return TyreSize(
            typed, rim * 25.4 + 2 * width * aspect / 100, width, rim, "bias" if metric["bias"] else "radial"
        )
    by_height = _BY_HEIGHT.fullmatch(typed)
    if by_height:
        height, width, rim = float(by_height[1]), float(by_height[2]), float(by_height[4])
        construction = "bias" if by_height["bias"] else "radial"
        return TyreSize(typed, height * 25.4, width * 25.4, rim, construction, by_height=True)
    raise AxleError(what, given=quoted(text), wanted=_FORMS)


def from_size(size: TyreSize, tread: Tread = Tread.UNKNOWN) -> Rolling:
    """Rolling circumference from a size alone.

    :param size: of the tyre.
    :param tread: what is left of its tread.
    :returns: C = F·D·(1 − worn) [mm], F 3.05 of a radial tyre, 2.99 of a bias-ply one.
    :source: factors from memory, good to 1 %; a worn tread is 2 % less, from memory.

    >>> round(from_size(read_size("205/55R16"), Tread.NEW).value)
    1927
    """
    gone = _GONE[tread]
    value = _FACTOR[size.construction] * size.diameter * (1 - gone.value)
    share = combined(_OF_A_HEIGHT if size.by_height else _OF_A_SIZE, gone.spread)
    words = f"from the size {size.text} alone, tread {TREAD_WORDS[tread]}"
    return Rolling(Measured(value, value * share), words, size)


def from_turns(distance: float, turns: float) -> Rolling:
    """Rolling circumference from a distance rolled in a straight line, loaded as it is driven.

    :param distance: between both marks [mm], above 0.
    :param turns: of the wheel, 1 or more.
    :returns: C = distance/turns [mm]; its uncertainty is that of two marks and a tape.
    :raises AxleError: for less than a turn.
    :source: JCGM 100:2008, 5.1.2; marks good to 10 mm, common practice, no source.

    >>> round(from_turns(12050, 5).value), round(from_turns(12050, 5).share * 100, 2)
    (2410, 0.13)
    """
    if turns < 1 or distance <= 0:
        raise AxleError("turns of the wheel", given=f"{turns:g}", wanted="1 or more, over a distance")
    std = combined(math.sqrt(2) * _MARK, _TAPE * distance)
    words = f"rolled {distance / 1000:.2f} m in {turns:g} turns"
    return Rolling(Measured(distance / turns, std / turns), words, measured=True)


def from_count(per_km: float) -> Rolling:
    """Rolling circumference from turns on a kilometre, as lists of tyres have it.

    :param per_km: turns of the wheel [1/km], above 0.
    :returns: C = 10⁶/n [mm].
    :raises AxleError: for a count of none.
    :source: definition; lists agree with a loaded tyre to about 0.7 %, from memory.

    >>> round(from_count(415).value)
    2410
    """
    if per_km <= 0:
        raise AxleError("turns of the wheel", given=f"{per_km:g} /km", wanted="more than 0")
    value = 1e6 / per_km
    words = f"{per_km:.0f} turns on a kilometre, as listed"
    return Rolling(Measured(value, value * _OF_A_PUBLISHED_COUNT), words)


def from_loaded_radius(size: TyreSize, loaded: float, tread: Tread = Tread.UNKNOWN) -> Rolling:
    """Rolling circumference from the height of the wheel's centre under load.

    :param size: of the tyre, for its free radius.
    :param loaded: height of the centre over the floor [mm], below the free radius.
    :param tread: what is left of its tread.
    :returns: C = 2π·r, r ≈ r_free − (r_free − r_loaded)/3 [mm].
    :raises AxleError: for a loaded radius that is no less than the free one, or under 3/4 of it.
    :source: approximate rule of tyre mechanics, from memory, good to 1 %.

    >>> round(from_loaded_radius(read_size("265/70R17"), 375, Tread.NEW).value)
    2467
    """
    free = size.diameter / 2 - _GONE[tread].value * size.diameter / 2
    if not 0.75 * free <= loaded < free:
        raise AxleError(
            "loaded radius",
            given=f"{loaded:.0f} mm",
            wanted=f"{0.75 * free:.0f} to {free:.0f} mm, under load",
        )
    value = 2 * math.pi * (free - (free - loaded) * _GIVES)
    share = combined(_OF_A_LOADED_RADIUS, _GONE[tread].spread / 3)
    words = f"{size.text} with a loaded radius of {loaded:.0f} mm"
    return Rolling(Measured(value, value * share), words, size, measured=True)


def read_tyre(text: str, tread: Tread = Tread.UNKNOWN, what: str = "tyre") -> Rolling:
    """Read what somebody knows of a tyre, in any of the ways in which it is known.

    :param text: a size, a rolled distance, turns on a kilometre or mile, a circumference, or a size with
        its loaded radius.
    :param tread: what is left of its tread; counts where the size alone is known.
    :param what: the field's name, for the error.
    :returns: the rolling circumference [mm].
    :raises AxleError: naming every form that is understood.
    :source: :func:`from_size`, :func:`from_turns`, :func:`from_count`, :func:`from_loaded_radius`.

    >>> round(read_tyre("12.05 m in 5 turns").value), round(read_tyre("668 /mile").value)
    (2410, 2409)
    """
    typed = with_point(text.strip())
    rolled, loaded = _ROLLED.fullmatch(typed), _LOADED.fullmatch(typed)
    if rolled:
        distance = read_figure(rolled[1], LENGTH, what, "m")
        return from_turns(distance, read_number(rolled[2], what, 1, 1000))
    if loaded:
        return from_loaded_radius(read_size(loaded[1], what), read_figure(loaded[2], LENGTH, what), tread)
    if re.fullmatch(r"[\d.]+\s*(?:/|per)\s*(?:km|mile)", typed, re.IGNORECASE | re.ASCII):
        return from_count(read_figure(typed, PULSES, what))
    if re.fullmatch(r'[\d.]+\s*(?:mm|cm|m|in|")', typed, re.IGNORECASE | re.ASCII):
        value = read_figure(typed, LENGTH, what)
        return Rolling(Measured(value, value * _TAPE + _MARK / 5), "circumference as given", measured=True)
    return from_size(read_size(text, what), tread)


def pair_share(front: Rolling, rear: Rolling) -> float:
    """Standard uncertainty of one circumference over another, as a share of it.

    Two tyres of one size err alike in most that their size leaves open; measured ones err apart.

    :param front: of the front wheels.
    :param rear: of the rear wheels.
    :returns: share [1].
    :source: JCGM 100:2008, 5.2 (what both have in common drops out of a quotient); 0.7 % for two tyres of
        one size, from memory.

    >>> same = read_tyre("265/70R17")
    >>> pair_share(same, same)
    0.007
    """
    one_size = front.size is not None and rear.size is not None and front.size.text == rear.size.text
    if one_size and not front.measured and not rear.measured:
        return _OF_A_PAIR
    return combined(front.share, rear.share)
