"""What a finished job shows of its shop: differences only, each with how well the job tells it.

A gauge's zero, an eye and a cut's own centre are one bias that no job tells apart: of depth the gauge less
the prints is learned, and nothing of either alone. A wrench's scale is not learned without a master.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import Final

import numpy as np

from axle.learning.learned import JobFigure
from axle.measure.uncertainty import rectangular
from axle.preload.joint import Shows
from axle.procedure.names import KindName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.priors import Priors, Quantity, starting_widths
from axle.state.reading import Reading
from axle.stations.backlash import BACKLASH_STEP, expected_change, learned_ratios
from axle.stations.depth_posterior import depth_posterior
from axle.stations.preload_readings import TORQUE_STEP, pair_readings, pairs_of
from axle.stations.print_target import BOTH

# A job that narrows what is held of a quantity by less than this tells nothing of it: share of the
# variance.
_TELLS: Final = 0.2
_TORQUES: Final = (KindName.PINION_TORQUE, KindName.TOTAL_TORQUE, KindName.CARRIER_TORQUE)


def job_figures(state: AxleState) -> tuple[JobFigure, ...]:
    """Figures of one finished job, by what was held before any job was learned.

    :param state: the axle as it was finished; lengths [mm], torques [N·m].
    :returns: one figure at the most of each quantity that the job tells.
    :source: the job's posterior less what was held before (Bayes' rule for Gaussians, turned round).
    """
    bare = replace(state, priors=Priors(), finished_ratios=())
    return (*_of_pairs(bare), *_scatters(bare), *_of_ratio(bare), *_of_gauge(bare), *_of_prints(bare))


def _of_pairs(state: AxleState) -> Iterator[JobFigure]:
    """Stiffness, bedding in and drag of the mesh, where both pairs' readings tell them."""
    if not pair_readings(state):
        return
    pairs, loaded = pairs_of(state), {r.loaded for r in pair_readings(state)}
    torques = {r.shows for r in pair_readings(state)}
    rows = [
        (Quantity.PINION_STIFFNESS, 1, Shows.PINION_TORQUE in torques and state.layout.has_preload_pack),
        (Quantity.PINION_BED, 3, len(loaded) > 1 and state.new_bearings),
        (Quantity.CARRIER_STIFFNESS, 5, bool(torques & {Shows.CARRIER_TORQUE, Shows.TOTAL_TORQUE})),
        (Quantity.CARRIER_BED, 7, len(loaded) > 1 and state.new_bearings),
        (Quantity.MESH_DRAG, 8, Shows.TOTAL_TORQUE in torques),
    ]
    for quantity, at, told in rows:
        width, variance = starting_widths()[quantity], float(pairs.covariance[at, at])
        if not told or variance > 1 - _TELLS:
            continue
        # What the job alone says: its posterior with what was held before taken out again.
        precision = 1 / variance - 1
        value = float(pairs.mean[at]) / variance / precision
        yield JobFigure(
            quantity, width.centre * math.exp(width.std * value), width.std / math.sqrt(precision)
        )


def _scatters(state: AxleState) -> Iterator[JobFigure]:
    """Scatter of a hand, from what was read again: the step and the share of the torque taken out."""
    torques = [t for t in state.readings if t.kind in _TORQUES and len(t.values) > 1 and not t.disagrees]
    share = starting_widths()[Quantity.TORQUE_SHARE].centre
    rest = [rectangular(t.step or TORQUE_STEP) ** 2 + (share * t.value) ** 2 for t in torques]
    turned = [2.0 if t.conditions.get("both") else 1.0 for t in torques]
    yield from _scatter(Quantity.TORQUE_SCATTER, torques, rest, turned)
    lashes = [
        t for t in state.readings if t.kind == KindName.BACKLASH and len(t.values) > 1 and not t.disagrees
    ]
    steps = [rectangular(t.step or kind_named(t.kind).step or BACKLASH_STEP) ** 2 for t in lashes]
    yield from _scatter(Quantity.INDICATOR_SCATTER, lashes, steps, [1.0] * len(lashes))


def _scatter(
    quantity: Quantity, read: list[Reading], rest: list[float], turned: list[float]
) -> Iterator[JobFigure]:
    freedom = sum(len(t.values) - 1 for t in read)
    if freedom < 2:
        return
    squares = sum(
        float(np.var(t.values)) * len(t.values) * turns for t, turns in zip(read, turned, strict=True)
    )
    usual = sum(r * (len(t.values) - 1) for r, t in zip(rest, read, strict=True)) / freedom
    centre = starting_widths()[quantity].centre
    found = math.sqrt(max(squares / freedom - usual, (centre / 4) ** 2))
    # Of a variance with n degrees of freedom the logarithm of its root is known to 1 over the root of 2 n.
    yield JobFigure(quantity, found, math.sqrt(1 / (2 * freedom) + (usual / (2 * found**2)) ** 2 / freedom))


def _of_ratio(state: AxleState) -> Iterator[JobFigure]:
    """Backlash per movement of the ring gear over what is computed for the set, by the job's own moves."""
    learned, before = learned_ratios(state).ratios, expected_change(state)
    if learned.moves and learned.std < before.std * math.sqrt(1 - _TELLS):
        precision = learned.std**-2 - before.std**-2
        value = math.log(learned.per_ring / before.per_ring) / learned.std**2 / precision
        yield JobFigure(Quantity.RATIO, math.exp(value), precision**-0.5)


def _of_gauge(state: AxleState) -> Iterator[JobFigure]:
    """The gauge less the prints: what both leave together."""
    held = depth_posterior(state)
    if held is None or held.gauge is None or held.prints is None:
        return
    leaves = starting_widths()[Quantity.GAUGE_LEAVES].std
    own = max(held.gauge[1] ** 2 - leaves**2, 0.0)
    yield JobFigure(
        Quantity.GAUGE_LEAVES, held.gauge[0] - held.prints[0], math.hypot(held.prints[1], math.sqrt(own))
    )


def _of_prints(state: AxleState) -> Iterator[JobFigure]:
    """Scatter of a patch's middle from print to print of one assembly."""
    groups: dict[int, list[np.ndarray]] = {}
    for made in state.prints:
        if set(made.flanks) >= BOTH:
            middles = np.array([made.flanks[name].centroid for name in sorted(BOTH)])
            # The part that both flanks share is another quantity: their difference is free of it.
            groups.setdefault(made.assembly, []).append((middles[0] - middles[1]) / math.sqrt(2))
    several = [np.array(rows) for rows in groups.values() if len(rows) > 1]
    freedom = sum(2 * (len(rows) - 1) for rows in several)
    if freedom < 2:
        return
    squares = sum(float(((rows - rows.mean(axis=0)) ** 2).sum()) for rows in several)
    found = max(math.sqrt(squares / freedom), starting_widths()[Quantity.PRINT_SCATTER].centre / 4)
    yield JobFigure(Quantity.PRINT_SCATTER, found, 1 / math.sqrt(2 * freedom))
