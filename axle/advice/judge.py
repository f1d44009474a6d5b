"""Judgement over the whole axle: question, print, change or leave, once it is together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from axle.advice.chance import Chances, chances
from axle.advice.held import depth_held
from axle.advice.lash import lash_now
from axle.advice.moves import Act, Move
from axle.advice.seats import sides_are_set
from axle.advice.standing import Standing, in_hand
from axle.advice.state import AxleState, Taken
from axle.advice.trouble import trouble_move, troubles
from axle.advice.value import MOST_READINGS, Question, question
from axle.advice.whole import Option, is_due, options, whole_move
from axle.layout import Place
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, station_of, stations
from axle.units import Display, percent

# Surer than this of the depth nobody prints before a strip-down; less sure than this of the whole nobody
# signs while a change would be surer by so much.
_DEPTH_SURE: Final = 0.96
_SURE: Final = 0.97
_GAIN: Final = 0.12
# A planned move surer than this is not sharpened; a reading is worth its minute from this gain on.
_SHARP: Final = 0.9
_SHARP_READINGS: Final = 3
_WORTH_READING: Final = 0.03
# Gears this tight lock under a hand [mm]: nothing is printed on them.
_LOCKED: Final = 0.0127
_SET: Final = ("depth", "pinion_preload", "carrier_preload", "backlash", "pattern")


def judge(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move | None:
    """The move that the whole of the axle asks for, or nothing where the order of the work decides.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :source: models of the project: state, update, search; common practice for what is questioned.
    """
    if in_hand(standings) == "sheet" and standings["sheet"].is_done:
        return None
    stopped = trouble_move(state, display, troubles(state, display))
    if stopped is not None:
        return stopped
    if not is_together(state, standings):
        return None
    now, held = chances(state), depth_held(state)
    done = all(standings[name].is_done for name in _SET if name in standings)
    due = is_due(standings)
    if not due and not done:
        return None  # the order of the work still has readings to ask for
    if due and _print_first(state, standings, now):
        return _print_too(standings)
    asked = question(state, held, _unsigned(now, standings))
    if asked is not None and (done or _rest_is_fine(asked, now)):
        return _read_again(asked, now)
    if done:
        last = _last_check(state)
        if last is not None:
            return last
    if done and _unsigned(now, standings).all >= _SURE:
        return None
    station = _worst(standings, now)
    found = options(state, display, standings)
    if due and not found[0].swaps:
        doubted = _doubt(state, standings, now)
        if doubted is not None:
            return doubted
    if due:
        sharper = _sharpen(state, found[0])
        if sharper is not None:
            return sharper
    move = whole_move(state, display, standings, station, found)
    if done:
        if move is None or move.chance is None or move.chance - now.all < _GAIN:
            return None
        note = f"Every reading is in range, but it is only {percent(now.all)} sure that the axle is."
        return replace(move, notes=(note, *move.notes))
    return move


def is_together(state: AxleState, standings: Mapping[str, Standing]) -> bool:
    """Say whether pinion and carrier are in and the backlash is read all around as they are.

    :param state: the axle.
    :param standings: where it stands.
    :source: common practice.
    """
    if not (state.setting(Place.DEPTH) and sides_are_set(state)):
        return False
    lash = lash_now(state)
    if lash is None or len(lash.around.places) < state.lash_places:
        return False
    pinion = standings.get("pinion_preload")
    return pinion is None or pinion.result is not None


def _unsigned(now: Chances, standings: Mapping[str, Standing]) -> Chances:
    """Chances without the stations that somebody signed for out of range."""
    signed = {name for name, s in standings.items() if s.signature is not None and s.signature.deviation}
    if "pattern" in signed:
        signed.add("depth")
    return replace(now, parts={name: part for name, part in now.parts.items() if name not in signed})


def _print_first(state: AxleState, standings: Mapping[str, Standing], now: Chances) -> bool:
    """Whether a print, made now, could save a strip-down: the depth is not sure, and the gears turn."""
    lash = lash_now(state)
    if now.parts.get("depth", 0.0) >= _DEPTH_SURE or "pattern" not in standings:
        return False
    if lash is None or lash.around.smallest < _LOCKED:
        return False
    newest = max(state.prints, key=lambda p: p.order, default=None)
    return newest is None or bool(
        len(newest.flanks) < 2 or stale_because("pattern", state.layout, newest.settings, state.settings)
    )


def _print_too(standings: Mapping[str, Standing]) -> Move:
    missing = standings["pattern"].missing
    flank = "drive" if not missing or missing[0].place == 1 else "coast"
    return Move(
        Act.PRINT, f"Mark the {flank} flank too, before it comes apart", "pattern",
        why=("The depth is not sure yet. A print now, at whatever backlash there is, lets one strip-down set "
             "depth and backlash together.",),
        notes=("Clean teeth, thin even compound, load by hand or brake, turn both ways.",),
    )  # fmt: skip


def _rest_is_fine(asked: Question, now: Chances) -> bool:
    """Whether the open question alone keeps the axle from being done."""
    name = "depth" if asked.station == "pattern" else asked.station
    rest = 1.0
    for station, chance in now.parts.items():
        if station != name:
            rest *= chance
    return rest > 0.6 and now.parts.get(name, 0.0) > 0.1


def _read_again(asked: Question, now: Chances) -> Move:
    name = "depth" if asked.station == "pattern" else asked.station
    sure = percent(now.parts[name])
    what = stations()[asked.station].title.lower()
    why = (f"It is {sure} sure that {what} is in range: one more reading settles it with {percent(asked.settles)}, "
           "and is cheaper than a strip-down.",)  # fmt: skip
    if asked.asks[0][0] == "print":
        return Move(Act.PRINT, "Print once more before anything is decided", asked.station, why=why)
    title = kind_named(asked.asks[0][0]).title.lower()
    return Move(Act.READ, f"Read again: {title}", asked.station, why=why, asks=asked.asks, again=True)


def _doubt(state: AxleState, standings: Mapping[str, Standing], now: Chances) -> Move | None:
    """A reading that is out while all else says that the axle is in: it is read again first."""
    kinds = {
        "pinion_preload": ("pinion_torque",), "carrier_preload": ("total_torque", "carrier_torque"),
        "backlash": ("backlash",),
    }  # fmt: skip
    for station, of in kinds.items():
        standing = standings.get(station)
        if standing is None or standing.is_done or standing.result is None:
            continue
        read = [t for t in state.taken if t.kind in of and _holds(state, t) and t.count < MOST_READINGS]
        if not read or (station == "pinion_preload" and not state.layout.has_preload_pack):
            continue
        newest = max(read, key=lambda t: t.order)
        lash = lash_now(state)
        place = lash.around.tight_place if station == "backlash" and lash else newest.place
        why = (f"It reads out of range, but with everything else that was read it is "
               f"{percent(now.parts.get(station, 0.0))} sure that it is in.",)  # fmt: skip
        title = f"Read again: {kind_named(newest.kind).title.lower()}"
        return Move(Act.READ, title, station, why=why, asks=((newest.kind, place),), again=True)
    return None


def _sharpen(state: AxleState, best: Option) -> Move | None:
    """Read a torque or a backlash again where the planned move's chance hangs on its scatter."""
    if not best.swaps or best.chances.all > _SHARP:
        return None
    after = {**state.settings, **{swap.place: swap.after for swap in best.swaps}}
    gains = []
    for kind in ("total_torque", "pinion_torque", "carrier_torque"):
        newest = state.latest(kind)
        if newest is None or newest.count >= _SHARP_READINGS or not _holds(state, newest):
            continue
        if kind == "pinion_torque" and not state.layout.has_preload_pack:
            continue
        told = tuple(replace(t, count=t.count + 2) if t is newest else t for t in state.taken)
        gain = chances(replace(state, taken=told), after).all - best.chances.all
        gains.append((gain, kind))
    gain, kind = max(gains, default=(0.0, ""))
    if gain < _WORTH_READING:
        return None
    what = kind_named(kind)
    why = (f"The move that comes next is {percent(best.chances.all)} sure; reading this again makes it about "
           f"{percent(gain)} surer, and costs a minute.",)  # fmt: skip
    return Move(Act.READ, f"Read again: {what.title.lower()}", station_of(kind), why=why, asks=((kind, 1),),
                again=True)  # fmt: skip


def _holds(state: AxleState, reading: Taken) -> bool:
    return not stale_because(station_of(reading.kind), state.layout, reading.settings, state.settings)


def _last_check(state: AxleState) -> Move | None:
    """The rotating torque once more after the print was loaded: a cup that was not home shows now."""
    total = state.latest("total_torque")
    newest = max(state.prints, key=lambda p: p.order, default=None)
    if total is None or newest is None or newest.order < total.order or total.count > 1:
        return None
    if stale_because("carrier_preload", state.layout, total.settings, state.settings):
        return None
    why = (
        "The print was loaded since. A cup that was not home gives way under load, and the torque falls.",
    )
    return Move(Act.READ, "Read the rotating torque once more, as the last check", "carrier_preload", why=why,
                asks=(("total_torque", 1),), again=True)  # fmt: skip


def _worst(standings: Mapping[str, Standing], now: Chances) -> str:
    """The station at which the move is shown: the first that is out, else the least sure."""
    for name in _SET:
        if name in standings and not standings[name].is_done:
            return name
    least = min(now.parts, key=lambda name: now.parts[name], default="pattern")
    return "pattern" if least == "depth" else least
