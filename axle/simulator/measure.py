"""What instruments show on a simulated axle: truth, bias, scatter and step; and prints of its teeth."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from axle.contact.patch import Patch
from axle.contact.pattern import Pattern
from axle.contact.response import pair
from axle.errors import AxleError
from axle.layout import Place
from axle.procedure.names import KindName
from axle.simulator.axle import SimulatedAxle
from axle.simulator.misread import misread
from axle.simulator.true_axle import figures, spreads
from axle.simulator.workshop import Wear

# What is read once and has no truth of its own on a simulated axle [mm or N·m]; made up.
_PLAIN: Final = {
    "arrival_side_play": 0.0,
    "arrival_total_torque": 2.0,
    "arrival_pinion_play": 0.0,
    "arrival_pinion_torque": 1.2,
    "spread": 0.30,
    "arbor_diameter": 40.0,
    "bar_offset": 20.0,
    "stand_inner": 27.0,
    "stand_outer": 22.0,
    "stand_left": 24.0,
    "stand_right": 24.0,
    "width_inner": 25.0,
    "width_outer": 20.0,
    "slinger_thickness": 0.64,
}
_BOLTS: Final = {"pinion_nut_torque": 278.0, "ring_bolt_torque": 81.0, "cap_torque": 78.0}
# Equal spacers of the first fit are so much looser than zero play on each side [mm], and what a carrier
# held by hand without packs is held at.
_THIN: Final = 0.6
_HELD_LASH: Final = 0.28
_FEELERS: Final = ("depth_feeler", "spacer_play", "gap_ring", "gap_far", "bar_gap")
_MICS: Final = (
    "mic_reading",
    "arbor_diameter",
    "head_height",
    "old_shim",
    "thin_spacer",
    "measured_distance",
    "stand_inner",
    "stand_outer",
    "stand_left",
    "stand_right",
    "width_inner",
    "width_outer",
    "slinger_thickness",
    "bar_offset",
    "bar_stack",
    "bridge_reach",
)
_TORQUES: Final = (
    "pinion_torque",
    "total_torque",
    "carrier_torque",
    "arrival_total_torque",
    "arrival_pinion_torque",
)
# Grades of a pack that is driven in, by interference up to [mm]: falls in, slides, light taps, blows.
_TAPS: Final = ((-0.02, 1), (0.04, 2), (0.20, 3), (0.33, 4), (math.inf, 5))


@dataclass(frozen=True)
class MeasurementRequest:
    """What is read and how.

    :param kind: as in ``readings.toml``.
    :param place: from 1.
    :param places: number of places.
    :param pushed: where the carrier is pushed while it has play: "", "away", "towards" or "centred".
    """

    kind: str
    place: int = 1
    places: int = 4
    pushed: str = ""

    @property
    def rests(self) -> float:
        """Share of the play on the ring gear's side."""
        return {"towards": 1.0, "centred": 0.5}.get(self.pushed, 0.0)


def truth(axle: SimulatedAxle, asked: MeasurementRequest) -> float:
    """What there is to read, without noise.

    :param axle: as it is built.
    :param asked: what is read [mm or N·m].
    :raises AxleError: for a kind that a simulated axle does not answer.
    :source: lengths and springs of :mod:`axle.simulator.axle`.
    """
    if asked.kind in _PLAIN:
        return float(_PLAIN[asked.kind])
    tools = _tools(axle)
    if asked.kind in tools:
        return tools[asked.kind]
    if asked.kind in _BOLTS:
        return float(_BOLTS[asked.kind])
    answers: Mapping[str, Callable[[], float]] = {
        "pinion_torque": lambda: axle.pinion_torque,
        "pinion_end_play": lambda: max(-axle.pinion_interference, 0.0),
        "total_torque": lambda: axle.total_torque,
        "carrier_torque": lambda: axle.carrier_torque,
        "carrier_end_play": lambda: max(-axle.carrier_interference, 0.0),
        "zero_play": lambda: max(-axle.carrier_interference, 0.0),
        "backlash": lambda: axle.lash(asked.place, asked.places, asked.rests),
        "arrival_backlash": lambda: (
            axle.true_axle.lash_right + 0.05 + axle.wobble(asked.place, asked.places)
        ),
        "arrival_runout": lambda: axle.runout,
        "ring_runout": lambda: axle.runout,
        "ring_run": lambda: axle.wobble(asked.place, asked.places),
        "flange_run": lambda: axle.wobble(asked.place, asked.places, gear=False),
        "tap_in": lambda: float(next(g for most, g in _TAPS if axle.carrier_interference <= most)),
        "adjuster_pull": lambda: 40.0 + 240.0 * max(axle.carrier_interference, 0.0),
    }
    if asked.kind in answers:
        return float(answers[asked.kind]())
    return _depth(axle, asked.kind) if asked.kind in _DEPTH else _first_fit(axle, asked.kind)


_DEPTH: Final = (
    "depth_feeler",
    "dial_travel",
    "bridge_reading",
    "mic_reading",
    "bar_gap",
    "measured_distance",
    "old_shim",
    "old_mark",
)


def _tools(axle: SimulatedAxle) -> Mapping[str, float]:
    """What a gauge set is made up to for this pinion [mm]."""
    subject = axle.true_axle.subject
    return {
        "head_height": subject.head,
        "bridge_reach": subject.nominal + 2.0,
        "bar_stack": subject.nominal - _PLAIN["bar_offset"] - 1.0,
    }


def _depth(axle: SimulatedAxle, kind: str) -> float:
    """Depth as each way of finding it sees it, with what the gauge is off on this axle."""
    true_axle = axle.true_axle
    gauged = replace(axle, built=replace(axle.built, gauging=True)).face + true_axle.gauge_off
    growth, tools = gauged - true_axle.subject.nominal, _tools(axle)
    old_mark = 0.0254
    old = true_axle.right_pack + true_axle.gauge_off
    old += (true_axle.mark - old_mark) * (1 if true_axle.shim_pushes_in else -1)
    found = {
        "depth_feeler": growth,
        "dial_travel": growth,
        "bridge_reading": tools["bridge_reach"] - gauged,
        "mic_reading": gauged + _PLAIN["arbor_diameter"] / 2,
        "bar_gap": gauged - _PLAIN["bar_offset"] - tools["bar_stack"],
        "measured_distance": gauged,
        "old_shim": old,
        "old_mark": old_mark,
    }
    return float(found[kind])


def _first_fit(axle: SimulatedAxle, kind: str) -> float:
    """With equal thin spacers in, or with the carrier held by hand and no packs."""
    true_axle = axle.true_axle
    sign = -1 if true_axle.covers else 1
    zero = sign * true_axle.zero
    thin = round((zero / 2 - sign * _THIN) / 0.0254) * 0.0254
    per_depth = true_axle.per_depth * axle.depth_error
    # Pushed away the carrier lies on the ring side's spacer.
    offset = true_axle.ring_right - sign * thin
    held = (_HELD_LASH - true_axle.lash_right - per_depth) / true_axle.per_ring
    ring = true_axle.ring_right - held
    found = {
        "thin_spacer": thin,
        "spacer_play": sign * (zero - 2 * thin),
        "spacer_backlash": max(true_axle.lash_right + true_axle.per_ring * offset + per_depth, 0.0),
        "held_backlash": _HELD_LASH,
        "gap_ring": sign * ring,
        "gap_far": sign * (true_axle.zero - ring),
    }
    if kind not in found:
        raise AxleError("reading", given=f"“{kind}”", wanted="one that a simulated axle answers")
    return found[kind]


def read(axle: SimulatedAxle, asked: MeasurementRequest, source: random.Random) -> float:
    """Read once, as the instrument for a kind does.

    :param axle: as it is built.
    :param asked: what is read.
    :param source: random numbers of the scatter.
    :returns: what is shown, rounded to the instrument's step [mm or N·m].
    :raises AxleError: as :func:`truth`.
    :source: ``spreads.toml``; in a world its hands and instruments.
    """
    value, kind, of = truth(axle, asked), asked.kind, spreads()["instruments"]
    if kind in (KindName.TAP_IN, KindName.OLD_MARK):
        return value
    if axle.true_axle.wear is not None:
        return _read_by_hand(axle, asked, value, source)
    if kind in _TORQUES:
        return wrench(axle, value, kind, source)
    if kind in _BOLTS:
        return _stepped(value + source.gauss(0, of["bolt_sigma"]), of["bolt_step"])
    if kind in _FEELERS:
        return _stepped(value + source.gauss(0, of["feeler_step"] / 6), of["feeler_step"])
    if kind in _MICS:
        return _stepped(value + source.gauss(0, of["micrometer_sigma"]), of["micrometer_step"])
    signed = kind in (KindName.RING_RUN, KindName.FLANGE_RUN)
    shown = value + source.gauss(0, of["indicator_sigma"]) if value or signed else 0.0
    step = of["indicator_step"]
    return round(shown / step) * step if signed else _stepped(shown, step)


def _read_by_hand(
    axle: SimulatedAxle, asked: MeasurementRequest, value: float, source: random.Random
) -> float:
    """As a person of a world reads it, who now and then reads a figure that is not there."""
    wear = axle.true_axle.wear
    assert wear is not None
    shown, step = _shown_to(wear, axle, asked.kind, value, source)
    if source.random() >= wear.hands.misread_chance:
        return shown
    around = asked.kind in ("backlash", "ring_run", "flange_run") and asked.places > 1
    other = 1 + (asked.place - 1 + source.randint(1, max(asked.places - 1, 1))) % asked.places
    elsewhere = truth(axle, replace(asked, place=other)) if around else None
    torque = asked.kind in _TORQUES or asked.kind in _BOLTS
    return misread(shown, source, torque=torque, dial=asked.kind in _DIALS, elsewhere=elsewhere, step=step)


def _shown_to(
    wear: Wear, axle: SimulatedAxle, kind: str, value: float, source: random.Random
) -> tuple[float, float]:
    """What an instrument shows in a hand, and the step it is read to."""
    hands, of = wear.hands, spreads()["instruments"]
    if kind in _TORQUES:
        faulty = axle.true_axle.scatter * axle.pinion_torque if kind != "carrier_torque" else 0.0
        scatter = math.hypot(hands.torque_std, hands.torque_share * value, faulty)
        shown = value * (1 + hands.wrench_scale) + hands.wrench_zero + axle.true_axle.wrench_off
        # Nothing turns at less than nothing: a pair that is loose shows the wrench's own zero at the most.
        return _stepped(shown + source.gauss(0, scatter), of["wrench_step"]), of["wrench_step"]
    if kind in _BOLTS:
        # A bolt is pulled until the wrench shows what is wanted: what is off shows in the bolt, not on the
        # wrench.
        shown = value + source.gauss(0, of["bolt_sigma"])
        return _stepped(shown, of["bolt_step"]), of["bolt_step"]
    if kind in _FEELERS:
        # What enters is the thickest blade that the gap and the hand let in.
        shown = value + hands.feel + source.gauss(0, hands.feel_scatter)
        return _stepped(shown, of["feeler_step"]), of["feeler_step"]
    if kind in _MICS:
        shown = value + hands.mic_zero + source.gauss(0, of["micrometer_sigma"])
        return _stepped(shown, of["micrometer_step"]), of["micrometer_step"]
    signed = kind in (KindName.RING_RUN, KindName.FLANGE_RUN)
    step = of["indicator_step"]
    moved = value * hands.indicator_share
    shown = moved + source.gauss(0, hands.indicator_std) if value or signed else 0.0
    return round(shown / step) * step if signed else _stepped(shown, step), step


# What is read on a dial that turns more than once.
_DIALS: Final = (
    "backlash",
    "dial_travel",
    "bridge_reading",
    "pinion_end_play",
    "carrier_end_play",
    "zero_play",
    "spacer_backlash",
    "held_backlash",
)


def wrench(axle: SimulatedAxle, value: float, kind: str, source: random.Random) -> float:
    """A rotating torque as the wrench shows it.

    :param axle: as it is built.
    :param value: truth [N·m].
    :param kind: which torque.
    :param source: random numbers of the scatter.
    :source: ``spreads.toml``.
    """
    of, true_axle = spreads()["instruments"], axle.true_axle
    scatter = of["wrench_share"] * value
    if kind in (KindName.PINION_TORQUE, KindName.TOTAL_TORQUE):
        scatter += true_axle.scatter * axle.pinion_torque
    shown = value + true_axle.wrench_off + source.gauss(0, math.hypot(of["wrench_sigma"], scatter))
    return _stepped(shown, of["wrench_step"])


def both_ways(axle: SimulatedAxle, asked: MeasurementRequest, source: random.Random) -> tuple[float, float]:
    """A rotating torque read one way and the other: a wrench that does not zero is off by the opposite.

    :param axle: as it is built.
    :param asked: which torque.
    :param source: random numbers of the scatter.
    :returns: both figures [N·m].
    :source: common practice: the mean of both is free of the wrench's zero.
    """
    one = read(axle, asked, source)
    turned = replace(axle, true_axle=replace(axle.true_axle, wrench_off=-axle.true_axle.wrench_off))
    return one, read(turned, asked, source)


def _stepped(value: float, step: float) -> float:
    return float(max(round(value / step), 0) * step)


def piece_off(axle_seed: int, piece: int, *, miced: bool, wear: Wear | None = None) -> float:
    """What a shim truly holds over its size [mm]: the same whenever the same shim is fitted.

    :param axle_seed: the axle's seed.
    :param piece: the shim's key.
    :param miced: whether it was measured rather than read off its label.
    :param wear: whose micrometer measured it; that of the bench of practice when left out.
    :source: ``spreads.toml``; in a world its hands.

    >>> piece_off(1, 2, miced=True) == piece_off(1, 2, miced=True)
    True
    """
    sigma = spreads()["instruments"]["piece_miced" if miced else "piece_marked"]
    if wear is not None and miced:
        # A micrometer that shows more than there is makes thinner packs of the same figure.
        return random.Random(axle_seed * 1_000_003 + piece).gauss(-wear.hands.mic_zero, wear.piece_std)
    return random.Random(axle_seed * 1_000_003 + piece).gauss(0, sigma)


def patches(
    axle: SimulatedAxle, source: random.Random, place: int = 1, places: int = 1
) -> Mapping[str, Patch]:
    """Print both flanks at a place, as somebody draws them who looks well.

    :param axle: as it is built.
    :param source: random numbers of the scatter.
    :param place: around the ring gear, from 1.
    :param places: number of places printed.
    :returns: the wiped patch by flank word.
    :source: the meshing of the set as it was truly cut.
    """
    moved = axle.outlines("drive", place, places)
    shown = pair(axle.true_axle.cut, depth=moved["depth"], ring=moved["ring"])
    names = ("drive", "coast") if axle.true_axle.subject.gears.drive_convex else ("coast", "drive")
    sigma, both = spreads()["instruments"]["print_sigma"], (0.0, 0.0)
    wear = axle.true_axle.wear
    if wear is not None:
        hands = wear.hands
        times = hands.faint_times if source.random() < hands.faint_chance else 1.0
        sigma, common = hands.print_std * times, hands.print_common_std * times
        both = hands.eye[0] + source.gauss(0, common), hands.eye[1] + source.gauss(0, common)
    found = {}
    for name, pattern in zip(names, (shown.convex, shown.concave), strict=True):
        found[name] = _shifted(pattern, both[0] + source.gauss(0, sigma), both[1] + source.gauss(0, sigma))
    return {name: found[name] for name in ("drive", "coast")}


def _shifted(pattern: Pattern, along: float, up: float) -> Patch:
    outline = max(pattern.outlines, key=len)
    # A shifted patch keeps on the flank what is left of it: the shift is held back where it would leave.
    moved = np.clip(outline[:-1] + np.array([along, up]), 0.0, 1.0)
    try:
        return Patch(tuple((float(u), float(v)) for u, v in moved))
    except AxleError:
        return Patch(tuple((float(u), float(v)) for u, v in np.clip(outline[:-1], 0.0, 1.0)))


def first_settings(seed: int, axle: SimulatedAxle, *, preloaded: bool = False) -> Mapping[Place, float]:
    """What lies in the axle when it comes in, or what is first tried: packs [mm] or holes.

    The first backlash may lie anywhere in its range; the depth pack is a guess without a gauge.

    :param seed: of the guess.
    :param axle: with nothing fitted.
    :param preloaded: both preloads are right already.
    :source: ``spreads.toml``.
    """
    true_axle, source = axle.true_axle, random.Random(seed * 7919 + 11)
    depth = true_axle.right_pack + source.gauss(0, figures(true_axle.world, "depth")["guess_sigma"])
    lash = source.uniform(*spreads()["backlash"]["first"])
    inside = source.uniform(*spreads()["carrier"]["first_interference"])
    if preloaded:
        inside = true_axle.carrier.interference(spreads()["carrier"]["torque"])
    deep = (depth - true_axle.right_pack) * (1 if true_axle.shim_pushes_in else -1)
    offset = (lash - true_axle.lash_right - true_axle.per_depth * deep) / true_axle.per_ring
    ring = true_axle.ring_right - offset + true_axle.share * max(inside, 0.0)
    far = true_axle.zero + inside - ring
    sides = (-ring, -far) if true_axle.covers else (ring, far)
    layout = true_axle.subject.layout
    wanted = true_axle.pinion.interference(true_axle.subject.pinion_torque)
    pack = true_axle.zero_pack - wanted
    if true_axle.stack_follows:
        pack += depth - true_axle.right_pack
    if not preloaded:
        pack += source.gauss(0, spreads()["pinion"]["first_off_sigma"])
    found = {Place.DEPTH: _stepped(depth, 0.0254), Place.RING: sides[0], Place.FAR: sides[1]}
    if layout.has_preload_pack:
        found[Place.PRELOAD] = _stepped(pack, 0.0254)
    each = true_axle.subject.pitch / true_axle.subject.holes if layout.has_adjusters else 0.0254
    for place in (Place.RING, Place.FAR):
        steps = round(found[place] / each)
        found[place] = float(steps) if layout.has_adjusters else steps * each
    return found
