"""What the hand finds on the bench: signs with their checks, and what comes by, told by counting."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache
from typing import Final

import msgspec
import numpy as np

from axle.data_file import read_table
from axle.errors import AxleError
from axle.gearset import GearSet
from axle.measure.units import Display
from axle.state.axle_state import AxleState
from axle.state.felt import Feel, Flank, Turned, turned
from axle.stations.by_hand import of_this_pinion
from axle.stations.depth_posterior import depth_posterior
from axle.stations.zero_play import deeper_between

# A count is off by about so many, and by such a share of itself; from memory.
_COUNT_OFF: Final = 0.4
_SHARE_OFF: Final = 0.04
# Something nobody thought of comes at any rate, so often.
_ELSE: Final = 0.5
# Two that are at least so likely are not told apart yet.
_STILL: Final = 0.15
# Expected counts so far apart are told apart.
_APART: Final = 2.0
# A depth that came out by less is no move [mm]: half a thou.
_MOVED: Final = 0.0127
MOST_TURNS: Final = 200


class Sign(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the hand may have found, as in ``data/by_hand.toml``."""

    title: str
    when: tuple[str, ...]
    check: str
    cure: str
    used: bool = False


class Recurrence(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Something that comes by as often as a shaft turns, as in ``data/by_hand.toml``."""

    title: str
    of: str
    low: float
    high: float
    often: float
    check: str


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    signs: dict[str, Sign]
    rates: dict[str, Recurrence]


@cache
def _table() -> _Table:
    return read_table(__file__, "data/by_hand.toml", _Table)


def signs_of(found: Turned, *, used: bool = False) -> tuple[Sign, ...]:
    """What may be behind what was felt, what is looked at first in front.

    :param found: an assembly turned by hand.
    :param used: whether the set was run before.
    :source: ``data/by_hand.toml``; common practice, from memory.

    >>> from axle.state.settings import Settings
    >>> [sign.title for sign in signs_of(Turned(1, "rubs", "rubs", Settings()))]
    ["The flange's shield rubs"]
    """
    felt = {found.drive, found.coast} - {"", Feel.SMOOTH}
    sides = ((found.drive, Flank.DRIVE), (found.coast, Flank.COAST))
    felt |= {f"{feel} on {flank}" for feel, flank in sides if feel}
    return tuple(
        sign for sign in _table().signs.values() if felt & set(sign.when) and (used or not sign.used)
    )


@dataclass(frozen=True)
class CountedRate:
    """Something that may come by at the rate that was counted.

    :param name: of the rate.
    :param rate: what it is.
    :param chance: of it [1].
    :param per_turn: how often it comes per turn of the shaft that was turned, least and most.
    """

    name: str
    rate: Recurrence
    chance: float
    per_turn: tuple[float, float]


def told_by_count(count: float, turns: float, shaft: str, gears: GearSet) -> tuple[CountedRate, ...]:
    """What comes by, from how often it was felt, likeliest first.

    :param count: k, times that it was felt, 0 or more.
    :param turns: turns of the shaft [1], more than 0, at most 200.
    :param shaft: which shaft's turns were counted, "pinion" or "ring".
    :param gears: N1 and N2: the ring gear turns N1/N2 to one turn of the pinion, and one tooth of each
        meets gcd(N1, N2)/N2 times a turn of it.
    :raises AxleError: for a count or a number of turns that nobody counts.
    :source: the geometry of the mesh and of rolling bearings; spread of a count from memory.

    >>> told_by_count(10, 10, "pinion", GearSet(11, 41))[0].name
    'pinion'
    >>> told_by_count(10, 37, "pinion", GearSet(11, 41))[0].name
    'ring'
    """
    if not 0 < turns <= MOST_TURNS:
        raise AxleError("turns", given=f"{turns:g}", wanted=f"more than 0, at most {MOST_TURNS}")
    if not 0 <= count <= turns * 100:
        raise AxleError("times felt", given=f"{count:g}", wanted="0 or more, at most 100 a turn")
    if shaft not in ("pinion", "ring"):
        raise AxleError("turned", given=shaft[:20], wanted="pinion or ring")
    rates = {name: _per_turn(rate, shaft, gears) for name, rate in _table().rates.items()}
    weights = {
        name: _table().rates[name].often * _likelihood(count, turns, low, high)
        for name, (low, high) in rates.items()
    }
    # The widest that anything could spread over: what none of these explains stays open.
    total = sum(weights.values()) + _ELSE / max(turns * 3, 1)
    found = [CountedRate(name, _table().rates[name], weights[name] / total, rates[name]) for name in rates]
    return tuple(sorted((one for one in found if one.chance >= 0.01), key=lambda one: -one.chance))


def _per_turn(rate: Recurrence, shaft: str, gears: GearSet) -> tuple[float, float]:
    """How often it comes per turn of a shaft, least and most."""
    common = math.gcd(gears.pinion_teeth, gears.ring_teeth)
    per_pinion = {"pinion": 1.0, "ring": 1 / gears.ratio, "pair": common / gears.ring_teeth}[rate.of]
    factor = per_pinion if shaft == "pinion" else per_pinion * gears.ratio
    return rate.low * factor, rate.high * factor


def _likelihood(count: float, turns: float, low: float, high: float) -> float:
    """Chance density of a count where the rate is anywhere between two."""
    at = np.linspace(low, high, 21) * turns
    spread = np.hypot(_COUNT_OFF, _SHARE_OFF * at)
    return float(np.mean(np.exp(-(((count - at) / spread) ** 2) / 2) / spread / math.sqrt(2 * math.pi)))


def turns_to_tell(found: Iterable[CountedRate]) -> int:
    """Turns to count over until the two likeliest are apart, or 0 where they are already, or never are.

    :param found: likeliest first.
    :source: their expected counts two apart.

    >>> turns_to_tell(told_by_count(1, 1, "pinion", GearSet(11, 41)))
    0
    >>> turns_to_tell(told_by_count(1, 3, "pinion", GearSet(11, 41)))
    18
    """
    first, second = (*found, None, None)[:2]
    if first is None or second is None or second.chance < _STILL:
        return 0
    low, high = sorted((first.per_turn, second.per_turn))
    gap = high[0] - low[1]
    return math.ceil(_APART / gap) if gap > 0 and _APART / gap <= MOST_TURNS else 0


@dataclass(frozen=True)
class HandSays:
    """What the hand says of the depth.

    :param words: sentences, the deciding one first.
    :param still: the click is still there after the pinion was moved out.
    :param gone: it was there, the pinion was moved, and it is gone.
    :param asks: what to turn yet, or "".
    """

    words: tuple[str, ...]
    still: bool
    gone: bool
    asks: str


def hand_says(state: AxleState, display: Display) -> HandSays:
    """What the hand says of the depth, with what it moved, and what is to be turned yet.

    :param state: the axle.
    :param display: the reader's units.
    :source: :mod:`axle.stations.by_hand`; common practice.
    """
    every = turned(state.felt)
    now = next((one for one in every if one.assembly == state.assembly), None)
    before = [one for one in every if one.assembly < state.assembly and one.clicks_on_drive_alone]
    clicked = before[-1] if before else None
    out = -deeper_between(state, clicked.settings, state.settings) if clicked else 0.0
    moved = clicked is not None and out > _MOVED
    words: list[str] = []
    if now is not None and now.clicks_on_drive_alone:
        words.append(
            "The pinion was moved out, and the drive side still clicks: count it before it is moved again. "
            "Once a turn of a shaft is a tooth."
            if moved
            else "A click on the drive side alone speaks for a pinion that is too deep. The print decides."
        )
    elif now is not None and now.is_quiet and moved:
        words.append("The click on the drive side is gone after the move, as it must be.")
    elif now is not None and Feel.CLICK in (now.drive, now.coast):
        words.append("A click on the coast side, or both ways, says nothing of the depth: count it.")
    weighed = _weighed(state, display)
    if weighed:
        words.append(weighed)
    asks = ""
    if now is None and moved:
        asks = "Turn it by hand both ways: the click on the drive side must be gone after the move."
    elif now is None or not (now.drive and now.coast):
        asks = "Turn it by hand slowly, once around the ring gear each way, with a thumb on the flange."
    quiet = now is not None and now.is_quiet and moved
    return HandSays(tuple(words), bool(now and now.clicks_on_drive_alone and moved), quiet, asks)


def _weighed(state: AxleState, display: Display) -> str:
    """How far the hand moved what is held of the depth, or ""."""
    if not any(one.clicks_on_drive_alone or one.is_quiet for one in of_this_pinion(state)):
        return ""
    held, alone = depth_posterior(state), depth_posterior(replace(state, felt=()))
    if held is None or alone is None:
        return ""
    unit = display.length.symbol
    return (
        f"Too deep by {_signed(display, held.error)} ± {display.show(held.std)} {unit} with the hand, by "
        f"{_signed(display, alone.error)} ± {display.show(alone.std)} {unit} without it."
    )


def _signed(display: Display, value: float) -> str:
    return f"{'−' if value < 0 else ''}{display.show(abs(value))}"
