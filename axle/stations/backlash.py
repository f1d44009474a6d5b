"""Backlash as this job has read it: put right for how it was read, and learned from."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import pairwise
from typing import Final

from axle.backlash.around import Around
from axle.backlash.indicator import correction
from axle.backlash.ratios import BOUNDS, UNSURE_SPREAD, Learned, Ratios, Seen, learn, prior_ratios
from axle.carrier.spacers import Pushed
from axle.layout import Place
from axle.measure.range import ROUNDING
from axle.measure.uncertainty import Measured, rectangular
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.zero_play import carrier_seat, deeper_between, per_hole, thread_known

# Step of an indicator that nobody named [mm].
BACKLASH_STEP: Final = 0.0127
# What a reading repeats to beside its step [mm], from memory.
_REPEATS: Final = 0.006
# An adjuster of unknown thread: what a hole is worth in backlash [mm], 2 to 4 thou by common practice, and
# the relative spread of that.
HOLE_WORTH: Final = (0.0508, 0.1016)
_THREAD_SPREAD: Final = 0.33


@dataclass(frozen=True)
class BacklashNow:
    """Backlash around the ring on the axle as it is set, where it may be judged.

    :param around: by place [mm], put right to the sheet's stance at the heel.
    :param std: largest standard uncertainty that the indicator's stand adds [mm].
    :param pushed: where the carrier lay, for readings taken through play; else "".
    """

    around: Around
    std: float = 0.0
    pushed: str = ""

    @property
    def is_locked(self) -> bool:
        """Whether the gears lock somewhere: a backlash of 0 is "0 or less"."""
        return is_locked(self.around.smallest)


def is_locked(backlash: float) -> bool:
    """Say whether gears with such a backlash [mm] are locked: nothing was read, so it is 0 or less.

    :param backlash: as it was read [mm].
    :source: common practice.

    >>> is_locked(0.0), is_locked(0.01)
    (True, False)
    """
    return backlash <= ROUNDING


def correct_for_indicator(state: AxleState, reading: Reading) -> tuple[float, float]:
    """A backlash reading as the sheet wants it, with what its stand makes unsure [mm].

    :param state: the axle.
    :param reading: of a kind that depends on how the indicator stood.
    :source: :func:`axle.backlash.indicator.correction`.
    """
    how = reading.backlash_conditions
    stances = {stance.value: stance for stance in type(state.sheet.stance)}
    factor, std = correction(
        state.gears, state.sheet.stance, stances[how.stance], lean=how.lean, radius=how.radius
    )
    return reading.value * factor, reading.value * std


def backlash_readings(state: AxleState) -> dict[int, Reading]:
    """The newest valid backlash reading at each place of this job's number of places, stale or not.

    :param state: the axle.
    :source: a place p of n is a place of N where N·(p − 1)/n is whole.
    """
    return _by_place(state, (t for t in state.readings if t.kind == KindName.BACKLASH))


def _by_place(state: AxleState, readings: Iterable[Reading]) -> dict[int, Reading]:
    found: dict[int, Reading] = {}
    for reading in sorted(readings, key=lambda t: t.order):
        place = _place_on(reading, state.lash_places)
        if place is not None:
            found[place] = reading
    return dict(sorted(found.items()))


def _place_on(reading: Reading, places: int) -> int | None:
    of = reading.backlash_conditions.places
    along = (reading.place - 1) * places
    return None if along % of else along // of + 1


@kept
def backlash_now(state: AxleState) -> BacklashNow | None:
    """Backlash that may be judged: read on the axle as it is set, caps torqued, pinion held.

    :param state: the axle.
    :returns: nothing before a place is read.
    :source: ``stale.toml``; :class:`axle.procedure.conditions.BacklashConditions`.
    """
    now = {
        place: reading
        for place, reading in backlash_readings(state).items()
        if not reading.backlash_conditions.doubts
        and not stale_because(StationName.BACKLASH, state.layout, reading.settings, state.settings)
    }
    return _lash(state, now) if now else None


def _lash(state: AxleState, readings: Mapping[int, Reading]) -> BacklashNow:
    right = {place: correct_for_indicator(state, reading) for place, reading in readings.items()}
    pushed = next(
        (t.backlash_conditions.pushed for t in readings.values() if t.backlash_conditions.pushed), ""
    )
    return BacklashNow(
        Around({p: v for p, (v, _) in right.items()}), max(u for _, u in right.values()), pushed
    )


def backlash_around(state: AxleState) -> Around | None:
    """Backlash at the places that may be judged, or nothing.

    :param state: the axle.
    :source: :func:`backlash_now`.
    """
    lash = backlash_now(state)
    return lash.around if lash else None


def rests_of(pushed: str) -> float:
    """Share of the play on the ring gear's side: pushed away where nothing was said.

    :param pushed: a word of :class:`axle.carrier.spacers.Pushed`, or "".
    :source: common practice: the other way may lock the gears.

    >>> rests_of(""), rests_of("towards")
    (0.0, 1.0)
    """
    return Pushed(pushed).rests if pushed else 0.0


@kept
def ratios_now(state: AxleState) -> Ratios:
    """Ratios after this job's own moves.

    :param state: the axle.
    :source: :func:`learned_ratios`.
    """
    return learned_ratios(state).ratios


@kept
def learned_ratios(state: AxleState) -> Learned:
    """Ratios expected of the gears, brought to what this job's own moves have shown.

    :param state: the axle.
    :source: :func:`axle.backlash.ratios.learn`.
    """
    prior, seen = expected_change(state), [move.seen for move in own_moves(state)]
    bounds = _bounds(state, prior)
    learned = learn(prior, seen, bounds)
    if learned.odd and prior.std < UNSURE_SPREAD:
        # Gears cut otherwise than their sheet, or an indicator that stood otherwise: further off than this
        # set lets expect, and yet no more than sets and shops differ. What the job shows counts more then.
        wide = learn(replace(prior, std=UNSURE_SPREAD), seen, bounds)
        return wide if len(wide.odd) < len(learned.odd) else learned
    return learned


def _bounds(state: AxleState, prior: Ratios) -> tuple[float, float]:
    """Least and largest ratio that is believed: by the hole where the thread is not known."""
    if not state.layout.has_adjusters or thread_known(state):
        return BOUNDS
    each = per_hole(state)
    return HOLE_WORTH[0] / each, HOLE_WORTH[1] / each


def hole_worth(state: AxleState) -> Measured:
    """Backlash that a hole is worth when one adjuster goes in and the other out [mm], with its spread.

    :param state: the axle.
    :source: :func:`ratios_now`; the adjuster's thread.
    """
    ratios = ratios_now(state)
    each = ratios.per_ring * per_hole(state)
    return Measured(each, each * ratios.std)


def expected_change(state: AxleState) -> Ratios:
    """Ratios before this job has shown its own; wider where an adjuster's thread is not known.

    :param state: the axle.
    :source: :func:`axle.backlash.ratios.prior_ratios`; common practice for the hole.
    """
    prior = prior_ratios(state.gears, state.sheet.stance, state.finished_ratios)
    if state.layout.has_adjusters and not thread_known(state):
        return replace(prior, std=math.hypot(prior.std, _THREAD_SPREAD))
    return prior


@dataclass(frozen=True)
class OwnMove:
    """One change of this job between two readings of backlash.

    :param seen: what was moved and what came of it.
    :param before: what was in the axle before.
    :param after: what was in it afterwards.
    :param places: number of places read both times.
    """

    seen: Seen
    before: Settings
    after: Settings
    places: int


def own_moves(state: AxleState) -> tuple[OwnMove, ...]:
    """Changes of sides or depth on this job between two readings of backlash that may be compared.

    :param state: the axle.
    :source: readings that differ in clocking, bearings, slinger or caps are not compared.
    """
    groups: list[tuple[Settings, dict[int, Reading]]] = []
    readings = sorted((t for t in state.readings if t.kind == KindName.BACKLASH), key=lambda t: t.order)
    for reading in readings:
        if reading.backlash_conditions.doubts:
            continue
        if not groups or _moved(groups[-1][0], reading.settings, _ALL):
            groups.append((reading.settings, {}))
        groups[-1][1].update(_by_place(state, [reading]))
    found = []
    for (before, first), (after, second) in pairwise(groups):
        common = sorted(set(first) & set(second))
        if common and not _moved(before, after, _BREAKS):
            move = _own_move(state, before, after, [(first[p], second[p]) for p in common])
            if move is not None:
                found.append(move)
    return tuple(found)


_BREAKS: Final = (Place.CLOCK, Place.BEARINGS, Place.SLINGER, Place.CAPS)
_ALL: Final = (Place.RING, Place.FAR, Place.DEPTH, *_BREAKS)


def _moved(one: Settings, other: Settings, places: tuple[Place, ...]) -> bool:
    for place in places:
        before, after = one.get(place), other.get(place)
        if place is Place.CAPS and (before is None or after is None):
            continue  # nobody wrote the caps' torque down: taken as torqued
        if (before or Decimal(0)) != (after or Decimal(0)):
            return True
    return False


def _own_move(
    state: AxleState, before: Settings, after: Settings, pairs: list[tuple[Reading, Reading]]
) -> OwnMove | None:
    # Locked gears tell nothing of where the ring gear is, before or after.
    pairs = [(a, b) for a, b in pairs if not (is_locked(a.value) or is_locked(b.value))]
    if not pairs:
        return None
    one = carrier_seat(state, before, rests_of(pairs[0][0].backlash_conditions.pushed))
    two = carrier_seat(state, after, rests_of(pairs[0][1].backlash_conditions.pushed))
    if one is None or two is None:
        return None
    opened = [correct_for_indicator(state, b)[0] - correct_for_indicator(state, a)[0] for a, b in pairs]
    std = max(correct_for_indicator(state, t)[1] for pair in pairs for t in pair)
    step = max((t.step or BACKLASH_STEP) for pair in pairs for t in pair)
    u = math.hypot(math.hypot(rectangular(step), _REPEATS) * math.sqrt(2 / len(pairs)), std)
    deeper = deeper_between(state, before, after)
    seen = Seen(
        two.rigid - one.rigid,
        two.loaded - one.loaded,
        deeper=deeper,
        opened=sum(opened) / len(opened),
        uncertainty=u,
    )
    return OwnMove(seen, before, after=after, places=len(pairs))
