"""The axles of the closed loop: layouts, sheets, drawers, methods, each drawn from a number."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Final

from axle.carrier.schools import usual_interference
from axle.gearset import GearSet, Stance
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy, Side, SpacerSeat
from axle.measure.range import Range
from axle.procedure.stations import stations
from axle.shims.pieces import Piece
from axle.simulator.axle import Limits
from axle.simulator.fault import Fault
from axle.simulator.true_axle import Subject, TrueAxle, sample_axle
from axle.simulator.workshop import Shop
from axle.simulator.world import world_named
from axle.spec.sheet import Sheet, spec_value
from axle.state.priors import Priors

THOU: Final = 0.0254
# How far shims of one nominal size differ, in thou; from memory.
_SIZES_DIFFER: Final = 0.2
# Places around the ring: at four the turns of such pinions nearly coincide, and a bent one hides.
LASH_PLACES: Final = 6
PRELOADS: Final = (
    (PreloadBy.SLEEVE, SpacerSeat.BETWEEN_CONES),
    (PreloadBy.SPACER, SpacerSeat.BETWEEN_CONES),
    (PreloadBy.SPACER, SpacerSeat.SHOULDER),
    (PreloadBy.STEP, SpacerSeat.SHOULDER),
)
HOUSINGS: Final = {CarrierBy.COVERS: Housing.SIDE_COVER, CarrierBy.ADJUSTERS: Housing.DROP_OUT}
LAYOUTS: Final = tuple(
    Layout(
        depth,
        preload,
        carrier_by=carrier,
        housing=HOUSINGS.get(carrier, Housing.INTEGRAL),
        ring_side=side,
        spacer_seat=seat,
    )
    for depth in DepthShim
    for preload, seat in PRELOADS
    for carrier in CarrierBy
    for side in Side
)
# Made-up sets of the demo's kind: teeth, ring diameter [mm], family.
GEARS: Final = (
    GearSet(9, 38, 222.0),
    GearSet(11, 41, 222.0),
    GearSet(10, 41, ring_diameter=235.0, face_width=34.0, offset=38.0),
    GearSet(11, 46, ring_diameter=248.0, face_width=35.0, offset=38.0),
)
GAUGES: Final = ("gauge", "dial", "bridge", "mic", "bar", "measured")
# Backlash range and preloads of the sheets, thou and in·lb; usual ranges by common practice.
LASHES: Final = (("6", "10"), ("5", "9"), ("8", "12"))
PINIONS: Final = (("15", "25"), ("16", "30"), ("14", "22"))
CARRIERS: Final = (("15", "25"), ("16", "24"), ("12", "28"))


@dataclass(frozen=True)
class Case:
    """One axle of the run.

    :param number: it is drawn from.
    :param true_axle: its truth.
    :param sheet: what it is built to.
    :param limits: the same as the truth is held to.
    :param depth_method: how depth is measured, or "trial".
    :param school: of the carrier's preload.
    :param carrier_method: how that is read.
    :param preloads: whether both preloads are judged.
    :param priors: what Lash holds of the shop it comes to.
    """

    number: int
    true_axle: TrueAxle
    sheet: Sheet
    limits: Limits
    depth_method: str
    school: str
    carrier_method: str
    preloads: bool
    priors: Priors = field(default_factory=Priors)

    @property
    def stations(self) -> tuple[str, ...]:
        """Order of the work: the carrier's preload before the pinion where it is read alone."""
        order = list(stations())
        if self.school == "alone":
            order.remove("carrier_preload")
            order.insert(order.index("depth"), "carrier_preload")
        return tuple(order)

    @property
    def layout(self) -> Layout:
        """Where it keeps its shims."""
        return self.true_axle.subject.layout


def case(
    number: int,
    *,
    preloads: bool,
    fault: Fault | None = None,
    world: str = "",
    shop: Shop | None = None,
    priors: Priors | None = None,
) -> Case:
    """Draw one axle of the run: every layout comes round in turn, every second one has a gauge.

    :param number: it is drawn from.
    :param preloads: whether both preloads are judged.
    :param fault: what is wrong with it.
    :param world: in which it is built; the bench of practice when left out.
    :param shop: in whose hands; each axle has a shop of its own when left out.
    :param priors: what Lash holds of that shop; the starting widths when left out.
    """
    source = random.Random(number * 101 + 5)
    layout = LAYOUTS[number % len(LAYOUTS)]
    gauge = (number // len(LAYOUTS) + number) % 2 == 0
    if fault is Fault.WRONG_MARK:
        gauge = True  # without a gauge nobody uses the mark
    depth_method = GAUGES[source.randrange(len(GAUGES))] if gauge else "trial"
    lash, pinion, carrier = (source.choice(rows) for rows in (LASHES, PINIONS, CARRIERS))
    # Two jobs in three on shims go by interference, as first fitted; adjusters by subtraction.
    school, carrier_method = "subtraction", "subtraction"
    if preloads and layout.carrier_by is not CarrierBy.ADJUSTERS and (number // 7) % 3:
        school, carrier_method = "both_sides", ("feelers", "gaps")[(number // 7) % 3 - 1]
    elif preloads and layout.carrier_by in HOUSINGS:
        # Usual for drop-out housings and side covers: with the pinion out nothing else drags.
        school, carrier_method = "alone", "alone"
    rows = {
        "backlash": (*lash, "thou"),
        "backlash_spread": (None, "4", "thou"),
        "depth_tolerance": (None, "3", "thou"),
        "ring_runout": (None, "5", "thou"),
        "nominal_distance": (None, "90", "mm"),
        "seat_distance": (None, "130", "mm"),
        "adjuster_pitch": (None, "1.5", "mm"),
        "adjuster_holes": (None, "24", "holes"),
        "pinion_nut_torque": ("190", "220", "ft-lb"),
        "ring_bolt_torque": ("56", "64", "ft-lb"),
        "cap_torque": ("54", "62", "ft-lb"),
    }
    if preloads:
        rows |= {"pinion_preload_new": (*pinion, "in-lb")}
    if preloads and school != "both_sides":
        rows |= {"carrier_preload": (*carrier, "in-lb")}
    # The simulated indicator stands in line with the motion, and its sheet says so.
    values = {key: spec_value(key, *row, "demo") for key, row in rows.items()}
    sheet = Sheet("closed loop", values, stance=Stance.ALONG)
    backlash = sheet.backlash_limits()
    assert backlash is not None
    told = sheet.range("pinion_preload_new")
    subject = Subject(
        layout, source.choice(GEARS), backlash=backlash.middle, pinion_torque=told.middle if told else 2.26
    )
    limits = Limits(
        0.003 * 25.4,
        backlash,
        places=LASH_PLACES,
        pinion=told,
        carrier=sheet.range("carrier_preload"),
        interference=_interference(layout) if school == "both_sides" else None,
        runout=sheet.single("ring_runout") or 1.0,
    )
    return Case(
        number,
        sample_axle(subject, number, fault, world=world_named(world) if world else None, shop=shop),
        sheet=sheet,
        limits=limits,
        depth_method=depth_method,
        school=school,
        carrier_method=carrier_method,
        preloads=preloads,
        priors=priors or Priors(),
    )


def _interference(layout: Layout) -> Range:
    """What both sides together usually get; light under bolted covers."""
    usual = usual_interference()["cover_loose" if layout.carrier_by is CarrierBy.COVERS else "both_sides"]
    return Range(usual.low, usual.high)


def mm(thou: float) -> Decimal:
    """Thou as the core's millimetres."""
    return (Decimal(str(thou)) * Decimal("0.0254")).quantize(Decimal("0.00001"))


def drawer(place: Place, number: int = 0) -> tuple[Piece, ...]:
    """Shims as a well-kept drawer has them, each mic'd to a tenth of a thou; they differ by two tenths.

    :param place: whose.
    :param number: of the case.
    """
    source = random.Random(f"drawer {number} {place}")
    sizes = [2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 15, 20, 25, 30, 40, 60, 80, 100, 120] * 3
    first = 1000 * (list(Place).index(place) + 1)
    return tuple(
        Piece(first + key, mm(round(size + source.gauss(0, _SIZES_DIFFER), 1)))
        for key, size in enumerate(sizes)
    )
