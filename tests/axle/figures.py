"""Figures behind the words: what stations and decisions work out of a state, to four digits, as lines of text."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import fields, is_dataclass
from enum import Enum
from functools import partial
from typing import Any

import numpy as np

from axle.decision.carrier.first_packs import preload_start as sides_start
from axle.decision.carrier.start import start_of
from axle.decision.carrier.what_if import what_if
from axle.decision.fault_checks import inconsistencies
from axle.decision.first_load import last_check
from axle.decision.forecast import misses
from axle.decision.probability import in_range_probabilities
from axle.errors import AxleError
from axle.measure.units import METRIC
from axle.state.axle_state import AxleState
from axle.stations.backlash import (
    backlash_around,
    backlash_now,
    hole_worth,
    learned_ratios,
    own_moves,
    ratios_now,
)
from axle.stations.bearing_heights import what_heights_change
from axle.stations.carrier_preload import interference_now, wanted_interference
from axle.stations.carrier_torque import carrier_torque, carrier_trials, torque_curve, torque_per_hole
from axle.stations.depth import depth_start
from axle.stations.depth_measurements import depth_by_method, measured_depth
from axle.stations.depth_posterior import depth_posterior
from axle.stations.pattern import read_print
from axle.stations.pinion_preload import bite_for, bites_of
from axle.stations.pinion_trials import preload_start, trials_of
from axle.stations.preload_plot import carrier_plot_of, plot_of
from axle.stations.results import valid_run
from axle.stations.runout import diagnose, tell_apart
from axle.stations.thermal import usual_lengths
from axle.stations.two_measures import measures
from axle.stations.zero_play import per_hole, ring_alone, zero_play

_WORKED_OUT: tuple[Callable[[AxleState], Any], ...] = (
    backlash_around,
    backlash_now,
    bite_for,
    bites_of,
    carrier_plot_of,
    carrier_torque,
    carrier_trials,
    depth_by_method,
    depth_posterior,
    depth_start,
    hole_worth,
    in_range_probabilities,
    interference_now,
    last_check,
    learned_ratios,
    measured_depth,
    measures,
    misses,
    own_moves,
    per_hole,
    plot_of,
    preload_start,
    ratios_now,
    read_print,
    ring_alone,
    sides_start,
    start_of,
    tell_apart,
    torque_curve,
    torque_per_hole,
    trials_of,
    usual_lengths,
    valid_run,
    wanted_interference,
    what_heights_change,
    zero_play,
    partial(diagnose, display=METRIC),
    partial(inconsistencies, display=METRIC),
    partial(what_if, display=METRIC, deeper=0.05),
    partial(what_if, display=METRIC, deeper=-0.05),
)
# What a state was made of is not what was worked out of it.
_NOT_WORKED_OUT = (
    "Layout",
    "Sheet",
    "AxleState",
    "Reading",
    "Print",
    "Display",
    "Unit",
    "Method",
    "Curve",
    "Disagreement",
)


def figures_of(state: AxleState) -> Iterator[str]:
    """One line for each thing that is worked out of a state."""
    for number, function in enumerate(_WORKED_OUT):
        name = getattr(function, "__name__", "") or f"{function.func.__name__} {number}"
        try:
            yield f"  {name}: {told(function(state))}"
        except AxleError as problem:
            yield f"  {name}: refused: {problem}"


def told(value: Any) -> str:
    """A value as text, figures to four digits."""
    if isinstance(value, Enum):
        return str(value.value)
    if isinstance(value, float | np.floating):
        return f"{float(value):.4g}"
    if isinstance(value, np.ndarray):
        return f"{value.shape} {told(value.ravel()[:: max(value.size // 3, 1)].tolist())}"
    if is_dataclass(value) and not isinstance(value, type):
        if type(value).__name__ in _NOT_WORKED_OUT:
            return "…"
        # Without their names: a field may be renamed, and is the same figure.
        return f"({', '.join(told(getattr(value, field.name)) for field in fields(value))})"
    if isinstance(value, Mapping):
        return "{" + ", ".join(f"{told(k)}: {told(v)}" for k, v in value.items()) + "}"
    if isinstance(value, list | tuple | set | frozenset):
        rows = sorted(map(told, value)) if isinstance(value, set | frozenset) else [told(v) for v in value]
        return f"[{', '.join(rows)}]"
    return str(value) if isinstance(value, str | int | bool | None) else type(value).__name__
