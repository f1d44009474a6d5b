"""What would have been right: the packs that the truth asks for, and the fewest steps to them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from axle.layout import Place
from axle.simulator.axle import AxleAssembly, Limits, SimulatedAxle
from axle.simulator.fault import FAULT_WORDS, Fault
from axle.simulator.true_axle import TrueAxle

_MIDDLE_TORQUE: Final = 2.26
# What each fault puts out of range by itself, so that nobody is blamed for it.
SPOILS: Final[Mapping[Fault, frozenset[str]]] = {
    Fault.GEAR_RUNOUT: frozenset({"spread", "runout"}),
    Fault.FLANGE_BURR: frozenset({"spread", "runout"}),
    Fault.BENT_PINION: frozenset({"spread", "backlash"}),
    Fault.UNSEATED_CUP: frozenset({"depth", "pinion preload", "carrier preload"}),
    Fault.DRY_BEARING: frozenset({"pinion preload", "carrier preload"}),
    Fault.WRONG_MARK: frozenset({"depth"}),
    Fault.SLINGER_OUT: frozenset({"depth", "pinion preload"}),
    Fault.SWAPPED_CAPS: frozenset({"spread", "carrier preload"}),
    Fault.MISLABELLED_SHIM: frozenset({"depth", "backlash", "carrier preload"}),
    Fault.WRENCH_NOT_ZERO: frozenset({"pinion preload", "carrier preload"}),
}
# What cures a fault, in a few words; common practice.
_CURES: Final[Mapping[Fault, str]] = {
    Fault.GEAR_RUNOUT: "Read around the ring gear, clock it, else replace the pair.",
    Fault.FLANGE_BURR: "File the faces flat, seat the gear again, read around once more.",
    Fault.BENT_PINION: "Replace ring and pinion as a pair.",
    Fault.UNSEATED_CUP: "Drive the cup home, then read depth and preload again.",
    Fault.DRY_BEARING: "Oil the bearing, turn it both ways, read again.",
    Fault.WRONG_MARK: "Confirm the mark with its convention turned round, and work depth out again.",
    Fault.SLINGER_OUT: "Put the slinger back where it was when depth was gauged.",
    Fault.SWAPPED_CAPS: "Put the caps where they were bored.",
    Fault.MISLABELLED_SHIM: "Measure every piece of the new pack.",
    Fault.WRENCH_NOT_ZERO: "Read both ways and take the mean.",
}


@dataclass(frozen=True)
class Best:
    """The best that could be done.

    :param packs: right setting by place [mm, or holes].
    :param steps: in order, in words.
    """

    packs: Mapping[Place, float]
    steps: tuple[str, ...]


def best_of(true_axle: TrueAxle, limits: Limits) -> Best:
    """Work out the packs that are truly right, and the shortest way to them.

    :param true_axle: the truth of an axle; lengths [mm].
    :param limits: what is asked of it.
    :source: the simulated axle's own equations, solved for the middle of each range.
    """
    packs = right_packs(true_axle, limits)
    layout = true_axle.subject.layout
    steps = []
    if true_axle.fault is not None:
        steps.append(f"Find what is wrong: {FAULT_WORDS[true_axle.fault]}. {_CURES[true_axle.fault]}")
    steps.append("Gauge the depth with the mark confirmed, and fit that shim once.")
    if layout.has_preload_pack:
        steps.append("Start the preload pack loose, read the play, and take away by it.")
    else:
        steps.append("Crush the sleeve in small bites to the middle of the range.")
    steps.append("Fit the sides, read torque and backlash, and print before anything comes apart.")
    steps.append("One move that changes all packs at once, then the last readings.")
    return Best(packs, tuple(steps))


def right_packs(true_axle: TrueAxle, limits: Limits) -> Mapping[Place, float]:
    """Settings at which a sound axle stands in the middle of every range.

    :param true_axle: the truth of an axle; lengths [mm].
    :param limits: what is asked of it.
    :source: as :func:`best_of`.
    """
    layout = true_axle.subject.layout
    found: dict[Place, float] = {Place.DEPTH: true_axle.right_pack}
    if layout.has_preload_pack:
        torque = limits.pinion.middle if limits.pinion else true_axle.subject.pinion_torque
        found[Place.PRELOAD] = true_axle.zero_pack - true_axle.pinion.interference(torque)
    inside = true_axle.carrier.interference(_MIDDLE_TORQUE)
    if limits.carrier is not None:
        inside = true_axle.carrier.interference(limits.carrier.middle)
    elif limits.interference is not None:
        inside = limits.interference.middle
    offset = 0.0
    if limits.backlash is not None:
        places = limits.places
        level = SimulatedAxle(true_axle, AxleAssembly(loaded=True))
        least = min(level.wobble(place, places) for place in range(1, places + 1))
        offset = (limits.backlash.middle - true_axle.lash_right) / true_axle.per_ring - least
    ring = true_axle.ring_right + true_axle.share * inside - offset
    far = true_axle.zero + inside - ring
    if layout.has_adjusters:
        each = true_axle.subject.pitch / true_axle.subject.holes
        return {**found, Place.RING: ring / each, Place.FAR: far / each}
    sign = -1.0 if true_axle.covers else 1.0
    return {**found, Place.RING: sign * ring, Place.FAR: sign * far}


def crushed_right(true_axle: TrueAxle) -> float:
    """Turn of the nut that crushes a sleeve to the middle of the range [degrees].

    :param true_axle: the truth of an axle.
    :source: as :func:`best_of`.
    """
    inside = true_axle.pinion.interference(true_axle.subject.pinion_torque)
    return true_axle.slack + inside / true_axle.sleeve_share / true_axle.subject.nut_pitch * 360
