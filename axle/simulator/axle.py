"""A simulated axle as it is built: where its parts stand, and whether that is truly in range."""

from __future__ import annotations

import cmath
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from axle.layout import Layout, Place, PreloadBy, SpacerSeat
from axle.measure.range import Range
from axle.simulator.true_axle import TrueAxle
from axle.spec.limits import BacklashLimits, BacklashRule


@dataclass(frozen=True)
class AxleAssembly:
    """How the axle is put together at a moment, as its builder believes.

    :param settings: recorded packs [mm], adjusters [holes], clocking [bolt holes], by place.
    :param off: what a pack truly holds over what is recorded [mm], by place.
    :param loaded: a print was made since the bearings were fitted: what was not home is home.
    :param gauging: depth is being gauged: whatever is left out later is still in.
    :param turned: turn of the nut since the sleeve went in [degrees].
    :param bolts: ring gear bolts, for clocking.
    """

    settings: Mapping[Place, float] = field(default_factory=dict)
    off: Mapping[Place, float] = field(default_factory=dict)
    loaded: bool = False
    gauging: bool = False
    turned: float = 0.0
    bolts: int = 10

    def held(self, place: Place) -> float:
        """What truly stands at a place [mm, or holes]."""
        return self.settings.get(place, 0.0) + self.off.get(place, 0.0)


@dataclass(frozen=True)
class SimulatedAxle:
    """An axle in one piece.

    :param true_axle: its truth.
    :param built: how it is put together.
    """

    true_axle: TrueAxle
    built: AxleAssembly

    @property
    def _layout(self) -> Layout:
        return self.true_axle.subject.layout

    @property
    def face(self) -> float:
        """Distance from the ring axis to the pinion's face [mm]."""
        shim = self.built.held(Place.DEPTH)
        face = self.true_axle.bare - shim if self.true_axle.shim_pushes_in else self.true_axle.bare + shim
        if not self.built.loaded:
            face -= self.true_axle.proud
        elif self.true_axle.wear is not None:
            face += self.true_axle.wear.bed_depth
        # What lies between head and cone holds the pinion in; left out, it stands further out.
        return face if self.built.gauging else face + self.true_axle.slinger

    @property
    def depth_error(self) -> float:
        """How much too near the ring axis the pinion stands [mm]."""
        return self.true_axle.distance - self.face

    @property
    def pinion_interference(self) -> float:
        """Interference of the pinion pair [mm]; below zero it is end play."""
        true_axle, built = self.true_axle, self.built
        if self._layout.preload_by is PreloadBy.SLEEVE:
            advance = (built.turned - true_axle.slack) / 360 * true_axle.subject.nut_pitch
            found = advance * true_axle.sleeve_share if advance > 0 else advance
        else:
            found = true_axle.zero_pack - built.held(Place.PRELOAD)
            if true_axle.stack_follows:
                found += built.held(Place.DEPTH) - true_axle.right_pack
            if self._layout.spacer_seat is SpacerSeat.SHOULDER and not built.gauging:
                found -= true_axle.slinger
        if not built.loaded:
            return found + true_axle.proud
        return found - (true_axle.wear.pinion_bed if true_axle.wear else 0.0)

    @property
    def pinion_torque(self) -> float:
        """Rotating torque of the pinion alone [N·m]."""
        return self.true_axle.pinion.torque(self.pinion_interference)

    @property
    def sides(self) -> tuple[float, float]:
        """Ring and far side as tightness [mm]."""
        ring, far = self.built.held(Place.RING), self.built.held(Place.FAR)
        if self._layout.has_adjusters:
            each = self.true_axle.subject.pitch / self.true_axle.subject.holes
            return ring * each, far * each
        return (-ring, -far) if self.true_axle.covers else (ring, far)

    @property
    def carrier_interference(self) -> float:
        """Interference of the carrier pair [mm]; below zero it is play."""
        settled = self.true_axle.wear.carrier_bed if self.true_axle.wear and self.built.loaded else 0.0
        return sum(self.sides) - self.true_axle.zero - settled

    @property
    def carrier_torque(self) -> float:
        """Rotating torque of the carrier alone [N·m]."""
        return self.true_axle.carrier.torque(self.carrier_interference) + self.true_axle.caps_pinch

    @property
    def total_torque(self) -> float:
        """Rotating torque of the whole at the pinion [N·m]."""
        gears = self.true_axle.subject.gears
        return self.pinion_torque + self.carrier_torque / gears.ratio + self.true_axle.mesh_drag

    def ring_offset(self, rests: float = 0.0) -> float:
        """How far the ring gear stands away from its right place [mm].

        :param rests: where it lies while there is play: 0 pushed away from the pinion, 1 towards it.
        """
        ring, _ = self.sides
        loaded, play = max(self.carrier_interference, 0.0), max(-self.carrier_interference, 0.0)
        return self.true_axle.ring_right - ring + self.true_axle.share * loaded - rests * play

    def lash(self, place: int, places: int, rests: float = 0.0) -> float:
        """Backlash at a place around the ring gear [mm]; gears that lock have none."""
        true_axle = self.true_axle
        mean = (
            true_axle.lash_right
            + true_axle.per_ring * self.ring_offset(rests)
            + true_axle.per_depth * self.depth_error
        )
        return max(mean + true_axle.per_ring * self.wobble(place, places) + self._bent(place, places), 0.0)

    def lashes(self, places: int) -> tuple[float, ...]:
        """Backlash at each of so many places [mm]."""
        return tuple(self.lash(place, places) for place in range(1, places + 1))

    @cached_property
    def tilt(self) -> complex:
        """First-order runout of the mounted ring gear, amplitude and angle [mm]."""
        turned = self.built.settings.get(Place.CLOCK, 0.0) / self.built.bolts
        return self.true_axle.flange_wobble + self.true_axle.gear_wobble * cmath.exp(1j * math.tau * turned)

    def wobble(self, place: int, places: int, *, gear: bool = True) -> float:
        """How far the ring gear, or its flange alone, stands out at a place [mm]."""
        angle = math.tau * (place - 1) / places
        if not gear:
            return (self.true_axle.flange_wobble * cmath.exp(-1j * angle)).real
        return (self.tilt * cmath.exp(-1j * angle)).real + self.true_axle.second * math.cos(2 * angle)

    def _bent(self, place: int, places: int) -> float:
        angle = math.tau * (place - 1) / places * self.true_axle.subject.gears.ratio
        return self.true_axle.bend * math.cos(angle + self.true_axle.seed % 6)

    @property
    def runout(self) -> float:
        """Indicated runout of the mounted ring gear over a whole turn [mm]."""
        found = [self.wobble(place, 72) for place in range(1, 73)]
        return max(found) - min(found)

    def outlines(self, flank: str, place: int = 1, places: int = 1) -> Mapping[str, float]:
        """Displacements at a place by which the pattern of a flank is worked out [mm]."""
        del flank  # both flanks stand at the same place
        ring = self.ring_offset() + self.wobble(place, places)
        most = 0.8
        return {"depth": min(max(self.depth_error, -most), most), "ring": min(max(ring, -most), most)}


@dataclass(frozen=True)
class Limits:
    """What the sheet asks of the truth.

    :param depth: depth either way [mm].
    :param backlash: the sheet's limits, or nothing where it has none.
    :param places: places around the ring at which it is read.
    :param pinion: rotating torque of the pinion [N·m], or nothing.
    :param carrier: rotating torque of the carrier [N·m], or nothing.
    :param interference: the carrier's, where the job goes by it [mm], or nothing.
    :param runout: indicated, at the most [mm].
    """

    depth: float
    backlash: BacklashLimits | None = None
    places: int = 4
    pinion: Range | None = None
    carrier: Range | None = None
    interference: Range | None = None
    runout: float = math.inf


def out_of_range(axle: SimulatedAxle, limits: Limits) -> tuple[str, ...]:
    """Name what is truly out of range, without any noise.

    :param axle: as it is built.
    :param limits: what is asked [mm and N·m].
    :returns: of "depth", "backlash", "spread", "runout", "pinion preload", "carrier preload".
    :source: the sheet's own limits, ends included.
    """
    lines = []
    hair = 1e-9
    if abs(axle.depth_error) > limits.depth + hair:
        lines.append("depth")
    if limits.backlash is not None:
        around = axle.lashes(limits.places)
        top = min(around) if limits.backlash.rule is BacklashRule.SMALLEST else max(around)
        if min(around) < limits.backlash.low - hair or top > limits.backlash.high + hair:
            lines.append("backlash")
        if max(around) - min(around) > limits.backlash.variation + hair:
            lines.append("spread")
    if axle.runout > limits.runout + hair:
        lines.append("runout")
    if limits.pinion is not None and not limits.pinion.holds(axle.pinion_torque):
        lines.append("pinion preload")
    by_torque = limits.carrier is not None and not limits.carrier.holds(axle.carrier_torque)
    by_fit = limits.interference is not None and not limits.interference.holds(axle.carrier_interference)
    if by_torque or by_fit:
        lines.append("carrier preload")
    return tuple(lines)
