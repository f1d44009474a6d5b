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
from axle.advice.state import AxleState
from axle.advice.trouble import trouble_move, troubles
from axle.advice.value import Question, question
from axle.advice.whole import is_due, options, whole_move
from axle.layout import Place
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, stations
from axle.units import Display, percent

# Surer than this of the depth nobody prints before a strip-down; less sure than this of the whole nobody
# signs while a change would be surer by so much.
_DEPTH_SURE: Final = 0.96
_SURE: Final = 0.95
_GAIN: Final = 0.12
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
    move = whole_move(state, display, standings, station, found)
    if done:
        better = found[0].chances.all - now.all
        if move is None or better < _GAIN:
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
        len(newest.flanks) < 2
        or stale_because("pattern", state.layout, newest.settings, state.settings)
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
    return rest > 0.8 and now.parts.get(name, 0.0) > 0.1


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


def _last_check(state: AxleState) -> Move | None:
    """The rotating torque once more after the print was loaded: a cup that was not home shows now."""
    total = state.latest("total_torque")
    newest = max(state.prints, key=lambda p: p.order, default=None)
    if total is None or newest is None or newest.order < total.order or total.count > 1:
        return None
    if stale_because("carrier_preload", state.layout, total.settings, state.settings):
        return None
    why = ("The print was loaded since. A cup that was not home gives way under load, and the torque falls.",)
    return Move(Act.READ, "Read the rotating torque once more, as the last check", "carrier_preload", why=why,
                asks=(("total_torque", 1),), again=True)  # fmt: skip


def _worst(standings: Mapping[str, Standing], now: Chances) -> str:
    """The station at which the move is shown: the first that is out, else the least sure."""
    for name in _SET:
        if name in standings and not standings[name].is_done:
            return name
    least = min(now.parts, key=lambda name: now.parts[name], default="pattern")
    return "pattern" if least == "depth" else least
