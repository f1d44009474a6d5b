"""The verdict of an inspection: whether an axle may be used on, with what work, and until when."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError, quoted
from axle.measure.range import Range
from axle.measure.units import Display
from axle.procedure.findings import Found, not_looked_at, parts
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.stations.result import against

VERDICTS: Final[Mapping[str, str]] = {
    "serviceable": "Serviceable",
    "work": "Serviceable once the work is done",
    "not": "Not serviceable",
}
# What each reading as received is held to when it is to be used on: the first key that the sheet has.
_KEYS: Final[Mapping[str, tuple[str, ...]]] = {
    "arrival_backlash": ("reuse_backlash",),
    "arrival_runout": ("reuse_runout", "ring_runout"),
    "arrival_pinion_torque": ("reuse_pinion_torque", "pinion_preload_used"),
    "arrival_total_torque": ("reuse_total_torque",),
}
# Play that is read as received is none on a sound axle [mm].
_PLAY: Final = ("arrival_side_play", "arrival_pinion_play")


@dataclass(frozen=True)
class InspectionVerdict:
    """What an inspection ends in.

    :param verdict: a key of ``VERDICTS``.
    :param work: with what: the work or the parts that go with it, or "".
    :param until: until when it holds: a date, a distance, hours, the next service; "" where it is none.
    :raises AxleError: for a verdict that does not exist, or one without what it needs.
    """

    verdict: str
    work: str = ""
    until: str = ""

    def __post_init__(self) -> None:
        if self.verdict not in VERDICTS:
            raise AxleError(
                "verdict", given=quoted(self.verdict[:20]), wanted=", ".join(VERDICTS.values()).lower()
            )
        if self.verdict == "work" and len(self.work.strip()) < 4:
            raise AxleError("with what", given=quoted(self.work), wanted="the work that has to be done")
        if self.verdict != "not" and len(self.until.strip()) < 2:
            raise AxleError(
                "until when",
                given=quoted(self.until),
                wanted="a date, a distance, hours, or the next service",
            )

    @property
    def lines(self) -> tuple[str, ...]:
        """The verdict as it stands on the sheet."""
        found = [f"{VERDICTS[self.verdict]}."]
        if self.work.strip():
            found.append(f"With: {self.work.strip()}.")
        if self.until.strip():
            found.append(f"Until: {self.until.strip()}.")
        return tuple(found)


@dataclass(frozen=True)
class ReuseLine:
    """One reading or finding held to what it may be when the axle is used on.

    :param words: one line.
    :param is_out: whether it is beyond its limit, or to be replaced.
    """

    words: str
    is_out: bool = False


def reuse(state: AxleState, found: Iterable[Found], display: Display) -> tuple[ReuseLine, ...]:
    """Hold what was read and seen to the sheet's limits for using the axle on.

    :param state: the axle, with its readings as received.
    :param found: the findings that stand.
    :param display: units of the words.
    :returns: readings, then findings, then the parts that nobody looked at.
    :source: the job's sheet; no play as received is common practice, no source.
    """
    reuse_lines: list[ReuseLine] = []
    for kind in _PLAY:
        play = state.latest(kind)
        if play is not None:
            shown = f"{display.show(play.value)} {display.length.symbol}"
            says = "none, as it should be" if not play.value else "play, where there should be none"
            reuse_lines.append(ReuseLine(f"{kind_named(kind).title} {shown}: {says}.", play.value > 0))
    for kind in _KEYS:
        reuse_lines += _readings(state, kind, display)
    rows = list(found)
    titles = parts()
    for row in rows:
        if row.sign != "sound":
            words = f"{titles[row.part].title}: {row.seen.title}, {row.decision} ({row.reason})."
            reuse_lines.append(ReuseLine(words, row.decision == "replace"))
    reuse_lines += [ReuseLine(line) for line in not_looked_at(rows)]
    return tuple(reuse_lines)


def check(verdict: InspectionVerdict, held: Iterable[ReuseLine]) -> None:
    """Refuse a verdict that passes over what is beyond its limit.

    :param verdict: what is to be signed.
    :param held: what was read and seen, by :func:`reuse`.
    :raises AxleError: for "serviceable" without a word on what is out.
    :source: common practice.
    """
    out = [line.words for line in held if line.is_out]
    if out and verdict.verdict == "serviceable" and len(verdict.work.strip()) < 4:
        raise AxleError(
            "verdict",
            given="serviceable",
            wanted="what is done about it, or another verdict",
            do=f"Beyond its limit: {out[0]}",
        )


def _readings(state: AxleState, kind: str, display: Display) -> list[ReuseLine]:
    taken = list(state.around(kind).values())
    if not taken:
        return []
    what = kind_named(kind)
    key = next((k for k in _KEYS[kind] if state.sheet.range(k) is not None), _KEYS[kind][0])
    limits: Range | None = state.sheet.range(key)
    unit = display.unit_for(what.dimension)
    values = ", ".join(display.show(t.value, what.dimension) for t in taken)
    worst = max((t.value for t in taken), key=lambda v: limits.miss(v) if limits else 0.0)
    line = against(
        limits,
        worst,
        source=state.sheet.source(key),
        unit=unit.symbol,
        display=display,
        dimension=what.dimension,
    )
    return [
        ReuseLine(
            f"{what.title} {values} {unit.symbol}. {line}", limits is not None and not limits.holds(worst)
        )
    ]
