"""Front against rear: whether both axles of a four-wheel drive agree."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.errors import AxleError
from axle.gearing.tyres import Rolling, pair_share

# Both ends within so much of each other: common practice, no source.
CLOSE: Final = 0.01
# A difference is held to be shown where it lies so many standard uncertainties from the limit.
_SURE: Final = 2.0


class Agreement(Enum):
    """Whether both ends agree."""

    HOLDS = "within 1 %"
    OVER = "over 1 %"
    NOT_SHOWN = "not shown"


class Centre(Enum):
    """What joins both axles."""

    NONE = "none"
    LOCKED = "locked"
    OPEN = "open"


CENTRE_WORDS: Final = {
    Centre.NONE: "one driven axle",
    Centre.LOCKED: "four-wheel drive that locks both shafts together",
    Centre.OPEN: "four-wheel drive with a centre differential",
}


@dataclass(frozen=True)
class BothEnds:
    """How far the front axle runs ahead of the rear one, or behind it.

    :param apart: (R_f/C_f)/(R_r/C_r)·overdrive − 1 [1]; above 0 the front wheels would go slower.
    :param std: its standard uncertainty, from the tyres [1].
    :param centre: what joins both axles.
    :param overdrive: ratio that the transfer case gives the front shaft on purpose.
    :param sizes_alone: the tyres are known by their sizes, not measured.
    """

    apart: float
    std: float
    centre: Centre
    overdrive: float
    sizes_alone: bool

    @property
    def unintended(self) -> float:
        """What is left of the difference without what the transfer case does on purpose [1]."""
        return (1 + self.apart) / self.overdrive - 1

    @property
    def interval(self) -> tuple[float, float]:
        """Between what it lies, at two standard uncertainties."""
        return self.apart - _SURE * self.std, self.apart + _SURE * self.std

    @property
    def agreement(self) -> Agreement:
        """Whether both ends agree within 1 %, as far as the tyres are known; what is chosen is left out."""
        if abs(self.unintended) + _SURE * self.std <= CLOSE:
            return Agreement.HOLDS
        if abs(self.unintended) - _SURE * self.std > CLOSE:
            return Agreement.OVER
        return Agreement.NOT_SHOWN

    @property
    def words(self) -> str:
        """What it comes to, in a sentence or two."""
        much = f"{abs(self.apart) * 100:.2f} %"
        way = "the front would run slower" if self.apart > 0 else "the front would run faster"
        found = (
            f"{much} apart, ± {self.std * 200:.2f} %" if self.apart else f"equal, ± {self.std * 200:.2f} %"
        )
        if self.agreement is Agreement.HOLDS:
            said = f"{found}: within about 1 %" + ("." if self.overdrive == 1 else " of what is chosen.")
        elif self.agreement is Agreement.OVER:
            said = f"{found}: {way}. {_effect(self.apart)}"
        else:
            said = f"{found}: not shown to lie within 1 %." + (
                " Sizes alone cannot show it: roll all four wheels over one distance."
                if self.sizes_alone
                else ""
            )
        if self.centre is Centre.OPEN:
            said += " The centre differential takes a difference up while it is open; locked, it winds up."
        if self.overdrive != 1:
            said += f" The transfer case turns the front {abs(self.overdrive - 1) * 100:.1f} % " + (
                "faster on purpose." if self.overdrive < 1 else "slower on purpose."
            )
        return said


def _effect(apart: float) -> str:
    """What an axle that runs ahead or behind does, locked on a grippy road."""
    if apart > 0:
        return (
            "Locked on a dry road the rear pushes the front along: tyres scrub, the shafts wind up, "
            "the lever sticks, and joints and gears carry what nobody asked for."
        )
    return (
        "Locked on a dry road the front pulls and carries the load of both: it wears first, the shafts "
        "wind up and the lever sticks; on ice the front breaks away first."
    )


def both_ends(
    front_ratio: float,
    front: Rolling,
    rear_ratio: float,
    rear: Rolling,
    *,
    centre: Centre = Centre.LOCKED,
    overdrive: float = 1.0,
) -> BothEnds:
    """Hold the front axle to the rear one.

    :param front_ratio: R_f, N2/N1, above 1.
    :param front: tyres of the front wheels.
    :param rear_ratio: R_r.
    :param rear: tyres of the rear wheels.
    :param centre: what joins both axles.
    :param overdrive: turns of the rear shaft for one of the front shaft, as the transfer case is made; 1
        where it treats both alike, below 1 where it drives the front faster.
    :returns: m = (R_f/C_f)/(R_r/C_r)·overdrive − 1 with its standard uncertainty.
    :raises AxleError: for a ratio of none.
    :source: both shafts turn alike: v = n·C/R; within 1 %, common practice, no source.

    >>> from axle.gearing.tyres import read_tyre
    >>> tyre = read_tyre("12.05 m in 5 turns")
    >>> round(both_ends(41 / 10, tyre, 37 / 9, tyre).apart * 100, 2)
    -0.27
    """
    for ratio in (front_ratio, rear_ratio):
        if not ratio > 1:
            raise AxleError("ratio", given=f"{ratio:g}", wanted="more than 1")
    if not 0.8 <= overdrive <= 1.2:
        raise AxleError("front overdrive", given=f"{overdrive:g}", wanted="0.8 to 1.2")
    apart = (front_ratio / front.value) / (rear_ratio / rear.value) * overdrive - 1
    std = pair_share(front, rear)
    return BothEnds(apart, std, centre, overdrive, not (front.measured and rear.measured))


@dataclass(frozen=True)
class RatioMatch:
    """Two ratios beside each other, where nothing is known of the tyres.

    :param first: of one axle.
    :param second: of the other.
    """

    first: float
    second: float

    @property
    def apart(self) -> float:
        """How far they lie apart, as a share of the smaller."""
        return abs(self.first - self.second) / min(self.first, self.second)

    @property
    def holds(self) -> bool:
        """Whether they match."""
        return self.apart <= CLOSE


def ratio_match(first: float, second: float) -> RatioMatch:
    """Hold the ratios of both ends of a vehicle to each other.

    :param first: ring gear teeth by pinion teeth, above 0.
    :param second: the same of the other axle.
    :raises AxleError: for a ratio that is none.
    :source: within 1 %, common practice, no source.

    >>> ratio_match(41 / 11, 3.73).holds, ratio_match(3.73, 4.10).holds
    (True, False)
    """
    for ratio in (first, second):
        if not ratio > 0:
            raise AxleError("ratio", given=f"{ratio:g}", wanted="more than 0")
    return RatioMatch(first, second)
