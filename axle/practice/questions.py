"""Generated questions: a pattern to read, a shim to think through. The answers come of a simulated axle."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

from axle.contact.patch import Patch
from axle.contact.reading import depth_tolerance
from axle.gearset import GearSet
from axle.layout import Layout, Place, every_layout
from axle.simulator.axle import AxleAssembly, SimulatedAxle
from axle.simulator.measure import patches
from axle.simulator.true_axle import Subject, TrueAxle, sample_axle

# How far the pinion stands in a question [mm]: clearly wrong, or clearly right.
_WRONG: Final = (0.13, 0.25)
_THICKER: Final = 0.127
_GEARS: Final = GearSet(11, 41)

PATTERN_ANSWERS: Final[Mapping[str, str]] = {
    "deep": "The pinion is too deep: move it out",
    "right": "Depth is right: leave it",
    "shallow": "The pinion is too shallow: move it in",
}
SHIM_ANSWERS: Final[Mapping[str, Mapping[str, str]]] = {
    "depth": {"deeper": "The pinion comes deeper", "shallower": "The pinion comes shallower"},
    "preload": {"more": "More pinion preload", "less": "Less pinion preload"},
    "ring": {"opens": "The backlash opens", "closes": "The backlash closes"},
    "far": {"opens": "The backlash opens", "closes": "The backlash closes"},
    "sides": {"more": "More carrier preload", "less": "Less carrier preload"},
}


@dataclass(frozen=True)
class PatternQuestion:
    """Both flanks of one print, and where the pinion stands.

    :param patches: wiped patch by flank word.
    :param answer: key of :data:`PATTERN_ANSWERS`.
    :param depth: depth error [mm].
    :param drive_convex: the drive flank is the convex one.
    """

    patches: Mapping[str, Patch]
    answer: str
    depth: float
    drive_convex: bool


@dataclass(frozen=True)
class ShimQuestion:
    """One shim of one axle made thicker, or an adjuster turned in.

    :param layout: the axle.
    :param place: "depth", "preload", "ring", "far", or "sides" for both sides alike.
    :param answer: key of its :data:`SHIM_ANSWERS`.
    """

    layout: Layout
    place: str
    answer: str


def pattern_question(seed: int) -> PatternQuestion:
    """Make a question of one print.

    :param seed: any whole number; the same one asks the same.
    :source: a simulated axle, its backlash right.
    """
    source = random.Random(seed)
    layout = source.choice(_layouts())
    true_axle = sample_axle(Subject(layout, _GEARS), seed)
    wanted = source.choice(("deep", "right", "shallow"))
    size = source.uniform(*_WRONG)
    depth = {"deep": size, "shallow": -size, "right": source.uniform(-0.02, 0.02)}[wanted]
    axle = _with_depth(true_axle, depth)
    return PatternQuestion(
        patches(axle, source), _told(axle.depth_error), depth=depth, drive_convex=_GEARS.drive_convex
    )


def _told(error: float) -> str:
    if abs(error) < depth_tolerance():
        return "right"
    return "deep" if error > 0 else "shallow"


def _with_depth(true_axle: TrueAxle, depth: float) -> SimulatedAxle:
    """The axle at a depth, its ring gear where the backlash is right again."""
    shim = true_axle.right_pack + (depth if true_axle.shim_pushes_in else -depth)
    moved = -true_axle.per_depth * depth / true_axle.per_ring
    ring = true_axle.ring_right - moved
    sides = (ring, true_axle.zero - ring)
    held = tuple(-x for x in sides) if true_axle.covers else sides
    if true_axle.subject.layout.has_adjusters:
        each = true_axle.subject.pitch / true_axle.subject.holes
        held = (sides[0] / each, sides[1] / each)
    return SimulatedAxle(
        true_axle, AxleAssembly({Place.DEPTH: shim, Place.RING: held[0], Place.FAR: held[1]}, loaded=True)
    )


def shim_question(seed: int) -> ShimQuestion:
    """Make a question of one shim.

    :param seed: any whole number; the same one asks the same.
    :source: what a simulated axle does when the shim is made thicker.
    """
    source = random.Random(seed)
    layout = source.choice(_layouts())
    places = ["depth", "ring", "far", "sides"]
    if layout.has_preload_pack:
        places.append("preload")
    place = source.choice(places)
    return ShimQuestion(layout, place, _does(layout, place))


def _does(layout: Layout, place: str) -> str:
    """Make it thicker on a simulated axle and look."""
    true_axle = sample_axle(Subject(layout, _GEARS), 1)
    # Well under preload, so that every change shows.
    base = _with_depth(true_axle, 0.0)
    step = 2.0 if layout.has_adjusters and place in ("ring", "far", "sides") else _THICKER
    tight = -0.4 if true_axle.covers else 0.4
    each = true_axle.subject.pitch / true_axle.subject.holes if layout.has_adjusters else 1.0
    settings = dict(base.built.settings)
    for side in (Place.RING, Place.FAR):
        settings[side] += tight / 2 / each
    settings[Place.PRELOAD] = true_axle.zero_pack - 0.1
    before = replace(base, built=replace(base.built, settings=settings))
    changed = [Place.RING, Place.FAR] if place == "sides" else [Place(place)]
    after = replace(
        before,
        built=replace(before.built, settings={**settings, **{p: settings[p] + step for p in changed}}),
    )
    if place == "depth":
        return "deeper" if after.depth_error > before.depth_error else "shallower"
    if place == "preload":
        return "more" if after.pinion_interference > before.pinion_interference else "less"
    if place == "sides":
        return "more" if after.carrier_interference > before.carrier_interference else "less"
    return "opens" if after.lash(1, 4) > before.lash(1, 4) else "closes"


def _layouts() -> list[Layout]:
    return [item for item in every_layout() if item.drive_flank.value == "convex"]
