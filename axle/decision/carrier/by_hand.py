"""Schools of carrier preload that a hand judges: the last pack's taps, and an adjuster's steady torque."""

from __future__ import annotations

import math
from typing import Final

from axle.decision.carrier.explain import band_of
from axle.decision.carrier.plan import MOST_LOAD, plan_sides
from axle.decision.carrier.start import far_pack_interference
from axle.decision.move import Move
from axle.decision.pack_swap import CLOSE, make_swap, stale_after
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Display
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_now, ratios_now
from axle.stations.carrier_preload import interference_now, wanted_interference
from axle.stations.result import Outcome
from axle.stations.station_state import Standing

# A change of feel by one size of shim [mm]: 2 thou, common practice.
_ONE_SIZE: Final = 0.0508
# How well a backlash is foretold across the winding of the far side [mm]: a thou and a half, from memory.
_PREDICTED: Final = 0.038


def by_hand(state: AxleState, display: Display, standing: Standing) -> Move:
    """What to do after a judgement by hand: one size, or as many as the play that is known asks for.

    :param state: the axle.
    :param display: units of the words.
    :param standing: the carrier's preload as it stands.
    :source: common practice.
    """
    result = standing.result
    if standing.method.name == "pull" or result is None:
        title = "Wind the last adjuster on to its torque, turning the carrier between pulls"
        notes = ("A torque that falls when it is pulled again is still settling.",)
        return Move.look(title, standing.station, why=result.why if result else (), notes=notes)
    tight = result.outcome is Outcome.HEAVY_BLOWS
    known = None if tight else last_size(state, display, standing, read=True)
    if known is not None:
        return known
    change = -_ONE_SIZE if tight else _ONE_SIZE
    now = float(state.setting(Place.FAR))
    swap_made = make_swap(state, Place.FAR, now + state.layout.carrier_sign * change, display)
    if swap_made.swap is None or not swap_made.swap.change:
        return Move.look("No nearer last pack in the drawer", standing.station, why=result.why)
    title = "Take one size out of the last pack" if tight else "Add one size to the last pack"
    return Move.change(
        title,
        standing.station,
        swaps=(swap_made.swap,),
        expected=(),
        stales=stale_after([swap_made.swap], state),
        why=result.why,
        notes=("Judge it again as it goes in.",),
        others=swap_made.others,
    )


def last_size(state: AxleState, display: Display, standing: Standing, *, read: bool = False) -> Move | None:
    """The last pack by the play that was read: the taps then confirm its size instead of finding it.

    :param state: the axle.
    :param display: units of the words.
    :param standing: the carrier's preload as it stands.
    :param read: whether the taps were judged already on what is in.
    :returns: nothing where zero play is not known, or the last pack is as thick as that already.
    :source: common practice; ``schools.toml`` for how much goes in with light taps.
    """
    known, wanted = interference_now(state), wanted_interference(state)
    if known is None or wanted is None or (not read and not standing.missing):
        return None
    short = wanted.limits.aim - known[0]
    if known[0] >= wanted.limits.low or not float(CLOSE) < short <= MOST_LOAD:
        return None
    sign, unit = state.layout.carrier_sign, display.length.symbol
    swap_made = make_swap(state, Place.FAR, float(state.setting(Place.FAR)) + sign * short, display, CLOSE)
    if swap_made.swap is None or not swap_made.swap.change:
        return None
    play = f"{display.show(abs(known[0]))} {unit} {'of play is left' if known[0] < 0 else 'over zero play'}"
    why = (
        f"By {known[2].by} {play}; light taps come with {wanted.limits.words(display.length)} {unit} "
        f"({wanted.source}): {display.show(short)} {unit} more.",
    )
    return Move.change(
        "Fit the last pack by the play that was read",
        standing.station,
        swaps=(swap_made.swap,),
        expected=(),
        stales=stale_after([swap_made.swap], state),
        why=why,
        notes=(
            "Light taps confirm it; heavy blows, or one that slides in, say that something was misread.",
        ),
        others=swap_made.others,
    )


def before_the_pull(state: AxleState, display: Display) -> Move | None:
    """The middle stage of adjusters that are set by torque: backlash under its range, then the far side.

    :param state: the axle.
    :param display: units of the words.
    :returns: nothing where no backlash is read yet, or the gears lock.
    :source: common practice; what the far side opens by :mod:`axle.backlash.ratios` and the usual slope.
    """
    limits, lash = state.sheet.backlash_limits(), backlash_now(state)
    if limits is None or lash is None or lash.is_locked:
        return None  # locked gears are opened first
    ratios, unit = ratios_now(state), display.length.symbol
    opens = ratios.per_ring * ratios.share * far_pack_interference(state)
    smallest = lash.around.smallest
    under = Range(max(limits.low - opens, 0.0), max(limits.upper - opens, 0.0))
    told = (
        f"Winding the far side to its torque opens the backlash by about {display.show(opens)} {unit}: "
        f"{under.words(display.length)} {unit} before it comes to its range after."
    )
    if under.holds(smallest):
        predicted = band_of(
            "Smallest backlash", smallest + opens, math.hypot(_PREDICTED, opens * ratios.std)
        )
        return Move.read(
            "Wind the far adjuster to its torque",
            StationName.CARRIER_PRELOAD,
            expected=(predicted,),
            asks=((KindName.ADJUSTER_PULL, 1),),
            why=(told, kind_named(KindName.ADJUSTER_PULL).hint_on(state.layout)),
            notes=(
                "Caps nipped while it is wound, full torque for the reading. Turn the carrier between "
                "pulls.",
            ),
        )
    try:
        plan = plan_sides(state, display, backlash=max(limits.aim - opens, limits.low / 4))
    except AxleError as problem:
        return Move.look(
            "The adjusters cannot be planned", StationName.CARRIER_PRELOAD, why=(str(problem),)
        )
    if plan is None or not plan.changes:
        return None
    expected = () if plan.smallest is None else (band_of("Smallest backlash", *plan.smallest),)
    return Move.change(
        "Bring the backlash under its range first",
        StationName.CARRIER_PRELOAD,
        swaps=plan.swaps,
        expected=expected,
        stales=stale_after(list(plan.swaps), state),
        why=(told,),
        notes=plan.notes,
        others=plan.others,
    )
