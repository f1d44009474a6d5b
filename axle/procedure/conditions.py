"""The conditions under which a reading was taken: part of the reading, checked here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Final

from axle.errors import AxleError
from axle.gearset import Stance
from axle.units import BOLT_NEWTON_METRE, Unit, show

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

OIL_WORDS: Final = {"oiled": "lightly oiled", "dry": "dry", "soaked": "soaked in oil"}
ATTITUDE_WORDS: Final = {"nose_up": "nose up", "level": "level", "nose_down": "nose down"}
FIGURE_WORDS: Final = {"running": "running", "breakaway": "breakaway peak"}
NUT_WORDS: Final = {"final": "final nut", "used": "old nut", "set_up": "set-up nut"}
SLEEVE_WORDS: Final = {"in": "sleeve in", "out": "without the sleeve"}
BOUND_WORDS: Final = {"": "as read", "over": "more than that", "under": "less than that"}
INDICATOR_WORDS: Final = {"plunger": "plunger", "lever": "lever"}
STANCE_WORDS: Final = {
    "along": "in line with the motion",
    "square": "square to the flank",
    "unsure": "not sure how it stands",
}
CAPS_WORDS: Final = {"torqued": "caps torqued", "nipped": "caps nipped", "loose": "caps loose"}
PUSHED_WORDS: Final = {
    "": "no play",
    "away": "pushed away from the pinion",
    "towards": "pushed towards the pinion",
    "centred": "held in the middle",
}
SHOWS_WORDS: Final = {"travel": "its travel", "figure": "the figure pointed at"}


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
        ):
            value = getattr(self, name)
            if value not in words:
                raise AxleError(name, given=f"“{str(value)[:20]}”", wanted=", ".join(words))
        _number("torque at the nut", self.nut_torque, 0, 1500, "N·m")
        if isinstance(self.turned, (int, float)) and self.turned < 0:
            raise AxleError(
                "bite",
                given=f"{self.turned:g}°",
                wanted="a turn that tightens, 0° or more",
                do="A nut on a sleeve is never backed off: over the range means a new sleeve.",
            )
        _number("bite", self.turned, 0, 1080, "°")
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
        _number("indicator off its line", self.lean, 0, 45, "°")
        _number("radius touched", self.radius, 20, 300, "mm")
        if not isinstance(self.places, int) or not 3 <= self.places <= 12:
            raise AxleError("places", given=f"“{str(self.places)[:20]}”", wanted="3 to 12")

    @property
    def doubts(self) -> tuple[str, ...]:
        """Why the reading is kept but not judged: what it was read through."""
        found = [] if self.caps == "torqued" else [CAPS_WORDS[self.caps]]
        if not self.settled:
            found.append("bearings not stabilised")
        if not self.held:
            found.append("pinion not held")
        return tuple(found)


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
        _number("revolution of the dial", self.revolution, 0, 30, "mm")


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
    unknown = sorted(set(given) - known)
    if unknown:
        raise AxleError("condition", given=f"“{unknown[0]}”", wanted="one that this reading has")
    return shape(**given) if shape else None


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
    found = conditions_of(kind, given)
    if found is None:
        return {}
    # A reading that repeats none says nothing of it.
    told = {name: value for name, value in asdict(found).items() if value is not None}
    silent = {"again": False, "sleeve": "in", "bound": ""}
    return {name: value for name, value in told.items() if name not in silent or value != silent[name]}


def unlike(one: TorqueConditions, other: TorqueConditions) -> tuple[str, ...]:
    """Name what keeps two rotating torques from being held to each other.

    :param one: conditions of the one.
    :param other: conditions of the other.
    :returns: differences in words; none where the two may be mixed.
    :source: common practice; a nut within a tenth of the same torque is the same.

    >>> unlike(TorqueConditions(), TorqueConditions(seal=True))
    ('the seal in',)
    """
    found = []
    if other.seal != one.seal:
        found.append("the seal in" if other.seal else "no seal")
    for name, words in (("oil", OIL_WORDS), ("attitude", ATTITUDE_WORDS), ("figure", FIGURE_WORDS)):
        if getattr(other, name) != getattr(one, name):
            found.append(words[getattr(other, name)])
    if other.nut != one.nut:
        found.append(NUT_WORDS[other.nut])
    if other.sleeve != one.sleeve:
        found.append(SLEEVE_WORDS[other.sleeve])
    if (
        one.nut_torque
        and other.nut_torque
        and abs(other.nut_torque - one.nut_torque) > 0.1 * one.nut_torque
    ):
        found.append("another torque on the nut")
    return tuple(found)


def words_of(conditions: Conditions | None, bolts: Unit = BOLT_NEWTON_METRE) -> tuple[str, ...]:
    """Say in words what is not as usual, or is worth keeping in sight.

    :param conditions: of a reading.
    :param bolts: unit in which a nut's torque is said.
    :source: common practice.

    >>> words_of(TorqueConditions(oil="dry", turned=15))
    ('dry', 'nut turned 15°')
    """
    if isinstance(conditions, FeelerConditions) and conditions.binds is not None:
        if not conditions.passes:
            return (f"{conditions.binds:g} mm will not enter",)
        return (f"{conditions.passes:g} mm passes, {conditions.binds:g} mm binds",)
    if isinstance(conditions, DialConditions) and conditions.shows == "figure":
        return ("figure pointed at",)
    if isinstance(conditions, PullConditions):
        return () if conditions.settled else ("bearings not stabilised",)
    if isinstance(conditions, BacklashConditions):
        return _of_backlash(conditions)
    if not isinstance(conditions, TorqueConditions):
        return ()
    usual, found = TorqueConditions(), ["seal in"] if conditions.seal else []
    for name, words in (
        ("oil", OIL_WORDS),
        ("attitude", ATTITUDE_WORDS),
        ("figure", FIGURE_WORDS),
        ("nut", NUT_WORDS),
        ("sleeve", SLEEVE_WORDS),
        ("bound", BOUND_WORDS),
    ):
        if getattr(conditions, name) != getattr(usual, name):
            found.append(words[getattr(conditions, name)])
    if conditions.nut_torque is not None:
        found.append(f"nut at {show(conditions.nut_torque, bolts)} {bolts.symbol}")
    if conditions.turned is not None:
        found.append(f"nut turned {conditions.turned:g}°")
    if conditions.both is not None:
        found.append("read both ways")
    return tuple(found)


def _of_backlash(conditions: BacklashConditions) -> tuple[str, ...]:
    found = list(conditions.doubts)
    if conditions.pushed:
        found.append(PUSHED_WORDS[conditions.pushed])
    if conditions.indicator != "plunger":
        found.append("lever indicator")
    if conditions.lean:
        found.append(f"indicator {conditions.lean:g}° off")
    if conditions.radius is not None:
        found.append(f"read {conditions.radius:g} mm from the axis")
    return tuple(found)


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
