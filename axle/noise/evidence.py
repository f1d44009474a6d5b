"""What stands out of a recording, held against the orders that an axle can make."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from axle.noise.orders import Machine, bearing_orders, usual_bearings
from axle.noise.spectra import MeanSpectrum, Spectra, SpectralLine
from axle.noise.tracking import MOST_ORDER

# A line is taken for one from so many standard deviations on; thousands of places are looked at.
SEEN: Final = 6.0
# What is not there has this level [dB].
NOTHING: Final = SpectralLine(0.0, -40.0, 0.0)
# The scale is looked for within so many standard deviations of what was held of it.
_REACH: Final = 2.4
# A scale that several lines agree on is known to so much.
LOCKED: Final = 0.004
# Tread patterns have so many blocks; an engine turns so often to one turn of the driveshaft.
TREAD: Final = (25.0, 90.0)
_GEARS: Final = (0.6, 1.7)
# Blows are looked for between these orders; an envelope's line is no blow where a tone stands there too.
_BLOWS: Final = (3.3, 60.0)
_CAP: Final = 12.0
# A line that stands out by less is none: so far noise reaches where hundreds of places are looked at.
_WEAK: Final = 4.0


@dataclass(frozen=True)
class Blow:
    """Blows that come at one order, told by the envelope.

    :param order: how often per turn of the ring gear.
    :param sigmas: how far they stand over nothing, their harmonics counted.
    :param band: of the envelope [Hz], where they are strongest.
    :param by_pinion: how far sidebands of the pinion stand out, in standard deviations.
    :param by_ring: the same, of the ring gear.
    :param toned: a tone stands at the same order: they are its swelling.
    """

    order: float
    sigmas: float
    band: tuple[float, float]
    by_pinion: float
    by_ring: float
    toned: bool


@dataclass(frozen=True)
class Evidence:
    """What stands out.

    :param scale: told turns over true ones: what an order as it was heard is multiplied by.
    :param scale_std: how well it is known.
    :param locked: several lines of the axle agree on it.
    :param mesh: the mesh tone by state, "all" always.
    :param mesh_off: how far the scale had to be moved for it, in standard deviations.
    :param by_ring: how far the mesh's ring gear sidebands stand out, in standard deviations.
    :param by_pinion: the same of the pinion's; one pinion turn beside the mesh makes it one.
    :param tread: the strongest line that may be a tread's.
    :param around: how many lines one wheel turn apart stand beside it.
    :param tread_by_load: by how much it changes from drive to coast [dB].
    :param once: line of the driveshaft's turn, or nothing where it was not heard.
    :param twice: line of its joints.
    :param engine: strongest line of the engine.
    :param engine_apart: order by which its firings lie apart.
    :param engine_lines: how many of its first four multiples stand out.
    :param shared: the mesh lies where the engine's multiples do.
    :param tooth_pinion: blows once a turn of the pinion, with their multiples, in standard deviations.
    :param tooth_ring: the same of the ring gear.
    :param blow: other blows that stand out most, or nothing.
    """

    scale: float
    scale_std: float
    locked: bool
    mesh: Mapping[str, SpectralLine]
    mesh_off: float
    by_ring: float
    by_pinion: float
    tread: SpectralLine
    around: int
    tread_by_load: float
    once: SpectralLine
    twice: SpectralLine
    engine: SpectralLine
    engine_apart: float
    engine_lines: int
    shared: bool
    tooth_pinion: float
    tooth_ring: float
    blow: Blow | None


def evidence_of(spectra: Spectra, machine: Machine, scale_std: float) -> Evidence:
    """Hold a recording's spectra against what the axle can make.

    :param spectra: of the recording.
    :param machine: what is known of what turns.
    :param scale_std: how well the speed's scale is known, one standard deviation [1].
    :source: level over floor; the mesh over its pinion sidebands is N1, whatever the scale.
    """
    tone = spectra.tones["all"]
    scale, off, agree = _scale(spectra, machine, scale_std)
    locked = agree >= 2
    std = LOCKED if locked else scale_std
    mesh_at = machine.ring_teeth / scale
    if locked and (own := _mesh(tone, mesh_at)).sigmas > SEEN:
        # The line's own middle tells the scale better than where several begin to agree.
        scale, mesh_at = machine.ring_teeth / own.order, own.order
    mesh = {state: mean.line(mesh_at * 0.9965, mesh_at * 1.0035) for state, mean in spectra.tones.items()}
    turn, pinion = 1 / scale, machine.ratio / scale
    engine, apart, count, shared = _engine(tone, machine, scale, spectra.heard_from)
    tread, around = _tread(tone, machine, scale, mesh["all"], apart)
    states = [spectra.tones[s].over_at(tread.order) for s in ("drive", "coast") if s in spectra.tones]
    # In direct drive the engine's firings lie whole pinion turns apart, and beside the mesh too.
    turned = bool(count and abs(apart / pinion - round(apart / pinion)) < 0.03)
    blows = spectra.blows["all"]
    tooth_pinion, tooth_ring = _comb(blows, spectra, pinion), _comb(blows, spectra, turn)
    return Evidence(
        scale,
        std,
        locked=locked,
        mesh=mesh,
        mesh_off=off,
        by_ring=_beside(tone, mesh["all"].order, turn),
        by_pinion=0.0 if turned else _beside(tone, mesh["all"].order, pinion),
        tread=tread,
        around=around,
        tread_by_load=states[0] - states[1] if len(states) == 2 else 0.0,
        once=_low(tone, pinion, std, spectra.heard_from),
        twice=_low(tone, 2 * pinion, std, spectra.heard_from),
        engine=engine,
        engine_apart=apart,
        engine_lines=count,
        shared=shared,
        tooth_pinion=tooth_pinion,
        tooth_ring=tooth_ring,
        blow=_blow(spectra, machine, scale, tooth_pinion > SEEN, tooth_ring > SEEN),
    )


def _scale(spectra: Spectra, machine: Machine, std: float) -> tuple[float, float, int]:
    """The scale at which most of the axle stands out: it, how far it is off, how many lines agree."""
    logs = np.arange(-_REACH * std, _REACH * std + 1e-9, 0.0008)
    tone, n2, r = spectra.tones["all"], machine.ring_teeth, machine.ratio
    wanted = np.array([n2, 2 * n2, 3 * n2, n2 - r, n2 + r, n2 - 1, n2 + 1, r, 2 * r])
    places = np.exp(-logs)[:, np.newaxis] * wanted
    sigmas = tone.sigmas_at(places.ravel()).reshape(places.shape)
    sigmas[places > tone.ratio.size / tone.turns - 2] = 0.0
    sigmas = np.clip(sigmas - _WEAK, 0, _CAP)
    # Blows of a tooth come at whole turns of the pinion: its multiples tell the scale as well.
    turns = np.exp(-logs)[:, np.newaxis] * (r * np.arange(2, 10))
    knocks = _bands(spectra.blows["all"], spectra, turns.ravel(), least=700.0).max(axis=0)
    struck = np.clip(knocks.reshape(turns.shape) - _WEAK, 0, _CAP)
    weights = np.array([1.0, 0.8, 0.5, 0.5, 0.5, 0.3, 0.3, 0.3, 0.3])
    total = sigmas @ weights + 0.4 * struck.sum(axis=1) - 2.0 * (logs / std) ** 2
    at = int(total.argmax())
    side = bool(sigmas[at, 3:7].max() > 1.5)
    agree = int(np.count_nonzero(sigmas[at, :3] > 2.0)) + int(side)
    agree += 2 * int(np.count_nonzero(struck[at] > 2.0) >= 4)
    # Where the told speed is too high, all that turns lies lower than its order by as much.
    return math.exp(float(logs[at])), float(logs[at] / std), agree


def _mesh(mean: MeanSpectrum, order: float) -> SpectralLine:
    """The mesh tone: of its first three multiples the one that stands out most, at the first's place."""
    inside = [h for h in (1, 2, 3) if h * order < MOST_ORDER - 3]
    lines = [mean.line(h * order * 0.9965, h * order * 1.0035) for h in inside]
    best = max(lines, key=lambda line: line.sigmas)
    return SpectralLine(best.order / (lines.index(best) + 1), best.over, best.sigmas)


def _beside(tone: MeanSpectrum, order: float, apart: float) -> float:
    """How far both sidebands stand out: the weaker of them, and half of the stronger's rest."""
    both = np.sort(tone.sigmas_at(np.array([order - apart, order + apart])))
    return float(both[0] + 0.3 * (both[1] - both[0]))


def _tread(
    tone: MeanSpectrum, machine: Machine, scale: float, mesh: SpectralLine, apart: float
) -> tuple[SpectralLine, int]:
    """The strongest line that is neither the mesh's nor the engine's, and how many lie beside it."""
    orders = np.arange(TREAD[0], TREAD[1], 0.5 / tone.turns)
    sigmas = tone.sigmas_at(orders)
    heights = sigmas * np.sqrt(1 / (orders + 10))
    own = np.abs(orders - machine.ring_teeth / scale) < 0.45
    for side in (1.0, machine.ratio):
        for sign in (-1, 1):
            own |= np.abs(orders - machine.ring_teeth / scale - sign * side / scale) < 0.3
    if mesh.sigmas > SEEN:
        heights = np.where(own, 0.0, heights)
    if apart:
        away = np.abs(orders / apart - np.round(orders / apart)) * apart
        heights = np.where(away < 0.2, 0.0, heights)
    at = int(heights.argmax())
    order = float(orders[at])
    line = SpectralLine(order, tone.over_at(order), float(sigmas[at]))
    beside = tone.sigmas_at(order + np.array([-4, -3, -2, -1, 1, 2, 3, 4]) / scale)
    return line, int(np.count_nonzero(beside > max(_WEAK, 0.01 * line.sigmas)))


def _low(tone: MeanSpectrum, order: float, std: float, heard_from: float) -> SpectralLine:
    """A low line, where the recorder hears it at all."""
    if order < heard_from:
        return NOTHING
    reach = max(order * 2 * std, 0.06)
    return tone.line(max(order - reach, 0.4), order + reach)


def _engine(
    tone: MeanSpectrum, machine: Machine, scale: float, heard_from: float
) -> tuple[SpectralLine, float, int, bool]:
    """The engine by its comb: the strongest line, the order its firings lie apart, how many stand out.

    Firings come 2, 3 or 4 times a turn of the engine, and with them their multiples; whether the mesh may
    be one of these is the last that is given.
    """
    if machine.gear:
        near = np.arange(0.985, 1.0151, 0.003)
        apart = np.concatenate([k * machine.ratio * machine.gear * near / scale for k in (2, 3, 4)])
    else:
        apart = np.arange(2 * _GEARS[0] * machine.ratio, 4 * _GEARS[1] * machine.ratio, 0.03)
    ks = np.arange(1, 9)
    orders = apart[:, np.newaxis] * ks
    heard = (orders > max(heard_from, 1.5)) & (orders < 100) & (orders < tone.ratio.size / tone.turns - 1)
    # The mesh's own line and its sidebands are no firing.
    mesh = machine.ring_teeth / scale
    for own in (mesh, mesh - 1 / scale, mesh + 1 / scale, 2 * mesh):
        heard &= np.abs(orders - own) > 0.4
    sigmas = np.where(heard, tone.sigmas_at(orders.ravel()).reshape(orders.shape), 0.0)
    strong = np.clip(sigmas - _WEAK, 0, 20)
    # Multiples that stand out one after the other; a comb needs two or more of its first four.
    counts = np.count_nonzero(strong[:, :4] > 1.0, axis=1)
    # Where its gear is known, one line at the place is enough.
    total = strong[:, :4].sum(axis=1) * (counts >= (1 if machine.gear else 2)) - 0.02 * apart
    at = int(total.argmax())
    if total[at] <= 0:
        return NOTHING, 0.0, 0, False
    # Any comb that explains nearly as much may have the mesh in it.
    likely = apart[total > 0.5 * total[at]]
    shared = bool(np.any(np.abs(mesh / likely - np.round(mesh / likely)) * likely < 0.25))
    place = int((sigmas[at] / np.sqrt(orders[at] + 1)).argmax())
    order = float(orders[at, place])
    return (
        SpectralLine(order, tone.over_at(order), float(sigmas[at, place])),
        float(apart[at]),
        int(counts[at]),
        shared,
    )


def _bands(
    blows: tuple[MeanSpectrum, ...], spectra: Spectra, orders: np.ndarray, least: float = 0.0
) -> np.ndarray:
    """How far each order stands out of two neighbouring bands together, shape (pairs, orders)."""
    rows = [
        mean.sigmas_at(orders) for mean, edge in zip(blows, spectra.edges, strict=True) if edge[1] > least
    ]
    if not rows:
        return np.zeros((1, len(orders)))
    every = np.array(rows)
    if len(rows) == 1:
        return every
    found: np.ndarray = (every[:-1] + every[1:]) / math.sqrt(2)
    return found


def _comb(blows: tuple[MeanSpectrum, ...], spectra: Spectra, order: float) -> float:
    """How far blows once a turn stand out: the weaker of its multiples, and of those that no half has."""
    multiples = np.array([2, 3, 4, 5, 6, 7, 9])
    sigmas = np.clip(_bands(blows, spectra, order * multiples, least=700.0), -2, 25)
    # Blows at two or three times the order have none of the third, the fifth and the seventh; the many
    # sidebands of a bearing stand everywhere between.
    alone = np.sort(sigmas[:, [0, 1, 3, 5]], axis=1)[:, 1]
    every = np.sort(sigmas, axis=1)[:, 1:5].mean(axis=1)
    between = _bands(blows, spectra, np.arange(3.3, 40, 0.05), least=700.0)
    usual = np.clip(np.quantile(between, 0.6, axis=1), 0, None)
    return float((np.minimum(alone, every) - usual).max())


def _blow(
    spectra: Spectra, machine: Machine, scale: float, pinion_tooth: bool, ring_tooth: bool
) -> Blow | None:
    """Blows of a bearing: the order whose harmonics stand out most in neighbouring bands."""
    blows = spectra.blows["all"]
    if not blows:
        return None
    orders = np.arange(*_BLOWS, 0.5 / blows[0].turns)
    every = np.array([_bands(blows, spectra, orders * h) for h in (1, 2, 3, 4)])
    inside = np.array([orders * h < MOST_ORDER - 2 for h in (1, 2, 3, 4)])[:, np.newaxis]
    capped = np.clip(every, -2.0, 25.0) * inside
    total = capped.sum(axis=0) / np.sqrt(inside.sum(axis=0))
    total = np.where((every[0] > 2.5) & (every[0] > 0.35 * every[1]), total, 0.0)
    pinion = machine.ratio / scale
    for apart, tooth in ((pinion, pinion_tooth), (1 / scale, ring_tooth)):
        if tooth:
            away = np.abs(orders / apart - np.round(orders / apart)) * apart
            total = np.where(away < 0.12 + 0.003 * orders, 0.0, total)
    at = int(total.max(axis=0).argmax())
    pair = int((total[:, at] + every[0][:, at]).argmax())
    order, sigmas = float(orders[at]), float(total[pair, at])
    if sigmas <= 0:
        return None
    at_sides = [order - pinion, order + pinion, order - 1 / scale, order + 1 / scale]
    sides = _bands(blows, spectra, np.array(at_sides))[pair]
    tone = spectra.tones["all"].line(max(order * 0.994, 1.0), order * 1.006)
    edges = spectra.edges
    return Blow(
        order,
        sigmas,
        band=(float(edges[pair][0]), float(edges[min(pair + 1, len(edges) - 1)][1])),
        by_pinion=float(np.mean(sides[:2])),
        by_ring=float(np.mean(sides[2:])),
        toned=tone.sigmas > SEEN and tone.over > -12.0,
    )


def bearing_density(order: float, machine: Machine, name: str, scale: float, std: float) -> float:
    """How likely blows of a bearing come at an order, per order.

    :param order: as it was heard, per told turn of the ring gear.
    :param machine: what is known of what turns.
    :param name: of the bearing.
    :param scale: what the speed's scale is corrected by.
    :param std: how well that is known.
    :source: its rates, exact or usual, widened by what is not known of the speed.
    """
    true = order * scale
    total = 0.0
    for known, often in zip(bearing_orders(machine, name), (0.45, 0.35, 0.2), strict=True):
        low, high = math.log(known.low), math.log(known.high)
        at = np.linspace(low, high, 9)
        spread = math.hypot(std, 0.004 if not known.usual else 0.03)
        away = (math.log(true) - at) / spread
        total += often * float(np.mean(np.exp(-(away**2) / 2))) / spread / math.sqrt(2 * math.pi)
    return total / true


def bearing_parts(order: float, machine: Machine, scale: float, std: float) -> list[tuple[str, float]]:
    """Bearings and their parts that blows at an order may be of, likeliest first.

    :param order: as it was heard.
    :param machine: what is known of what turns.
    :param scale: what the speed's scale is corrected by.
    :param std: how well that is known.
    :returns: title and share [1] of each.
    :source: as :func:`bearing_density`.
    """
    true, found = order * scale, []
    for name in usual_bearings():
        for known, often in zip(bearing_orders(machine, name), (0.45, 0.35, 0.2), strict=True):
            at = np.linspace(math.log(known.low), math.log(known.high), 9)
            spread = math.hypot(std, 0.004 if not known.usual else 0.03)
            away = (math.log(true) - at) / spread
            found.append((known.title, often * float(np.mean(np.exp(-(away**2) / 2))) / spread))
    total = sum(weight for _, weight in found) or 1.0
    ranked = sorted(((title, weight / total) for title, weight in found), key=lambda row: -row[1])
    return [row for row in ranked if row[1] > 0.05]


def loads(evidence: Evidence) -> tuple[float, float] | None:
    """Level of the mesh on drive and on coast [dB], where both were driven.

    :param evidence: of a recording.
    :source: marks.
    """
    if not {"drive", "coast"} <= set(evidence.mesh):
        return None
    return evidence.mesh["drive"].over, evidence.mesh["coast"].over
