"""Readings that are worth taking once more: a minute against a strip-down."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Final

import numpy as np

from axle.decision.costs import weight
from axle.decision.move import Move
from axle.decision.probability import InRange, depth_probability, in_range_probabilities
from axle.decision.value_of_information import MOST_PRINTS, MOST_READINGS
from axle.measure.repeats import MOST
from axle.measure.uncertainty import rectangular
from axle.measure.units import percent
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, station_of
from axle.state.axle_state import AxleState
from axle.state.priors import Quantity
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.backlash import BACKLASH_STEP, backlash_now
from axle.stations.depth_posterior import depth_posterior, prints_here
from axle.stations.mesh import why_not_readable
from axle.stations.station_state import Standing

# A planned move surer than this is not sharpened; a reading is worth its minute from this gain on, and
# after so many of one kind no more.
_SHARP: Final = 0.97
_WORTH: Final = 0.012
_MOST: Final = 3
# Likelier than this to be in range, a reading that is out is doubted.
_LIKELY: Final = 0.6
# A place so many standard deviations off the wave of the others is read again; with fewer places there is
# no wave.
_OFF_THE_WAVE: Final = 3.3
_LEAST_PLACES: Final = 5
_TWICE: Final = 0.3
# However far the spread is over, its ends are read so often.
_ENDS_TWICE: Final = 2
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
        read = [
            t for t in state.readings if t.kind in of and still_holds(state, t) and t.count < MOST_READINGS
        ]
        read = [t for t in read if not why_not_readable(t.kind, state, {})]
        if not read or (station == StationName.PINION_PRELOAD and not state.layout.has_preload_pack):
            continue
        newest, lash = max(read, key=lambda t: t.order), backlash_now(state)
        place = lash.around.tight_place if station == StationName.BACKLASH and lash else newest.place
        sure = percent(now.parts[station])
        why = (
            f"It reads out of range, but with everything else that was read it is {sure} sure that it "
            "is in.",
        )
        return read_again(newest.kind, place, station, why)
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
        if newest is None or newest.count >= _MOST or not still_holds(state, newest):
            continue
        if kind == KindName.PINION_TORQUE and not state.layout.has_preload_pack:
            continue
        if why_not_readable(kind, state, {}):
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
    return read_again(kind, 1, station_of(kind), why)


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
    """The tightest and the loosest place once more, where the spread is over.

    :param state: the axle.
    :param over: by how much the spread is over [mm].
    :returns: nothing where both were read twice and it is clearly over, or often enough: that is runout.
    :source: common practice: a stop is preceded by a fresh reading.
    """
    lash = backlash_now(state)
    if lash is None:
        return None
    places = lash.around.places
    most = MOST_READINGS if over <= _SCATTER else _ENDS_TWICE
    ends = (lash.around.tight_place, max(places, key=lambda place: places[place]))
    read = state.around(KindName.BACKLASH)
    asks = tuple(("backlash", p) for p in ends if p in read and read[p].count < most)
    if not asks:
        return None
    why = (
        "The spread is over: the tightest and the loosest place once more, before anybody looks for "
        "runout.",
    )
    return Move.read("Read again: backlash", StationName.BACKLASH, why=why, asks=asks, again=True)


def recheck_place(state: AxleState) -> Move | None:
    """A place of the backlash that does not lie on the wave of all the others, read once: it is read again.

    Runout of gear and flange comes once a turn of the ring gear, so readings around it lie on one wave.

    :param state: the axle.
    :returns: nothing with fewer than five places, or where each lies on the wave or was read again.
    :source: least squares; residual of a place against the wave through the others at 3.3 standard
        deviations.
    """
    lash = backlash_now(state)
    if lash is None or lash.is_locked:
        return None
    read, places = state.around(KindName.BACKLASH), lash.around.places
    disagree = [p for p in places if p in read and read[p].disagrees and read[p].count < MOST]
    odd = disagree or [p for p in odd_places(places, state) if p in read and read[p].count == 1]
    if not odd:
        return None
    why = (
        f"Place {odd[0]} does not fit the other places: runout comes once a turn, and what does not lie "
        f"on that "
        "wave is first of all a figure misread.",
    )
    return read_again("backlash", odd[0], StationName.BACKLASH, why)


def odd_places(places: Mapping[int, float], state: AxleState) -> list[int]:
    """Places that lie off the wave through the others, the furthest first.

    :param places: backlash by place, evenly around the ring gear [mm].
    :param state: the axle.
    :source: least squares with the place left out (its residual over one less its leverage).
    """
    count = state.lash_places
    if len(places) < count or count < _LEAST_PLACES:
        return []
    at = np.array(sorted(places))
    angle = 2 * np.pi * (at - 1) / count
    wave = np.column_stack([np.ones(count), np.cos(angle), np.sin(angle)])
    read = np.array([places[int(p)] for p in at])
    hat = wave @ np.linalg.pinv(wave)
    left = np.diag(1 - hat)
    residual = (read - hat @ read) / np.maximum(left, 1e-9)
    amplitude = float(np.ptp(hat @ read)) / 2
    once = math.hypot(state.priors.centre(Quantity.INDICATOR_SCATTER), rectangular(BACKLASH_STEP))
    # What comes twice a turn is a share of what comes once.
    std = np.sqrt(once**2 / left + (_TWICE * amplitude) ** 2)
    off = np.abs(residual) / std
    return [int(at[n]) for n in np.argsort(-off) if off[n] > _OFF_THE_WAVE]


def read_again(kind: str, place: int, station: str, why: tuple[str, ...]) -> Move:
    """Ask for one reading once more.

    :param kind: as in ``readings.toml``.
    :param place: around the ring, from 1.
    :param station: where it is shown.
    :param why: reasons.
    """
    title = f"Read again: {kind_named(kind).title.lower()}"
    return Move.read(title, station, why=why, asks=((kind, place),), again=True)


def still_holds(state: AxleState, reading: Reading) -> bool:
    """Say whether nothing was changed since that a reading stands on.

    :param state: the axle.
    :param reading: of the job.
    :source: ``stale.toml``.
    """
    return not stale_because(station_of(reading.kind), state.layout, reading.settings, state.settings)
