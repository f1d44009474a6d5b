"""What went wrong on a simulated axle, one sentence each, with the reading that would have saved it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError

# A belief further from the truth than so many of its standard deviations was a wrong one.
_FAR: Final = 2.0
_SAVED: Final = {
    "depth": "A print on this very assembly shows it before it is called done; where gauge and "
    "print differ, take both once more",
    "backlash": "Backlash at four places, with the caps torqued, shows it",
    "pinion_preload": "The rotating torque read after the nut's last turn, both ways, shows it",
    "carrier_preload": "The whole read right after the pinion alone, with the carrier in, shows it",
    "runout": "The ring gear read at eight places, before the threadlocker, shows it",
}
# Which of these each judged thing is.
_OF: Final = {
    "depth": "depth",
    "backlash": "backlash",
    "spread": "runout",
    "pinion preload": "pinion_preload",
    "carrier preload": "carrier_preload",
}


@dataclass(frozen=True)
class Belief:
    """What was held of one figure at the end, beside the truth.

    :param what: "depth", "backlash", "pinion_preload", "carrier_preload" or "runout".
    :param words: its name, as shown.
    :param true: the truth, in one unit with the rest.
    :param believed: what was held, or nothing.
    :param std: its standard deviation, or nothing.
    :param shown: truth and belief in words, with their unit.
    """

    what: str
    words: str
    true: float
    believed: float | None
    std: float | None
    shown: tuple[str, str]

    def __post_init__(self) -> None:
        if self.what not in _SAVED:
            raise AxleError("belief", given=f"“{self.what}”", wanted=", ".join(_SAVED))


def mistakes(
    wrong: Iterable[str],
    beliefs: Iterable[Belief],
    assemblies: int,
    par: int,
    strip_downs: Iterable[str] = (),
) -> tuple[str, ...]:
    """Say what went wrong and what would have saved it.

    :param wrong: what was truly out of range at the end, as the simulator names it.
    :param beliefs: of each figure.
    :param assemblies: builds that it took.
    :param par: builds of a good hand.
    :param strip_downs: titles of the moves that were made, in order.
    :returns: one sentence each; none where nothing went wrong.
    :source: common practice.

    >>> held = Belief("depth", "Depth", 0.1, None, None, ("4.0 thou", ""))
    >>> mistakes(["depth"], [held], 2, 2)[0][:57]
    'Depth is truly out, 4.0 thou, and nothing was read of it.'
    """
    by_what = {belief.what: belief for belief in beliefs}
    found = []
    for name in wrong:
        belief = by_what.get(_OF.get(name, ""))
        if belief is not None:
            found.append(_out(belief))
    missed = {_OF.get(name, "") for name in wrong}
    found += [_believed(one) for one in by_what.values() if one.what not in missed and _is_far(one)]
    extra = assemblies - par
    if extra > 0:
        made = list(strip_downs)
        which = f" Of the moves made, “{made[-1]}” was the last." if made else ""
        found.append(
            f"{extra} strip-down{'s' if extra > 1 else ''} more than a good hand needs.{which} Depth and "
            "both sides can be changed in one strip-down: read all of it first, then move."
        )
    return tuple(found)


def _is_far(belief: Belief) -> bool:
    if belief.believed is None or not belief.std:
        return False
    return abs(belief.believed - belief.true) > _FAR * belief.std


def _out(belief: Belief) -> str:
    true, believed = belief.shown
    held = f"and {believed} was believed" if belief.believed is not None else "and nothing was read of it"
    return f"{belief.words} is truly out, {true}, {held}. {_SAVED[belief.what]}."


def _believed(belief: Belief) -> str:
    true, believed = belief.shown
    return (
        f"{belief.words} came out in range, but {believed} was believed and {true} is true: luck. "
        "Read once more, and set the instrument up anew between the two."
    )
