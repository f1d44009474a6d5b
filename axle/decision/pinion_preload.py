"""Moves of the pinion's preload: a pack to start from, the next pack, the next bite of the nut."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from axle.decision.move import Expected, Move, Swap, look
from axle.decision.pack_swap import CLOSE, make_swap, stale_after
from axle.layout import Place, PreloadBy
from axle.measure.range import Range
from axle.measure.units import Dimension, Display, percent, show
from axle.preload.bites import BiteVerdict, NextBite
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.stations.mesh import is_in_mesh
from axle.stations.pinion_preload import bite_for, bites_of
from axle.stations.pinion_trials import (
    PreloadPack,
    Trials,
    bearings_change,
    preload_packs,
    preload_start,
    trials_of,
    wanted_pack,
)
from axle.stations.result import aim_words
from axle.stations.station_state import Standing


def start_preload(state: AxleState, display: Display) -> Move | None:
    """A preload pack to start from, where nothing is fitted yet.

    :param state: the axle.
    :param display: units of the words.
    :returns: nothing without a preload pack, or when the drawer has nothing near.
    :source: :func:`axle.stations.pinion_trials.preload_start`.
    """
    start = preload_start(state)
    if start is None or state.setting(Place.PRELOAD):
        return None
    thickness, source = start
    swap_made = make_swap(state, Place.PRELOAD, thickness, display, Decimal("0.0254"), Decimal("0.0762"))
    if swap_made.swap is None or swap_made.note:
        return None
    why = (
        f"{display.show(thickness)} {display.length.symbol}: {source}.",
        "Loose is safe: end play tells at once how much is to come out.",
    )
    notes: tuple[str, ...] = ("Nut to its torque, then end play, then rotating torque.",)
    unknown = not state.old_packs.get(Place.PRELOAD) and state.sheet.single("preload_start") is None
    if state.layout.preload_by is PreloadBy.STEP and unknown:
        notes = (
            "Nobody knows how thick a stack against a step is before it is tried: build it up by hand "
            "until there is play at a finger-tight nut, record it, and only then give the nut its torque.",
            *notes,
        )
    return Move.change(
        "Fit a preload pack to start from",
        StationName.PINION_PRELOAD,
        swaps=(swap_made.swap,),
        expected=(),
        stales=stale_after([swap_made.swap], state),
        why=why,
        notes=notes,
        others=swap_made.others,
    )


def carried_preload(state: AxleState, display: Display) -> Move | None:
    """The pack for other bearings, by their heights and widths, before anything is read on them.

    :param state: the axle.
    :param display: units of the words.
    :returns: nothing where the bearings were not changed, their sizes are not known, or it is in.
    :source: :func:`axle.depth.allowances.preload_for_bearings`; the coupling of the stacks.
    """
    read = [t for t in state.readings if t.kind == KindName.PINION_TORQUE and t.settings.get(Place.PRELOAD)]
    last = max(read, key=lambda t: t.order, default=None)
    if last is None or last.settings.at(Place.BEARINGS) == state.setting(Place.BEARINGS):
        return None
    change = bearings_change(state, 2 if state.trial == "setup" else 1, 3)
    if change is None:
        return None
    deeper = float(state.setting(Place.DEPTH) - last.settings.at(Place.DEPTH))
    coupled = state.layout.preload_per_depth * deeper
    before = float(last.settings[Place.PRELOAD])
    wanted = before + change + coupled
    if abs(wanted - float(state.setting(Place.PRELOAD))) <= float(CLOSE):
        return None
    swap_made = make_swap(state, Place.PRELOAD, wanted, display)
    if swap_made.swap is None or not swap_made.swap.change:
        return None
    unit = display.length.symbol
    why = [
        f"{display.show(before)} {unit} read {display.show(last.value, Dimension.TORQUE)} "
        f"{display.torque.symbol} on the bearings before.",
        f"Heights and widths of the final ones: {show(change, display.length, sign=True)} {unit}.",
    ]
    if coupled:
        why.append(f"Coupled depth change since: {show(coupled, display.length, sign=True)} {unit}.")
    return Move.change(
        "Fit the preload pack for the final bearings",
        StationName.PINION_PRELOAD,
        swaps=(swap_made.swap,),
        expected=(),
        stales=stale_after([swap_made.swap], state),
        why=tuple(why),
        notes=(
            *((swap_made.note,) if swap_made.note else ()),
            "Then the torque is read again, as the last check.",
        ),
        others=swap_made.others,
    )


def preload_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """The next pack, or the next bite of the nut, from what was read.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :source: the fitted curve; middle of the range; common practice for a sleeve.
    """
    standing = standings[StationName.PINION_PRELOAD]
    limits = state.preload_range()
    if limits is None or standing.result is None or not standing.result.decided:
        return look(standing)
    if not state.layout.has_preload_pack:
        return _sleeve_move(state, display, standing, limits)
    trials = trials_of(state)
    if trials.curve is None:
        return look(standing)
    why = (*standing.result.why, *_trial_words(trials, limits, state, display))
    if trials.contradictions and trials.readings[-1].count == 1:
        # A pack made from readings that cannot both be right is an assembly lost.
        return Move.read(
            f"Read again: {kind_named(trials.readings[-1].kind).title.lower()}",
            StationName.PINION_PRELOAD,
            asks=((trials.readings[-1].kind, 1),),
            why=(*trials.contradictions, *why),
            again=True,
        )
    packs = preload_packs(state, trials, limits)
    best = next((p for p in packs if p.pack.thickness != state.setting(Place.PRELOAD)), None)
    notes = list(trials.contradictions)
    if best is None:
        notes.append("No nearer pack can be made: order shims, or sign it with a reason.")
        return Move.look(
            "No nearer preload pack in the drawer", StationName.PINION_PRELOAD, why=why, notes=tuple(notes)
        )
    wanted = wanted_pack(state, limits)
    swap = Swap(
        Place.PRELOAD, state.setting(Place.PRELOAD), after=best.pack.thickness, pack=best.pack, asked=wanted
    )
    torque = Expected.around("Pinion rotating torque", best.torque, best.std, Dimension.TORQUE)
    notes.append(f"In range: {percent(best.probability)} sure{_lean(best)}.")
    notes.append("The depth shim stays.")
    others = tuple((Place.PRELOAD, p.pack) for p in packs if p is not best)
    return Move.change(
        "Change the preload pack",
        StationName.PINION_PRELOAD,
        swaps=(swap,),
        expected=(torque,),
        stales=stale_after([swap], state),
        why=why,
        notes=tuple(notes),
        others=others,
    )


def _trial_words(trials: Trials, limits: Range, state: AxleState, display: Display) -> list[str]:
    count, curve = len(trials.used), trials.curve
    words = []
    if curve is not None:
        wanted = float(wanted_pack(state, limits))
        how = ", slope from usual bearings" if count == 1 else ", fitted"
        words = [
            f"{count} trial{'s' if count > 1 else ''}; torque follows interference to the power 10/9{how}.",
            f"{display.show(limits.aim, Dimension.TORQUE)} {display.torque.symbol}{aim_words(limits)}, "
            f"is expected at {display.show(wanted)} {display.length.symbol} of "
            "preload pack; a thicker pack is looser.",
        ]
    if trials.left_out:
        words.append(f"Left out, since unlike is not mixed: {'; '.join(trials.left_out)}.")
    return words


def _lean(pack: PreloadPack) -> str:
    if pack.under > 2 * pack.over and pack.under > 0.1:
        return f"; {percent(pack.under)} that it is still loose"
    if pack.over > 2 * pack.under and pack.over > 0.1:
        return f"; {percent(pack.over)} that it is too tight"
    return ""


def _sleeve_move(state: AxleState, display: Display, standing: Standing, limits: Range) -> Move:
    why = standing.result.why if standing.result else ()
    if is_in_mesh(state):
        why = ("The carrier comes out first: in mesh nobody reads what the nut does to the pinion.", *why)
    bite, log = bite_for(state), bites_of(state)
    if bite is None:
        return Move.tighten(
            "Tighten the nut until the play is gone",
            StationName.PINION_PRELOAD,
            why=why,
            notes=("Then small bites, and read the torque after each.",),
        )
    if bite.verdict is BiteVerdict.NEW_SLEEVE:
        return Move.replace_sleeve(
            "Fit a new sleeve",
            StationName.PINION_PRELOAD,
            why=why,
            notes=(
                "Over the range: the sleeve is spent. Never back the nut off.",
                "Many shops fit a new outer bearing too. The step “replace the sleeve” says how; "
                "then start again in small bites.",
            ),
        )
    if bite.verdict is BiteVerdict.STOP:
        # Only seen while something else holds the station: the nut itself is done.
        return Move.look("Stop: the nut is not touched again", StationName.PINION_PRELOAD, why=why)
    if len(log) > 1 and log[-1].torque < log[-2].torque - 0.1:
        notes = ("A bite that loosens is not one: settle the bearings both ways, and read again.",)
        return Move.tighten(
            "Settle the bearings and read again", StationName.PINION_PRELOAD, why=why, notes=notes
        )
    return _bite_move(bite, why, display)


def _bite_move(bite: NextBite, why: tuple[str, ...], display: Display) -> Move:
    notes = ["Read the torque after every bite: a quarter turn can jump to the limit."]
    if bite.unit == "of the last":
        title = f"Tighten the nut: {percent(bite.amount)} of the last bite"
        notes.append("Enter how far the nut was turned, and the next bite can be worked out.")
        return Move.tighten(title, StationName.PINION_PRELOAD, why=why, notes=tuple(notes))
    bolts = display.bolt_torque
    more = f"{show(bite.amount, bolts)} {bolts.symbol} more at the nut"
    amount = f"{bite.amount:.0f}°" if bite.unit == "°" else more
    expected = Expected("Pinion rotating torque", bite.low, high=bite.high, dimension=Dimension.TORQUE)
    notes.append(f"Chance to pass the range: {percent(bite.over)}; to end in it: {percent(bite.inside)}.")
    lines = (
        *why,
        "The largest bite that keeps the chance of overshoot under what was chosen, up to the "
        "middle of the range.",
    )
    return Move.tighten(
        f"Tighten the nut by {amount}",
        StationName.PINION_PRELOAD,
        swaps=(),
        expected=(expected,),
        stales=(),
        why=lines,
        notes=tuple(notes),
        amount=bite.amount if bite.unit == "°" else 0.0,
    )
