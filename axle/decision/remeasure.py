"""Readings that are worth taking once more: a minute against a strip-down."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from axle.decision.costs import weight
from axle.decision.move import Move
from axle.decision.probability import InRange, depth_probability, in_range_probabilities
from axle.decision.value_of_information import MOST_PRINTS, MOST_READINGS
from axle.measure.units import percent
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, station_of
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.backlash import backlash_now
from axle.stations.depth_posterior import depth_posterior, prints_here
from axle.stations.station_state import Standing

# A planned move surer than this is not sharpened; a reading is worth its minute from this gain on, and
# after so many of one kind no more.
_SHARP: Final = 0.97
_WORTH: Final = 0.012
_MOST: Final = 3
# Likelier than this to be in range, a reading that is out is doubted.
_LIKELY: Final = 0.6
# What two readings of backlash may differ by scatter alone [mm]: nine tenths of a thou.
_SCATTER: Final = 0.0235


def recheck_outlier(state: AxleState, standings: Mapping[str, Standing], now: InRange) -> Move | None:
    """A reading that is out while all else says that the axle is in: it is read again first.

    :param state: the axle.
    :param standings: where it stands.
    :param now: chances as it stands, by station [1].
    :source: common practice: nothing comes apart for one reading that nobody believes.
    """
    kinds = {
        "pinion_preload": ("pinion_torque",),
        "carrier_preload": ("total_torque", "carrier_torque"),
        "backlash": ("backlash",),
    }
    for station, of in kinds.items():
        standing = standings.get(station)
        if standing is None or standing.is_done or now.parts.get(station, 0.0) < _LIKELY:
            continue
        read = [t for t in state.readings if t.kind in of and _holds(state, t) and t.count < MOST_READINGS]
        if not read or (station == StationName.PINION_PRELOAD and not state.layout.has_preload_pack):
            continue
        newest, lash = max(read, key=lambda t: t.order), backlash_now(state)
        place = lash.around.tight_place if station == StationName.BACKLASH and lash else newest.place
        sure = percent(now.parts[station])
        why = (
            f"It reads out of range, but with everything else that was read it is {sure} sure that it "
            "is in.",
        )
        return _again(newest.kind, place, station, why)
    return None


def reduce_variance(state: AxleState, after: Settings, planned: float) -> Move | None:
    """What to read or print again where the planned move's chance hangs on its scatter.

    :param state: the axle.
    :param after: what the planned move leaves in it.
    :param planned: its chance [1].
    :source: chance of the same move, were there two readings or two prints more.
    """
    if planned > _SHARP:
        return None
    gains = [(_by_prints(state, after, planned), "print")]
    for kind in ("total_torque", "pinion_torque", "carrier_torque"):
        newest = state.latest(kind)
        if newest is None or newest.count >= _MOST or not _holds(state, newest):
            continue
        if kind == KindName.PINION_TORQUE and not state.layout.has_preload_pack:
            continue
        told = tuple(replace(t, count=t.count + 2) if t is newest else t for t in state.readings)
        gains.append((in_range_probabilities(replace(state, readings=told), after).joint - planned, kind))
    gain, kind = max(gains, default=(0.0, ""))
    places = [place for place, set_to in after.items() if set_to != state.settings.get(place)]
    if gain * weight(state.layout, places) < _WORTH:
        return None
    if kind == "print":
        why = (
            f"The move that comes next is {percent(planned)} sure; two prints more make it about "
            f"{percent(gain)} surer, and cost minutes where a strip-down costs hours.",
        )
        return Move.make_print("Print once more before it comes apart", StationName.PATTERN, why=why)
    why = (
        f"The move that comes next is {percent(planned)} sure; reading this again makes it about "
        f"{percent(gain)} surer, and costs a minute.",
    )
    return _again(kind, 1, station_of(kind), why)


def _by_prints(state: AxleState, after: Settings, planned: float) -> float:
    """What two prints more of this assembly would add to a planned move's chance."""
    held, here = depth_posterior(state), prints_here(state)
    if held is None or not here or len(here) >= MOST_PRINTS:
        return 0.0
    newest = here[-1]
    depth_estimate = depth_posterior(replace(state, prints=(*state.prints, newest, newest)))
    now = depth_probability(state, held, after)
    if depth_estimate is None or not now:
        return 0.0
    return planned * (depth_probability(state, replace(held, std=depth_estimate.std), after) / now - 1)


def recheck_variation(state: AxleState, over: float) -> Move | None:
    """The tightest and the loosest place once more, where the spread is over by no more than scatter.

    :param state: the axle.
    :param over: by how much the spread is over [mm].
    :returns: nothing where it is clearly over, or was read often enough: that is runout.
    :source: scatter of two readings, from memory.
    """
    lash = backlash_now(state)
    if lash is None or over > _SCATTER:
        return None
    places = lash.around.places
    ends = (lash.around.tight_place, max(places, key=lambda place: places[place]))
    read = state.around(KindName.BACKLASH)
    asks = tuple(("backlash", p) for p in ends if p in read and read[p].count < MOST_READINGS)
    if not asks:
        return None
    why = (
        "The spread is over by no more than two readings scatter: the tightest and the loosest place "
        "once more, before anybody looks for runout.",
    )
    return Move.read("Read again: backlash", StationName.BACKLASH, why=why, asks=asks, again=True)


def last_check(state: AxleState) -> Move | None:
    """The rotating torque once more after the print was loaded: a cup that was not home shows now.

    :param state: the axle.
    :returns: nothing before a print, without a torque of the whole, or once it was read again.
    :source: common practice.
    """
    total = state.latest(KindName.TOTAL_TORQUE)
    newest = max(state.prints, key=lambda p: p.order, default=None)
    if newest is None or state.latest(KindName.PINION_TORQUE) is None:
        return None
    held = total is not None and _holds(state, total)
    if total is not None and held and (newest.order < total.order or total.count > 1):
        return None
    why = (
        "The print was loaded since. A cup that was not home gives way under load, and the torque falls.",
    )
    move = _again("total_torque", 1, "carrier_preload", why)
    if not held:
        return replace(move, title="Read the rotating torque of the whole, as the last check", again=False)
    return replace(move, title="Read the rotating torque once more, as the last check")


def _again(kind: str, place: int, station: str, why: tuple[str, ...]) -> Move:
    title = f"Read again: {kind_named(kind).title.lower()}"
    return Move.read(title, station, why=why, asks=((kind, place),), again=True)


def _holds(state: AxleState, reading: Reading) -> bool:
    return not stale_because(station_of(reading.kind), state.layout, reading.settings, state.settings)
