"""Zero play by the indicator, where the range is too narrow for what feelers tell of it.

Two gaps by feelers are known to a thou or so. Packs that leave a little play let an indicator read the
rest of it, several times closer; they are then made up to the interference that is wanted.
"""

from __future__ import annotations

import math
from typing import Final

from axle.decision.costs import minutes
from axle.decision.move import Move
from axle.depth.result import chance_within
from axle.layout import Layout, Place
from axle.measure.uncertainty import rectangular
from axle.measure.units import Display, percent
from axle.procedure.names import KindName, StationName
from axle.state.axle_state import AxleState
from axle.state.priors import Priors, Quantity
from axle.stations.carrier_preload import BY_INTERFERENCE, wanted_interference
from axle.stations.method import chosen_method
from axle.stations.preload_readings import pack_std
from axle.stations.zero_play import ZeroPlay, interference_setting, sides_are_set, zero_play

# What an axle costs that comes back out of range [min], two days of work: a second fit of the packs has to
# add as much to the chance of coming in range as its minutes are of that. From memory.
_COMES_BACK: Final = 840.0
# Play that is aimed at [mm], 3 thou, and how many standard deviations of zero play at the least: some play
# is left then, whatever the feelers missed.
_PLAY: Final = 0.0762
_SURELY: Final = 3.0
# The play is read so often, on an indicator of this step [mm].
_READ: Final = 2
_STEP: Final = 0.0127
_SIDES: Final = (Place.RING, Place.FAR)


def seats_std(priors: Priors) -> float:
    """By how much both sides together differ from one coming together to the next [mm].

    :param priors: what is held of each side.
    :source: root of the sum of squares (JCGM 100:2008, 5.1.2).
    """
    return math.sqrt(2) * priors.std(Quantity.SIDE_SEAT)


def interference_std(zero: float, priors: Priors) -> float:
    """How well an interference is known once the axle has run under load [mm].

    :param zero: standard deviation of zero play as it was read [mm], 0 or more.
    :param priors: what is held of seats, packs and bearings.
    :source: root of the sum of squares (JCGM 100:2008, 5.1.2): zero play, how both sides sit, their packs,
        and what new bearings lose at first load.
    """
    return math.hypot(zero, seats_std(priors), pack_std(priors), priors.of(Quantity.CARRIER_BED).spread)


def play_std(priors: Priors) -> float:
    """How well zero play is known by an end play that was read twice [mm]: the hand, and how it sat then.

    :param priors: what is held of hands and seats.
    :source: as for :func:`interference_std`.
    """
    once = math.hypot(priors.centre(Quantity.INDICATOR_SCATTER), rectangular(_STEP))
    lean = priors.std(Quantity.INDICATOR_LEAN) * _PLAY
    return math.hypot(once / math.sqrt(_READ), lean, seats_std(priors))


def loose_by(state: AxleState) -> float | None:
    """By how much the first packs are left loose, so that the indicator reads the play [mm].

    :param state: the axle, its zero play found by feelers.
    :returns: nothing where feelers tell enough for the range, or nothing is known of zero play yet.
    :source: chance of coming in range with and without it; 3 thou by common practice.
    """
    wanted, zero = wanted_interference(state), zero_play(state)
    by_packs = chosen_method(state, StationName.CARRIER_PRELOAD).name in BY_INTERFERENCE
    if wanted is None or zero is None or not by_packs:
        return None
    if state.layout.has_adjusters or zero.by_indicator or wanted.limits.low < 0:
        return None
    without, with_play = _chances(state, zero)
    return (
        max(_PLAY, _SURELY * zero.uncertainty) if with_play - without >= worth_a_fit(state.layout) else None
    )


def worth_a_fit(layout: Layout) -> float:
    """What a second fit of the side packs has to add to the chance of coming in range [1].

    :param layout: of the axle.
    :source: ``costs.toml`` for its minutes; what an axle costs that comes back, from memory.
    """
    return minutes(layout, _SIDES) / _COMES_BACK


def _chances(state: AxleState, zero: ZeroPlay) -> tuple[float, float]:
    """Chance that the interference comes in range, by feelers and by the indicator."""
    wanted = wanted_interference(state)
    if wanted is None:
        return 1.0, 1.0
    half = (wanted.limits.upper - wanted.limits.low) / wanted.kept / 2
    stds = (interference_std(u, state.priors) for u in (zero.uncertainty, play_std(state.priors)))
    without, with_play = (chance_within(0.0, std, half) for std in stds)
    return without, with_play


def loose_line(state: AxleState, display: Display) -> str:
    """Why the first packs are left loose, in words.

    :param state: the axle, its zero play found by feelers.
    :param display: units of the words.
    :source: :func:`loose_by`.
    """
    zero, loose = zero_play(state), loose_by(state)
    if zero is None or loose is None:
        return ""
    without, with_play = _chances(state, zero)
    unit = display.length.symbol
    known = f"{display.show(zero.uncertainty)} {unit}"
    return (
        f"The range is narrow for feelers: zero play is known to ± {known}, "
        f"and {percent(without)} of such packs come in range. Left {display.show(loose)} {unit} loose, "
        f"the indicator reads the play, and {percent(with_play)} do."
    )


def read_play(state: AxleState, display: Display) -> Move | None:
    """The end play of packs that were left loose, twice.

    :param state: the axle.
    :param display: units of the words.
    :returns: nothing where packs are tight, feelers tell enough, or it was read on these packs.
    :source: common practice: an indicator tells play, feelers only that a blade enters.
    """
    zero = zero_play(state)
    if zero is None or not sides_are_set(state):
        return None
    newest = state.latest(KindName.CARRIER_END_PLAY)
    here = newest is not None and newest.settings.same_at(state.settings, _SIDES)
    if newest is not None and here and (newest.count >= _READ or not newest.value):
        return None
    loose = zero.interference_setting - interference_setting(state, state.settings)
    if not here and (loose_by(state) is None or loose < _SURELY / 2 * zero.uncertainty):
        return None
    why = (
        f"The packs should leave {display.show(max(loose, 0.0))} {display.length.symbol} of play. What the "
        "indicator reads of it tells where zero play lies, closer than feelers do.",
    )
    return Move.read(
        "Read: end play of the carrier" if not here else "Read once more: end play of the carrier",
        StationName.CARRIER_PRELOAD,
        asks=((KindName.CARRIER_END_PLAY, 1),),
        why=why,
        again=here,
    )
