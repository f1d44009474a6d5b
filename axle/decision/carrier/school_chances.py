"""What each school of carrier preload can reach on a sheet's own range, before one is chosen."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from scipy.special import ndtr

from axle.carrier.schools import usual_interference
from axle.decision.carrier.play_first import interference_std, play_std, seats_std, worth_a_fit
from axle.depth.result import chance_within
from axle.measure.range import Range
from axle.measure.uncertainty import rectangular
from axle.measure.units import Dimension, Display, percent
from axle.preload.curve import CARRIER_SLOPE
from axle.state.axle_state import AxleState
from axle.state.priors import Priors, Quantity
from axle.stations.preload_readings import CARRIER, TORQUE_STEP, pack_std, usual_rise

# Readings of a torque that a careful builder takes; of the whole and of the pinion for a subtraction.
_ALONE_READ: Final = 2
_EACH_READ: Final = 3
# Less than this nobody calls a school sure on a range.
_NARROW: Final = 0.9
# Step between two blades, and of an indicator's play [mm].
_BLADES: Final = 0.0254
_TORQUES: Final = ("alone", "subtraction", "cover_tight")
_INTERFERENCES: Final = ("both_sides", "one_side", "feelers", "cover_loose")


@dataclass(frozen=True)
class SchoolChance:
    """How often a school's preload is right at the second assembly.

    :param school: as in ``choices.toml``.
    :param chance: of the carrier's preload alone, 0 to 1.
    :param words: what it rests on, one sentence.
    :param narrow: its range is narrow for what the school can tell.
    """

    school: str
    chance: float
    words: str
    narrow: bool


def school_chances(
    state: AxleState, display: Display, schools: tuple[str, ...]
) -> tuple[SchoolChance, ...]:
    """Chances of the schools that a job may choose, by this sheet's range, in the order given.

    :param state: the axle; its sheet and what is held of the shop count, nothing that was read.
    :param display: units of the words.
    :param schools: as in ``choices.toml``; those that neither read a torque nor set an interference are
        left out.
    :source: root of the sum of squares of what each school reads and what comes after it (JCGM 100:2008,
        5.1.2).
    """
    found = []
    for school in schools:
        told = (
            _by_torque(state, display, school)
            if school in _TORQUES
            else _by_interference(state, display, school)
        )
        if told is not None:
            half, std, words = told
            chance = float(ndtr(half / std) - ndtr(-half / std))
            found.append(SchoolChance(school, chance, words, narrow=chance < _NARROW))
    return tuple(found)


def _by_torque(state: AxleState, display: Display, school: str) -> tuple[float, float, str] | None:
    limits = state.sheet.range("carrier_preload")
    if limits is None or limits.aim <= 0:
        return None  # no preload is wanted: there is no torque to tell
    priors, rise, ratio = state.priors, usual_rise(CARRIER), state.gears.ratio
    after = rise * math.hypot(seats_std(priors), pack_std(priors), priors.of(Quantity.CARRIER_BED).spread)
    scale = priors.std(Quantity.WRENCH_SCALE) * limits.aim
    shown = display.torque
    if school != "subtraction":
        read = _once(priors, limits.aim) / math.sqrt(_ALONE_READ)
        std = math.hypot(read, after, scale)
        known = percent(std / limits.aim)
        words = f"read alone {_ALONE_READ} times, it is known to ± {known} once it has settled"
        return _half(limits), std, words
    pinion = state.preload_range()
    alone = pinion.aim if pinion else CARRIER_SLOPE.torque
    whole = alone + limits.aim / ratio
    each = math.hypot(_once(priors, alone), _once(priors, whole)) / math.sqrt(_EACH_READ)
    mesh = priors.of(Quantity.MESH_DRAG).spread
    std = math.hypot(ratio * math.hypot(each, mesh), after, scale)
    wide = display.show(_half(limits) * 2 / ratio, Dimension.TORQUE)
    words = (
        f"at the pinion the range is {wide} {shown.symbol} wide; pinion and whole read {_EACH_READ} times "
        f"each, every error times {ratio:.2f}"
    )
    return _half(limits), std, words


def _by_interference(state: AxleState, display: Display, school: str) -> tuple[float, float, str] | None:
    own = state.sheet.range("carrier_interference")
    usual = usual_interference().get(school)
    if school not in _INTERFERENCES:
        return None
    if own is None and usual is None:
        return None
    limits = own or Range(usual.low, usual.high) if usual else own
    if limits is None or limits.upper <= limits.low:
        return None
    priors = state.priors
    gaps = 2 if school == "both_sides" else 1
    hand = math.hypot(priors.centre(Quantity.FEELER_SCATTER), rectangular(_BLADES)) / math.sqrt(_ALONE_READ)
    zero = math.hypot(hand * math.sqrt(gaps), gaps * priors.std(Quantity.FEELER_FEEL))
    by_feelers, by_play = (interference_std(u, priors) for u in (zero, play_std(priors)))
    half, std, by = _half(limits), by_feelers, "feelers"
    if chance_within(0.0, by_play, half) - chance_within(0.0, by_feelers, half) >= worth_a_fit(
        state.layout
    ):
        std, by = by_play, "an indicator, on packs that are left loose first"
    known = f"{display.show(std)} {display.length.symbol}"
    return half, std, f"zero play by {by}, packs and seats: the interference is known to ± {known}"


def _once(priors: Priors, torque: float) -> float:
    hand, share = priors.centre(Quantity.TORQUE_SCATTER), priors.centre(Quantity.TORQUE_SHARE)
    return math.hypot(rectangular(TORQUE_STEP), hand, share * torque)


def _half(limits: Range) -> float:
    return (limits.upper - limits.low) / 2
