"""An axle on equations of its own, and a builder who does what the advice says.

The rig shares no arithmetic with the advice: it places the pinion's face, the ring gear and both
bearing pairs from lengths and springs, and answers as instruments do, with their steps and noise.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field, replace
from decimal import Decimal

from axle.contact.mark import Flanked
from axle.contact.patch import Patch
from axle.decision.move import Move
from axle.decision.next_move import next_move
from axle.gearset import GearSet, Stance
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.practice.follower import Follower
from axle.procedure.stations import kind_named
from axle.shims.pieces import Piece
from axle.spec.sheet import Sheet, spec_value
from axle.state.axle_state import AxleState
from axle.state.reading import Print, Reading, average_repeats
from axle.stations.station_state import stand

THOU = 0.0254
IN_LB = 0.1129848
SHEET = Sheet(
    "rig",
    {
        key: spec_value(key, *row)
        for key, row in {
            "backlash": ("7", "11", "thou", "demo"),
            "backlash_spread": (None, "3", "thou", "demo"),
            "depth_tolerance": (None, "2", "thou", "demo"),
            "pinion_preload_new": ("15", "25", "in-lb", "demo"),
            "carrier_preload": ("10", "24", "in-lb", "demo"),
            "adjuster_pitch": (None, "1.5", "mm", "demo"),
            "adjuster_holes": (None, "24", "holes", "demo"),
            "pinion_nut_torque": ("190", "220", "ft-lb", "demo"),
            "ring_bolt_torque": ("56", "64", "ft-lb", "demo"),
            "cap_torque": ("54", "62", "ft-lb", "demo"),
        }.items()
    },
    stance=Stance.ALONG,
)


def mm(thou: float) -> Decimal:
    return (Decimal(str(thou)) * Decimal("0.0254")).quantize(Decimal("0.00001"))


def drawer() -> tuple[Piece, ...]:
    """Shims as a well-kept drawer has them, in thou."""
    sizes = [2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 15, 20, 25, 30, 40, 60, 80, 100, 120] * 3
    return tuple(Piece(key, mm(size)) for key, size in enumerate(sizes))


@dataclass
class Rig:
    """The truth of one axle.

    :param face: how much shim the pinion needs for a zero mark [mm] (cartridge: too much by).
    :param pinion_zero: preload pack at which the pinion pair has zero play, at the right depth [mm].
    :param side_zero: sum of both side settings at zero play [mm].
    :param cut: depth error at which this cut's pattern is central [mm].
    :param ring_centre: far less ring setting at which backlash is ``lash_there`` [mm].
    """

    layout: Layout
    seed: int = 1
    wanted_depth: float = 0.75
    pinion_zero: float = 1.10
    side_zero: float = 10.0
    lash_there: float = 0.23
    per_ring: float = 0.95
    per_depth: float = -0.30
    pinion_slope: float = 40.0
    carrier_slope: float = 9.0
    cut: float = 0.0
    settings: dict[Place, float] = field(default_factory=dict)
    crushed: float = 0.0
    noise: random.Random = field(init=False)

    def __post_init__(self) -> None:
        self.noise = random.Random(self.seed)

    @property
    def depth_error(self) -> float:
        """Too deep is positive: a head or cup shim pushes in, a cartridge's shim draws out."""
        extra = self.settings.get(Place.DEPTH, 0.0) - self.wanted_depth
        return -extra if self.layout.depth_shim is DepthShim.CARTRIDGE else extra

    @property
    def pinion_interference(self) -> float:
        if self.layout.preload_by is PreloadBy.SLEEVE:
            return self.crushed
        moved = self.settings.get(Place.DEPTH, 0.0) - self.wanted_depth
        zero = self.pinion_zero
        if self.layout.depth_shim is DepthShim.CUP or (
            self.layout.depth_shim is DepthShim.HEAD and self.layout.spacer_seat.value == "shoulder"
        ):
            zero += moved
        return zero - self.settings.get(Place.PRELOAD, 0.0)

    @property
    def sides(self) -> tuple[float, float]:
        """Ring and far settings as tightness [mm]: holes by the thread, covers turned round."""
        ring, far = (self.settings.get(place, 0.0) for place in (Place.RING, Place.FAR))
        if self.layout.has_adjusters:
            return ring * 1.5 / 24, far * 1.5 / 24
        return (-ring, -far) if self.layout.carrier_by is CarrierBy.COVERS else (ring, far)

    @property
    def zero(self) -> float:
        """Sum of both tightnesses at zero play."""
        return -self.side_zero if self.layout.carrier_by is CarrierBy.COVERS else self.side_zero

    @property
    def carrier_interference(self) -> float:
        return sum(self.sides) - self.zero

    @property
    def backlash(self) -> float:
        """Under preload half of the interference goes to each side; with play it lies on the ring side."""
        ring, _ = self.sides
        return self.lash_at(-ring + max(self.carrier_interference, 0.0) / 2)

    def lash_at(self, offset: float) -> float:
        """Backlash with the ring gear so far from the wall of its own side."""
        return (
            self.lash_there + self.per_ring * (offset + self.zero / 2) + self.per_depth * self.depth_error
        )

    def first_fit(self) -> dict[str, float]:
        """What feelers find with thin spacers in, or with the carrier held by hand without shims."""
        sign = -1 if self.layout.carrier_by is CarrierBy.COVERS else 1
        thin, held = 4.9 if sign > 0 else 5.1, 0.28
        ring = (self.lash_there - held + self.per_depth * self.depth_error) / self.per_ring + self.zero / 2
        return {
            "thin_spacer": thin,
            "spacer_play": self.zero - sign * 2 * thin,
            "spacer_backlash": self.lash_at(-sign * thin),
            "held_backlash": held,
            "gap_ring": sign * ring,
            "gap_far": sign * (self.zero - ring),
        }

    def read(self, kind: str, place: int) -> float:
        """Answer as the instrument for a kind does [mm or N·m]."""
        pinion = max(self.pinion_slope * max(self.pinion_interference, 0.0) ** (10 / 9), 0.0)
        carrier = self.carrier_slope * max(self.carrier_interference, 0.0) ** (10 / 9)
        wobble = {1: 0.4, 2: 0.0, 3: -0.4, 4: 0.0}[place] * THOU
        growth = -self.depth_error  # what a gauge for a zero mark shows as too far out
        truth = {
            "depth_feeler": growth,
            "pinion_torque": pinion,
            "pinion_end_play": max(-self.pinion_interference, 0.0),
            "total_torque": pinion + carrier * 9 / 38,
            "carrier_torque": carrier,
            "carrier_end_play": max(-self.carrier_interference, 0.0),
            "zero_play": max(-self.carrier_interference, 0.0),
            "backlash": self.backlash + wobble,
            **self.first_fit(),
            "arrival_side_play": 0.0,
            "arrival_runout": 0.05,
            "arrival_backlash": 0.3,
            "arrival_total_torque": 3.0,
            "ring_runout": 0.05,
            "pinion_nut_torque": 278.0,
            "ring_bolt_torque": 81.0,
            "cap_torque": 78.0,
        }[kind]
        step = {"backlash": 0.1 * THOU, "depth_feeler": 0.5 * THOU}.get(kind, kind_named(kind).step / 2)
        return max(round(truth / step) * step, 0.0)

    def print_patch(self, flank: str) -> Patch:
        """Where the patch lies: deeper is lower, more so on the coast flank."""
        per_mm = {"drive": -0.79, "coast": -1.18}[flank]
        middle = min(max(0.5 + per_mm * (self.depth_error - self.cut), 0.26), 0.74)
        return Patch.box(0.25, 0.65, middle - 0.22, middle + 0.22)


class Builder(Follower):
    """Does what the advice says, and counts how often the axle comes apart."""

    def __init__(
        self, rig: Rig, trial: dict[Place, float], school: str = "subtraction", method: str = ""
    ) -> None:
        self.rig, self.trial = rig, trial
        self.state = AxleState(rig.layout, GearSet(9, 38), SHEET, school=school)
        if method:
            self.state = replace(self.state, methods={"carrier_preload": method})
        self.state = replace(self.state, drawer={place: drawer() for place in rig.layout.shim_places})
        self.order, self.changes, self.carrier_changes, self.log = 0, 0, 0, []

    def work(self, most: int = 80) -> Move:
        """Follow the advice until it says to sign, or until it has said enough."""
        return self.follow(most) or self.advice()

    def advice(self) -> Move:
        move = next_move(self.state)
        self.log.append(f"{move.station}: {move.title}")
        return move

    def standings(self):
        return stand(self.state)

    def tighten(self, move: Move) -> None:
        self.rig.crushed += 0.006
        self.read("pinion_torque", 1, again=False)

    def prepare(self) -> None:
        station = next(name for name, s in stand(self.state).items() if not s.is_done)
        due = {"pinion_preload": (Place.PRELOAD,), "carrier_preload": (Place.RING, Place.FAR)}
        if station == "depth" and self.rig.layout.depth_shim is DepthShim.CARTRIDGE:
            due["depth"] = (Place.DEPTH,)
        for place in due.get(station, ()):
            fits = place in self.rig.layout.shim_places or self.rig.layout.has_adjusters
            if fits and place in self.trial and place not in self.state.settings:
                self._set({place: Decimal(str(self.trial[place]))})

    def _set(self, settings: dict[Place, Decimal]) -> None:
        self.state = replace(self.state, settings={**self.state.settings, **settings})
        self.rig.settings = {place: float(value) for place, value in self.state.settings.items()}

    def choose_method(self, move: Move) -> None:
        methods, station = dict(self.state.methods), move.station
        if station == "pinion_preload" and self.rig.layout.has_preload_pack:
            methods[station] = "play" if self.rig.pinion_interference < 0 else "torque"
        if station == "carrier_preload" and self.state.school == "subtraction":
            methods[station] = "play" if self.rig.carrier_interference < 0 else "subtraction"
        self.state = replace(self.state, methods=methods)

    def read(self, kind: str, place: int, *, again: bool) -> None:
        self.order += 1
        how = {"again": True} if again else {}
        taken = Reading(
            kind,
            place,
            value=self.rig.read(kind, place),
            order=self.order,
            assembly=1,
            settings=self.state.settings,
            conditions=how,
        )
        self.state = replace(self.state, readings=average_repeats((*self.state.readings, taken)))

    def make_print(self) -> None:
        self.order += 1
        patches = {name: Flanked.of(self.rig.print_patch(name)) for name in ("drive", "coast")}
        made = Print(1, self.order, settings=self.state.settings, flanks=patches)
        self.state = replace(self.state, prints=(*self.state.prints, made))

    def change(self, move: Move) -> None:
        self.changes += any(swap.before for swap in move.swaps)
        sides = [swap for swap in move.swaps if swap.place in (Place.RING, Place.FAR)]
        self.carrier_changes += any(swap.before or self.rig.layout.has_adjusters for swap in sides)
        self._set({swap.place: swap.after for swap in move.swaps})
