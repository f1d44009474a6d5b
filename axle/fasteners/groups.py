"""The torque sheet of one axle: its groups of fasteners, their order and their stages."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError, quoted
from axle.fasteners.star_order import tightening_order
from axle.fasteners.threads import Thread, classes, plausible_torque, thread_named
from axle.measure.parse import unit_named
from axle.measure.range import Range
from axle.measure.units import FOOT_POUND, Display, Unit, brief
from axle.procedure.choices import Condition, Facts, condition_from, holds
from axle.procedure.scope import scope_of
from axle.spec.sheet import Sheet, spec_keys

# Nobody has looked at the part yet: what a group usually has is assumed.
_ASSUMED = frozenset({"count", "thread", "grade"})
# So many bolts are tightened in one stage.
_FEW = 2
# Under so much a torque is set in inch-pounds [N·m]: ten foot-pounds.
_SMALL = 10 * float(FOOT_POUND.factor)
SHAPES = ("circle", "rectangle", "caps", "pair", "pair_of_circles", "single")


@dataclass(frozen=True)
class Group:
    """A group of fasteners that is tightened together.

    :param group: its name in records.
    :param title: in the trade's words.
    :param shape: how the bolts lie: one of ``SHAPES``.
    :param count: number of bolts, 1 to 40.
    :param thread: thread by name.
    :param grade: class by name.
    :param hand: "right" or "left".
    :param coating: lubricant or threadlocker.
    :param new_only: whether the part is used once.
    :param wanted: wanted torque [N·m].
    :param source: where the torque comes from, in words.
    :param stages: shares of the wanted torque, rising to 1; a check pass follows where there are two
        bolts or more.
    :param after: groups that come before it.
    :param reading: reading kind that the last stage stores, or "".
    :param note: what people trip on.
    :param light: whether it is set on purpose to far less than the thread bears.
    :param assumed: fields that nobody looked at on the part in hand: "count", "thread", "grade".
    :param figures: torques that the note names, by name [N·m].
    :param trial: bolts that are enough in trials, or 0.
    :param at: station where they are turned.
    :raises AxleError: for a thread, class, count or torque that cannot be.
    """

    group: str
    title: str
    shape: str
    count: int
    thread: str
    grade: str
    hand: str
    coating: str
    new_only: bool
    wanted: Range
    source: str
    stages: tuple[float, ...]
    after: tuple[str, ...]
    reading: str
    note: str
    light: bool
    assumed: frozenset[str] = frozenset()
    figures: tuple[tuple[str, float], ...] = ()
    trial: int = 0
    at: str = "torque"

    def __post_init__(self) -> None:
        if self.shape not in SHAPES:
            raise AxleError(self.title, given=f"the shape “{self.shape}”", wanted=" or ".join(SHAPES))
        if not 1 <= self.count <= 40:
            raise AxleError(f"{self.title}, count", given=f"{self.count}", wanted="1 to 40")
        if self.grade not in classes():
            raise AxleError(f"{self.title}, class", given=f"“{self.grade}”", wanted=", ".join(classes()))
        if self.hand not in ("right", "left"):
            raise AxleError(f"{self.title}, hand", given=f"“{self.hand}”", wanted="right or left")
        if not 0 <= self.wanted.low <= self.wanted.high or not self.wanted.high > 0:
            raise AxleError(
                f"{self.title}, torque",
                given=f"{self.wanted.low:g} to {self.wanted.high:g} N·m",
                wanted="a lower and a higher figure, 0 or more",
            )
        thread_named(self.thread)

    @property
    def screw(self) -> Thread:
        """Its thread."""
        return thread_named(self.thread)

    def note_in(self, display: Display) -> str:
        """The note, its figures in the reader's unit.

        :param display: units of the words.
        """
        unit = display.bolt_torque
        shown = {name: f"{brief(value, unit)} {unit.symbol}" for name, value in self.figures}
        return self.note.format(**shown) if shown else self.note

    def unit_in(self, display: Display) -> Unit:
        """The unit of its torques: a small one has the rotating torque's, not whole foot-pounds.

        :param display: the reader's units.
        """
        top = self.wanted.high if self.wanted.has_top else self.wanted.low
        small = display.bolt_torque is FOOT_POUND and top < _SMALL
        return display.torque if small else display.bolt_torque

    @property
    def fastener(self) -> str:
        """Thread and class, marked where they are assumed."""
        words = f"{self.count} × {self.thread}, {self.grade}"
        if self.assumed & {"thread", "grade"}:
            return f"{words} (assumed: look at the part)"
        return words

    @property
    def order(self) -> tuple[int, ...]:
        """Bolt numbers in tightening order."""
        return tightening_order(self.shape, self.count)

    def targets(self, display: Display) -> tuple[Stage, ...]:
        """The stages with their torques, the check pass last where there are two bolts or more.

        :param display: units of the words.
        """
        unit = self.unit_in(display)
        stages = []
        for number, share in enumerate(self.stages, start=1):
            span = _share_of(self.wanted, share)
            words = f"{share:.0%}" if share < 1 else "full torque"
            stages.append(Stage(number, words, wanted=span, figures=span.words(unit)))
        if self.count > 1:
            last = stages[-1]
            stages.append(replace(last, number=last.number + 1, words="check pass"))
        return tuple(stages)

    def question(self, torque: float, typed: str) -> str:
        """Ask about a torque that cannot be meant for its thread and class, or say nothing.

        :param torque: as typed [N·m].
        :param typed: as typed, with its unit, for the words.
        """
        limits = plausible_torque(self.screw, self.grade)
        low = 0.0 if self.light else limits.low
        if torque >= low and not self.wanted.has_top:
            return ""  # at least so much, and the preload alone says how much more
        if low <= torque <= limits.high:
            return ""
        side = "more than" if torque > limits.high else "less than"
        band = f"{brief(low, FOOT_POUND)} to {brief(limits.high, FOOT_POUND)} ft·lb"
        other = torque / 12 if torque > limits.high else torque * 12
        mixed = ""
        if low <= other <= limits.high:
            meant, given = ("in·lb", "ft·lb") if torque > limits.high else ("ft·lb", "in·lb")
            mixed = f" Was it in {meant}, not {given}? 12 in·lb are 1 ft·lb."
        return f"{typed} is {side} a {self.thread} {self.grade} bears or is set to ({band}).{mixed}"


def _share_of(wanted: Range, share: float) -> Range:
    """A share of a wanted torque: on the way to a least figure there is a top, a tenth over it."""
    if share >= 1:
        return wanted
    high = wanted.high if wanted.has_top else wanted.low * 1.1
    target = None if wanted.target is None else wanted.target * share
    return Range(wanted.low * share, high * share, target)


@dataclass(frozen=True)
class Stage:
    """One pass over a group.

    :param number: from 1.
    :param words: what kind of pass it is.
    :param wanted: torque [N·m].
    :param figures: the same as the page shows it.
    """

    number: int
    words: str
    wanted: Range
    figures: str


def torque_sheet(
    facts: Facts, sheet: Sheet, corrected: Mapping[str, Mapping[str, Any]] | None = None
) -> tuple[Group, ...]:
    """Lay out the torque sheet of one axle.

    :param facts: what it is, as :class:`axle.procedure.choices.Build` gives them.
    :param sheet: its limits; a figure of the sheet comes before the usual one.
    :param corrected: fields by group that were corrected from the parts in hand.
    :returns: groups in the order in which they are tightened.
    :raises AxleError: for a correction that cannot be.
    :source: the job's sheet; ``groups.toml`` (common practice).
    """
    found = []
    left_out = scope_of(facts).groups
    given = corrected or {}
    for name, row in _rows().items():
        if name in left_out or not holds(row["when"], facts):
            continue
        limits = sheet.range(row["spec_key"])
        if limits is not None:
            wanted, source = limits, sheet.source(row["spec_key"])
        else:
            factor = float(FOOT_POUND.factor)
            wanted = Range(row["torque"][0] * factor, row["torque"][1] * factor)
            source = "common practice: the maker's figure comes first"
            if name == "nut" and facts["preload_by"] == "sleeve":
                wanted = Range(wanted.low, math.inf)  # the preload says how far a sleeve's nut goes
        hand = facts["bolt_hand"] if name == "ring" else "right"
        usual = row | (row["metric"] if sheet.is_metric and "metric" in row else {})
        group = Group(
            name,
            row["title"],
            shape=row["shape"],
            count=row["count"],
            thread=usual["thread"],
            grade=usual["grade"],
            hand=hand,
            coating=row["coating"],
            new_only=row["new_only"],
            wanted=wanted,
            source=source,
            stages=tuple(row["stages"]),
            after=tuple(row.get("after", ())),
            reading=row.get("reading", ""),
            note=row["note"],
            light=row.get("light", False),
            assumed=_ASSUMED,
            figures=_figures(row),
            trial=row.get("trial", 0),
            at=row.get("at", "torque"),
        )
        if name == "ring" and facts["ring_bolts"] == "dry_patch":
            group = replace(group, coating="dry patch, nothing added")
        found.append(corrected_group(group, given.get(name, {})))
    found += [own_group(name, row) for name, row in given.items() if row.get("own")]
    present = {group.group for group in found}
    return tuple(replace(g, after=tuple(a for a in g.after if a in present)) for g in _in_order(found))


def corrected_group(group: Group, given: Mapping[str, Any]) -> Group:
    """Correct a group from the parts in hand.

    :param group: as usual.
    :param given: new values by field: count, thread, grade, hand, coating, low and high [N·m], source.
    :returns: the corrected group.
    :raises AxleError: for a value that cannot be.
    :source: the builder.
    """
    plain = {name: given[name] for name in ("count", "thread", "grade", "hand", "coating") if name in given}
    plain["assumed"] = group.assumed - set(given)
    if "low" in given and "high" in given:
        plain["wanted"] = Range(float(given["low"]), float(given["high"]))
        plain["source"] = str(given.get("source", "")) or "entered at the bench"
    return replace(group, **plain)


def own_group(name: str, given: Mapping[str, Any]) -> Group:
    """A group of the shop's own: spindle bolts, spring U-bolts, whatever the axle has besides.

    :param name: its name in records.
    :param given: title, shape, count, thread, grade, hand, coating, low and high [N·m; high nothing for "at
        least"], source, after, note.
    :returns: the group, tightened in two stages where it has more than two bolts.
    :raises AxleError: for a value that cannot be.
    :source: the builder.

    >>> given = {"title": "Spring U-bolts", "count": 4, "thread": "1/2-20", "grade": "grade 5",
    ...          "low": 60.0, "high": 75.0}
    >>> own_group("own-1", given).fastener
    '4 × 1/2-20, grade 5'
    """
    title = str(given.get("title", "")).strip()
    if len(title) < 3:
        raise AxleError("group of fasteners", given=quoted(title), wanted="its name, a few words")
    count = int(given.get("count", 0))
    high = given.get("high")
    after = str(given.get("after", ""))
    wanted = Range(float(given.get("low", 0.0)), math.inf if high is None else float(high))
    return Group(
        name,
        title[:40],
        shape=str(given.get("shape", "circle")),
        count=count,
        thread=str(given.get("thread", "")),
        grade=str(given.get("grade", "")),
        hand=str(given.get("hand", "right")),
        coating=str(given.get("coating", "")) or "dry",
        new_only=bool(given.get("new_only")),
        wanted=wanted,
        source=str(given.get("source", "")) or "entered at the bench",
        stages=(0.5, 1.0) if count > _FEW else (1.0,),
        after=(after,) if after else (),
        reading="",
        note=str(given.get("note", "")).replace("{", "(").replace("}", ")"),
        light=True,
    )


def _in_order(groups: list[Group]) -> list[Group]:
    names = [group.group for group in groups]
    done: list[Group] = []
    rest = list(groups)
    while rest:
        ready = next(
            g for g in rest if all(a not in names or a in {d.group for d in done} for a in g.after)
        )
        rest.remove(ready)
        done.append(ready)
    return done


def _figures(row: Mapping[str, Any]) -> tuple[tuple[str, float], ...]:
    return tuple(
        (name, float(unit_named(unit).factor) * value)
        for name, (value, unit) in row.get("figures", {}).items()
    )


@cache
def _rows() -> Mapping[str, dict[str, Any]]:
    rows = read_table(__file__, "groups.toml", dict[str, Any])
    found: dict[str, dict[str, Any]] = {}
    for name, row in rows.items():
        if row["spec_key"] not in spec_keys():
            raise AxleError("groups.toml", given=f"“{row['spec_key']}”", wanted="a sheet's key")
        when: Condition = condition_from(f"groups.toml, {name}", row.get("when", {}))
        found[name] = row | {"when": when}
    return found


def condition_of(name: str) -> Condition:
    """The facts under which an axle has a group.

    :param name: as in ``groups.toml``.
    :raises AxleError: for a group that does not exist.
    :source: ``groups.toml``.

    >>> condition_of("locks")["carrier_by"]
    ('adjusters',)
    """
    if name not in _rows():
        raise AxleError("fasteners", given=f"“{name[:30]}”", wanted="a group of the torque sheet")
    condition: Condition = _rows()[name]["when"]
    return condition
