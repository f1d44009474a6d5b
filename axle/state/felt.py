"""What is felt when the gears are turned by hand: a reading of each assembly, without a figure."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from axle.errors import AxleError, quoted
from axle.state.settings import Settings


class Feel(StrEnum):
    """What the hand feels."""

    SMOOTH = "smooth"
    CLICK = "click"
    CLUNK = "clunk"
    ROUGH = "rough"
    RUBS = "rubs"


class Flank(StrEnum):
    """Which flanks carry while it is turned."""

    DRIVE = "drive"
    COAST = "coast"


@dataclass(frozen=True)
class Felt:
    """One turn by hand, one way.

    :param feel: a word of :class:`Feel`.
    :param flank: the flanks that carried, a word of :class:`Flank`.
    :param assembly: number of the assembly it was turned on, 1 or more.
    :param settings: what was in the axle then.
    :param order: rises with time.
    :raises AxleError: for a word that is none of those.
    :source: common practice, no source.

    >>> Felt("click", "drive", 1, Settings(), 1).feel
    'click'
    """

    feel: str
    flank: str
    assembly: int
    settings: Settings
    order: int

    def __post_init__(self) -> None:
        for title, value, words in (("by hand", self.feel, Feel), ("turned", self.flank, Flank)):
            if value not in tuple(words):
                raise AxleError(title, given=quoted(value, 20), wanted=", ".join(words))


@dataclass(frozen=True)
class Turned:
    """An assembly turned by hand: what each flank gave, as it was felt last.

    :param assembly: its number.
    :param drive: a word of :class:`Feel`, or "" where that way was not turned.
    :param coast: the same.
    :param settings: what was in the axle then.
    """

    assembly: int
    drive: str
    coast: str
    settings: Settings

    @property
    def clicks_on_drive_alone(self) -> bool:
        """Whether the drive flanks click while the coast flanks were turned too and do not."""
        return self.drive == Feel.CLICK and bool(self.coast) and self.coast != Feel.CLICK

    @property
    def is_quiet(self) -> bool:
        """Whether both ways were turned, and neither clicked."""
        return bool(self.drive) and bool(self.coast) and Feel.CLICK not in (self.drive, self.coast)


def turned(felt: Iterable[Felt]) -> tuple[Turned, ...]:
    """Each assembly as it was felt last, oldest first; a flank counts on the newest settings alone.

    :param felt: in any order.
    :source: the job's records.

    >>> now = Settings()
    >>> felt = Felt("click", "drive", 1, now, 1), Felt("smooth", "coast", 1, now, 2)
    >>> turned(felt)[0].clicks_on_drive_alone
    True
    """
    every = sorted(felt, key=lambda one: one.order)
    newest = {one.assembly: one.settings for one in every}
    found: dict[int, dict[str, str]] = {}
    for one in every:
        if one.settings == newest[one.assembly]:
            found.setdefault(one.assembly, {})[one.flank] = one.feel
    return tuple(
        Turned(number, flanks.get(Flank.DRIVE, ""), flanks.get(Flank.COAST, ""), newest[number])
        for number, flanks in sorted(found.items())
    )
