"""The conditions under which a reading was taken: part of the reading, checked here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Final

from axle.errors import AxleError
from axle.gearset import Stance
from axle.procedure.condition_words import (
    ATTITUDE_WORDS,
    BOUND_WORDS,
    CAPS_WORDS,
    FIGURE_WORDS,
    INDICATOR_WORDS,
    MESH_WORDS,
    NUT_WORDS,
    OIL_WORDS,
    PUSHED_WORDS,
    SHOWS_WORDS,
    SLEEVE_WORDS,
    STANCE_WORDS,
)

_TORQUES = (
    "pinion_torque",
    "total_torque",
    "carrier_torque",
    "arrival_total_torque",
    "arrival_pinion_torque",
)
_RUNS = ("ring_run", "flange_run")
_BACKLASHES = ("backlash", "arrival_backlash", "spacer_backlash", "held_backlash")
_FEELERS = ("depth_feeler", "bar_gap", "gap_ring", "gap_far", "spacer_play")
_PULLS = ("adjuster_pull",)
_DIALS = ("dial_travel",)


@dataclass(frozen=True)
class TorqueConditions:
    """How a rotating torque was read.

    :param seal: whether the seal was in; such a figure is not held to a range without seal.
    :param oil: how the bearings were oiled.
    :param attitude: how the pinion lay.
    :param figure: steady running, or the breakaway peak.
    :param nut: which nut drew the stack together.
    :param bound: "over" where it turned harder than the figure, "under" where it turned easier, else "".
    :param sleeve: whether the collapsible sleeve was in, on an axle that has one.
    :param nut_torque: torque at that nut [N·m], or nothing.
    :param turned: how far the nut was turned since the reading before [degrees], or nothing.
    :param both: the two figures of a reading taken both ways [N·m], or nothing.
    :param again: it repeats the reading before it, and their mean counts.
    :param mesh: "parted" where the mesh was parted for it, "before" where it was read before the carrier
        went in, else "".
    """

    seal: bool = False
    oil: str = "oiled"
    attitude: str = "nose_up"
    figure: str = "running"
    nut: str = "final"
    sleeve: str = "in"
    bound: str = ""
    nut_torque: float | None = None
    turned: float | None = None
    both: list[float] | None = None
    again: bool = False
    mesh: str = ""

    def __post_init__(self) -> None:
        if not isinstance(self.seal, bool):
            raise AxleError("seal", given=f"“{self.seal}”", wanted="in or not in")
        if not isinstance(self.again, bool):
            raise AxleError("read again", given=f"“{str(self.again)[:20]}”", wanted="yes or no")
        for name, words in (
            ("oil", OIL_WORDS),
            ("attitude", ATTITUDE_WORDS),
            ("figure", FIGURE_WORDS),
            ("nut", NUT_WORDS),
            ("sleeve", SLEEVE_WORDS),
            ("bound", BOUND_WORDS),
            ("mesh", MESH_WORDS),
        ):
            value = getattr(self, name)
            if value not in words:
                raise AxleError(name, given=f"“{str(value)[:20]}”", wanted=", ".join(words))
        _number("torque at the nut", self.nut_torque, least=0, most=1500, unit="N·m")
        if isinstance(self.turned, (int, float)) and self.turned < 0:
            raise AxleError(
                "bite",
                given=f"{self.turned:g}°",
                wanted="a turn that tightens, 0° or more",
                do="A nut on a sleeve is never backed off: over the range means a new sleeve.",
            )
        _number("bite", self.turned, least=0, most=1080, unit="°")
        if self.both is not None and len(self.both) != 2:
            raise AxleError("both ways", given=f"{len(self.both)} figures", wanted="two")


@dataclass(frozen=True)
class BacklashConditions:
    """How backlash was read.

    :param stance: which way the indicator's tip moved at the heel.
    :param indicator: plunger, or lever whose tip moves square to it.
    :param lean: degrees by which it stood off that stance.
    :param radius: where it touched [mm from the axis], or nothing for the heel.
    :param caps: how tight the bearing caps were, or the covers' bolts.
    :param settled: whether the bearings were stabilised by turning.
    :param held: whether the pinion was held.
    :param pushed: where the carrier was pushed while it had play, or "" where it had none.
    :param places: n, number of places around the ring that the reading's place counts in.
    :param again: it repeats the reading before it, and their mean counts.
    """

    stance: str = Stance.ALONG.value
    indicator: str = "plunger"
    lean: float = 0.0
    radius: float | None = None
    caps: str = "torqued"
    settled: bool = True
    held: bool = True
    pushed: str = ""
    places: int = 4
    again: bool = False

    def __post_init__(self) -> None:
        if self.stance not in {stance.value for stance in Stance}:
            raise AxleError("indicator", given=f"“{self.stance}”", wanted=" or ".join(STANCE_WORDS))
        for name, value, words in (
            ("indicator", self.indicator, INDICATOR_WORDS),
            ("caps", self.caps, CAPS_WORDS),
            ("carrier", self.pushed, PUSHED_WORDS),
        ):
            if value not in words:
                raise AxleError(name, given=f"“{str(value)[:20]}”", wanted=" or ".join(filter(None, words)))
        for name, flag in (("bearings", self.settled), ("pinion", self.held), ("read again", self.again)):
            if not isinstance(flag, bool):
                raise AxleError(name, given=f"“{str(flag)[:20]}”", wanted="yes or no")
        _number("indicator off its line", self.lean, least=0, most=45, unit="°")
        _number("radius touched", self.radius, least=20, most=300, unit="mm")
        if not isinstance(self.places, int) or not 3 <= self.places <= 12:
            raise AxleError("places", given=f"“{str(self.places)[:20]}”", wanted="3 to 12")

    @property
    def doubts(self) -> tuple[str, ...]:
        """Why the reading is kept but not judged: what it was read through."""
        lines = [] if self.caps == "torqued" else [CAPS_WORDS[self.caps]]
        if not self.settled:
            lines.append("bearings not stabilised")
        if not self.held:
            lines.append("pinion not held")
        return tuple(lines)


@dataclass(frozen=True)
class PullConditions:
    """How the last adjuster's torque was read.

    :param settled: whether the carrier was turned between pulls until the torque held.
    """

    settled: bool = True

    def __post_init__(self) -> None:
        if not isinstance(self.settled, bool):
            raise AxleError("bearings", given=f"“{str(self.settled)[:20]}”", wanted="yes or no")


@dataclass(frozen=True)
class RunConditions:
    """Which run around the ring a reading belongs to.

    :param run: number of the run on its job, from 1.
    :param places: n, number of places of the run.
    :param turn: which turn, from 1.
    """

    run: int = 1
    places: int = 8
    turn: int = 1

    def __post_init__(self) -> None:
        for name, least, most in (("run", 1, 999), ("places", 3, 72), ("turn", 1, 12)):
            value = getattr(self, name)
            if not isinstance(value, int) or not least <= value <= most:
                raise AxleError(name, given=f"“{value}”", wanted=f"{least} to {most}")


@dataclass(frozen=True)
class FeelerConditions:
    """What feelers told: one blade that drags, or the two that a gap lies between.

    :param passes: thickest blade that passes freely [mm], 0 where none will enter; or nothing.
    :param binds: thinnest that will not enter [mm], or nothing.
    """

    passes: float | None = None
    binds: float | None = None

    def __post_init__(self) -> None:
        if (self.passes is None) != (self.binds is None):
            raise AxleError(
                "feeler", given="one end of an interval", wanted="both, or one blade that drags"
            )
        if self.passes is not None and self.binds is not None and not 0 <= self.passes < self.binds:
            raise AxleError(
                "feeler",
                given=f"{self.passes:g} to {self.binds:g} mm",
                wanted="the blade that passes, then the thicker one that binds",
            )


@dataclass(frozen=True)
class DialConditions:
    """What a dial over its plate shows.

    :param shows: its travel off the plate, or the figure pointed at.
    :param revolution: one revolution of the dial [mm]; wanted for the figure pointed at.
    """

    shows: str = "travel"
    revolution: float | None = None

    def __post_init__(self) -> None:
        if self.shows not in SHOWS_WORDS:
            raise AxleError("dial", given=f"“{str(self.shows)[:20]}”", wanted="travel or figure")
        if self.shows == "figure" and not self.revolution:
            raise AxleError(
                "dial",
                given="the figure pointed at, without its revolution",
                wanted="how much one revolution of the dial is",
            )
        _number("revolution of the dial", self.revolution, least=0, most=30, unit="mm")


Conditions = (
    TorqueConditions
    | BacklashConditions
    | RunConditions
    | FeelerConditions
    | DialConditions
    | PullConditions
)
_SHAPES: Final[tuple[tuple[tuple[str, ...], type[Conditions]], ...]] = (
    (_TORQUES, TorqueConditions),
    (_BACKLASHES, BacklashConditions),
    (_RUNS, RunConditions),
    (_FEELERS, FeelerConditions),
    (_DIALS, DialConditions),
    (_PULLS, PullConditions),
)


def conditions_of(kind: str, given: Mapping[str, Any]) -> Conditions | None:
    """Read the conditions of a reading; what is not said is as usual.

    :param kind: as in ``readings.toml``.
    :param given: conditions by name; none for a kind that has none.
    :returns: the conditions, or nothing for a kind that has none.
    :raises AxleError: for a condition that the kind does not have, or a value it cannot have.
    :source: common practice.

    >>> conditions_of("pinion_torque", {"oil": "dry"}).oil
    'dry'
    """
    shape = next((shape for kinds, shape in _SHAPES if kind in kinds), None)
    known = set(shape.__dataclass_fields__) if shape else set()
    # Whatever is read can be read again.
    unknown = sorted(set(given) - known - {"again"})
    if unknown:
        raise AxleError("condition", given=f"“{unknown[0]}”", wanted="one that this reading has")
    if not isinstance(given.get("again", False), bool):
        raise AxleError("read again", given=f"“{str(given['again'])[:20]}”", wanted="yes or no")
    return shape(**{name: value for name, value in given.items() if name in known}) if shape else None


def checked(kind: str, given: Mapping[str, Any]) -> dict[str, Any]:
    """Check the conditions of a reading and leave out what nobody said.

    :param kind: as in ``readings.toml``.
    :param given: conditions by name; none for a kind that has none.
    :returns: plain data, as it is kept beside the reading.
    :raises AxleError: for a condition that the kind does not have, or a value it cannot have.
    :source: common practice.

    >>> checked("depth_feeler", {})
    {}
    """
    conditions = conditions_of(kind, given)
    told = {} if conditions is None else asdict(conditions)
    # A reading that repeats none says nothing of it.
    told = {
        name: value
        for name, value in (told | {"again": given.get("again", False)}).items()
        if value is not None
    }
    silent = {"again": False, "sleeve": "in", "bound": "", "mesh": ""}
    return {name: value for name, value in told.items() if name not in silent or value != silent[name]}


def has_stance(kind: str) -> bool:
    """Say whether a kind depends on how the indicator stands.

    :param kind: as in ``readings.toml``.
    :source: common practice.

    >>> has_stance("backlash")
    True
    """
    return kind in _BACKLASHES


def has_seal(kind: str) -> bool:
    """Say whether a kind can be read with a seal in; such a kind has all of a torque's conditions.

    :param kind: as in ``readings.toml``.
    :source: common practice.

    >>> has_seal("backlash")
    False
    """
    return kind in _TORQUES


def is_feeler(kind: str) -> bool:
    """Say whether a kind is read with feelers, and may be an interval.

    :param kind: as in ``readings.toml``.
    :source: common practice.

    >>> is_feeler("bar_gap")
    True
    """
    return kind in _FEELERS


def has_pull(kind: str) -> bool:
    """Say whether a kind is the torque of an adjuster, which asks whether the bearings had settled.

    :param kind: as in ``readings.toml``.
    :source: common practice.

    >>> has_pull("adjuster_pull")
    True
    """
    return kind in _PULLS


def has_dial(kind: str) -> bool:
    """Say whether a kind is read on a dial that may mean the figure pointed at.

    :param kind: as in ``readings.toml``.
    :source: from memory.

    >>> has_dial("dial_travel")
    True
    """
    return kind in _DIALS


def _number(what: str, value: object, least: float, most: float, unit: str) -> None:
    if value is None:
        return
    if not isinstance(value, (int, float)) or isinstance(value, bool) or not least <= value <= most:
        raise AxleError(what, given=f"“{str(value)[:20]}”", wanted=f"{least:g} to {most:g} {unit}")
