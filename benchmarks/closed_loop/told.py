"""What an estimator knows that is told hands, instruments and bearings: the bound of a loop."""

from __future__ import annotations

from typing import Final

from axle.preload.curve import CARRIER_SLOPE, PINION_SLOPE, Slope
from axle.procedure.conditions import has_seal, is_feeler
from axle.simulator.true_axle import Spring, TrueAxle
from axle.state.priors import Priors, Quantity
from benchmarks.closed_loop.shop import Case

# Instruments that stand on the arbor or the bridge of a depth gauge.
_GAUGES: Final = (
    "depth_feeler",
    "dial_travel",
    "bridge_reading",
    "mic_reading",
    "bar_gap",
    "measured_distance",
)


def told_priors(case: Case) -> Priors:
    """Priors that know an axle's own figures.

    :param case: built in a world.
    """
    true, wear = case.true_axle, case.true_axle.wear
    assert wear is not None
    hands = wear.hands
    pinion = case.limits.pinion.aim if case.limits.pinion else PINION_SLOPE.torque
    carrier = case.limits.carrier.aim if case.limits.carrier else CARRIER_SLOPE.torque
    return Priors().told(
        {
            Quantity.PINION_STIFFNESS: _stiffness(true.pinion, PINION_SLOPE, pinion),
            Quantity.CARRIER_STIFFNESS: _stiffness(true.carrier, CARRIER_SLOPE, carrier),
            Quantity.MESH_DRAG: wear.mesh_drag,
            Quantity.PINION_BED: wear.pinion_bed,
            Quantity.CARRIER_BED: wear.carrier_bed,
            Quantity.TORQUE_SCATTER: hands.torque_std,
            Quantity.TORQUE_SHARE: hands.torque_share,
            Quantity.WRENCH_SCALE: 0.0,
            Quantity.WRENCH_ZERO: 0.0,
            Quantity.FEELER_FEEL: 0.0,
            Quantity.FEELER_SCATTER: hands.feel_scatter,
            Quantity.INDICATOR_SCATTER: hands.indicator_std,
            Quantity.MIC_ZERO: 0.0,
            Quantity.JOINT: wear.squeeze,
            Quantity.PRINT_SCATTER: hands.print_std,
            Quantity.PRINT_COMMON: hands.print_common_std,
            Quantity.EYE: 0.0,
        }
    )


def _stiffness(spring: Spring, usual: Slope, torque: float) -> float:
    """How stiff a pair is over the usual one, where it is set."""
    at = spring.interference(torque)
    return (torque - spring.drag) / (usual.coefficient * at ** (10 / 9))


def put_right(true: TrueAxle, kind: str, value: float) -> float:
    """A reading as somebody has it who knows what his instruments show too much [mm or N·m].

    :param true: the axle.
    :param kind: of reading.
    :param value: as it was read [mm or N·m].
    """
    wear = true.wear
    if wear is None or not value:
        return value
    hands = wear.hands
    if has_seal(kind):
        return max((value - hands.wrench_zero) / (1 + hands.wrench_scale), 0.0)
    feel = hands.feel if is_feeler(kind) else 0.0
    return value - feel - (hands.gauge_zero if kind in _GAUGES else 0.0)
