"""What each set that can be had does to the car: the figures that a builder and a customer compare."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import Enum
from functools import cache
from typing import Final

from axle.data_file import read_table
from axle.gearing.both_ends import Agreement, BothEnds, Centre, both_ends
from axle.gearing.fits import CarrierFit, carrier_fit, passes
from axle.gearing.offers import Offer
from axle.gearing.shaft import ShaftVerdict, judge_shaft
from axle.gearing.speedometer import Sensor, Shown, shown_after
from axle.gearing.speeds import Driveline, ratio_for, restoring_ratio
from axle.gearing.strength import LITTLE_OVERLAP, SMALL, Strength, overlap, pinion_size
from axle.gearing.teeth import Meeting, TeethMeeting
from axle.gearing.tyres import Rolling
from axle.gearing.vehicle import End, Vehicle
from axle.gearset import GearSet
from axle.measure.units import percent, share_percent

# Under so much of the speed of most torque, or of idle, an engine lugs at cruise: from memory.
_LUGS: Final = 0.5
_OVER_IDLE: Final = 1.4
# Parts that come in time with less than this are called late.
_SURE_ENOUGH: Final = 0.8
# A drawing goes so far where nobody says how fast the car is [km/h].
_USUAL_TOP: Final = 140.0
# Use that loads teeth hard.
_HARD: Final = ("tow", "track", "works")


class DrawbackKind(Enum):
    """A drawback of a set, named as its weight in ``data/weights.toml``."""

    CARRIER = "carrier"
    THICK = "thick"
    CARRIER_UNKNOWN = "carrier_unknown"
    PASSES = "passes"
    ENDS_OVER = "ends_over"
    ENDS_NOT_SHOWN = "ends_not_shown"
    SHAFT = "shaft"
    SHAFT_HALF = "shaft_half"
    JOINTS = "joints"
    PARTLY = "partly"
    NOT_HUNTING = "not_hunting"
    WEAK = "weak"
    FEW_TEETH = "few_teeth"
    OVERLAP = "overlap"
    LATE = "late"
    NOT_SOLD = "not_sold"
    LUGS = "lugs"
    OVER_LIMIT = "over_limit"


@dataclass(frozen=True)
class Drawback:
    """Something that speaks against a set, with what it means."""

    kind: DrawbackKind
    words: str

    @property
    def weight(self) -> float:
        """What it weighs, in per cent of engine speed."""
        return _weights()[self.kind.value]


@dataclass(frozen=True)
class AxleFacts:
    """The axle that is built, as far as it bears on its ratio.

    :param end: at which end of the vehicle it is.
    :param gears: its proportions; the teeth are the offer's.
    :param use: "road", "tow", "track" or "works".
    :param old_ratio: R before, or nothing where nobody knows.
    :param other_ratio: R of the other axle once both are done, or nothing.
    """

    end: End
    gears: GearSet
    use: str = "road"
    old_ratio: float | None = None
    other_ratio: float | None = None


@dataclass(frozen=True)
class Comparison:
    """One set against the car.

    :param offer: the set.
    :param change: of the ratio, exact: R_new/R_old − 1, or nothing.
    :param rpm: engine speed at cruise in top gear [rpm], or nothing.
    :param rpm_change: of it against what it was on the old tyres, or nothing.
    :param torque_change: of the torque at the wheel, or nothing.
    :param pull_change: of the force at the road, tyres included, or nothing.
    :param crawl_ratio: turns of the engine for one of the wheel in the lowest gear, or nothing.
    :param crawl_speed: road speed at idle there [km/h], or nothing.
    :param off_restoring: R/R_restoring − 1, or nothing.
    :param off_wanted: R/R_wanted − 1: against the wanted engine speed, or the restoring ratio; or nothing.
    :param shown: what the speedometer shows, or nothing.
    :param ends: front against rear, or nothing.
    :param meeting: of its teeth.
    :param carrier: whether this axle's carrier takes it.
    :param passes: whether the pinion is likely to pass the ring gear.
    :param shaft: how the driveshaft stands, or nothing.
    :param strength: of the pair.
    :param in_time: chance that it comes in time, or nothing.
    :param drawbacks: what speaks against it, weightiest first.
    """

    offer: Offer
    change: float | None
    rpm: float | None
    rpm_change: float | None
    torque_change: float | None
    pull_change: float | None
    crawl_ratio: float | None
    crawl_speed: float | None
    off_restoring: float | None
    off_wanted: float | None
    shown: Shown | None
    ends: BothEnds | None
    meeting: TeethMeeting
    carrier: CarrierFit
    passes: bool
    shaft: ShaftVerdict | None
    strength: Strength
    in_time: float | None
    drawbacks: tuple[Drawback, ...] = ()

    @property
    def cost(self) -> float:
        """How far it is from what is wanted, with its drawbacks, in per cent of engine speed."""
        return abs(self.off_wanted or 0.0) * 100 + sum(point.weight for point in self.drawbacks)


@cache
def _weights() -> Mapping[str, float]:
    return read_table(__file__, "data/weights.toml", dict[str, float])


def wanted_ratio(vehicle: Vehicle, facts: AxleFacts) -> float | None:
    """The ratio that gives the wanted engine speed at cruise, or the old one back.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :returns: R [1], or nothing where too little is known.
    :source: :func:`axle.gearing.speeds.ratio_for`, :func:`axle.gearing.speeds.restoring_ratio`.
    """
    line = cruising(vehicle, facts, ratio=1.0001)
    if line is not None and vehicle.wanted_rpm and vehicle.cruise:
        return ratio_for(vehicle.wanted_rpm, vehicle.cruise, line)
    return restoring(vehicle, facts)


def restoring(vehicle: Vehicle, facts: AxleFacts) -> float | None:
    """The ratio that gives the engine speeds back that were there on the old tyres.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :returns: R_old·C_new/C_old [1], or nothing.
    :source: :func:`axle.gearing.speeds.restoring_ratio`.
    """
    old, new = vehicle.before.get(facts.end), vehicle.after.get(facts.end)
    if facts.old_ratio is None or old is None or new is None:
        return None
    return restoring_ratio(facts.old_ratio, old.value, new.value)


def cruising(
    vehicle: Vehicle, facts: AxleFacts, ratio: float, *, tyre: Rolling | None = None
) -> Driveline | None:
    """The driveline in top gear, as at cruise.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :param ratio: R [1].
    :param tyre: on it; those from now on when left out.
    :returns: the driveline, or nothing where tyres or gears are not known.
    :source: the smallest ratio of gearbox and transfer case.
    """
    wheel = tyre or vehicle.after.get(facts.end)
    if wheel is None or not vehicle.gears:
        return None
    return Driveline(ratio, wheel.value, min(vehicle.gears), min(vehicle.transfer), vehicle.slip)


def every_gear(
    vehicle: Vehicle, facts: AxleFacts, ratio: float, *, tyre: Rolling | None = None
) -> tuple[Driveline, ...]:
    """The driveline in every gear of the gearbox, first to top, transfer case in high.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :param ratio: R [1].
    :param tyre: on it; those from now on when left out.
    :source: :class:`axle.gearing.speeds.Driveline`, slip left out.
    """
    line = cruising(vehicle, facts, ratio, tyre=tyre)
    return () if line is None else tuple(replace(line, gear=gear, slip=0.0) for gear in vehicle.gears)


def compare(
    offer: Offer, vehicle: Vehicle, facts: AxleFacts, *, in_time: float | None = None
) -> Comparison:
    """Everything that a set does to a car, as far as the car is known.

    :param offer: the set.
    :param vehicle: the vehicle.
    :param facts: its axle.
    :param in_time: chance that the set comes in time [1], or nothing.
    :source: the modules of :mod:`axle.gearing`; arithmetic by the exact ratio.

    >>> from axle.gearing.vehicle import vehicle_from
    >>> car = vehicle_from({"tyre_rear": "2200 mm", "ratio_rear": "41/15"})
    >>> found = compare(Offer(11, 41, "3.73"), car, AxleFacts(End.REAR, GearSet(11, 41), old_ratio=41 / 15))
    >>> round(found.change * 100, 1)
    36.4
    """
    old, new = vehicle.before.get(facts.end), vehicle.after.get(facts.end)
    line, before = cruising(vehicle, facts, offer.ratio), as_it_was(vehicle, facts)
    rpm = line.rpm(vehicle.cruise) if line is not None and vehicle.cruise else None
    crawl_ratio, crawl_speed = _crawl(offer.ratio, vehicle, new)
    change = offer.ratio / facts.old_ratio - 1 if facts.old_ratio else None
    pull = (
        None if change is None or old is None or new is None else (1 + change) * old.value / new.value - 1
    )
    back, wanted = restoring(vehicle, facts), wanted_ratio(vehicle, facts)
    gears = replace(facts.gears, pinion_teeth=offer.pinion, ring_teeth=offer.ring)
    size = pinion_size(facts.old_ratio, offer.ratio) if facts.old_ratio else None
    found = Comparison(
        offer,
        change=change,
        rpm=rpm,
        rpm_change=rpm / before.rpm - 1 if rpm and before.rpm else None,
        torque_change=change,
        pull_change=pull,
        crawl_ratio=crawl_ratio,
        crawl_speed=crawl_speed,
        off_restoring=offer.ratio / back - 1 if back else None,
        off_wanted=offer.ratio / wanted - 1 if wanted else None,
        shown=_shown(offer, vehicle, facts),
        ends=_ends(offer, vehicle, facts),
        meeting=TeethMeeting(offer.pinion, offer.ring),
        carrier=carrier_fit(offer, vehicle.carriers.get(facts.end)),
        passes=passes(offer),
        shaft=_shaft(offer, vehicle, facts),
        strength=Strength(size, overlap(gears), offer.pinion),
        in_time=in_time,
    )
    points = sorted(_drawbacks(found, vehicle, facts), key=lambda point: -point.weight)
    return replace(found, drawbacks=tuple(points))


@dataclass(frozen=True)
class Before:
    """The car as it was, on its old tyres and its old ratio.

    :param ratio: R, or nothing.
    :param rpm: engine speed at cruise in top gear [rpm], or nothing.
    :param crawl_ratio: turns of the engine for one of the wheel in the lowest gear, or nothing.
    :param crawl_speed: road speed at idle there [km/h], or nothing.
    :param gears: the driveline in every gear, first to top.
    """

    ratio: float | None
    rpm: float | None
    crawl_ratio: float | None
    crawl_speed: float | None
    gears: tuple[Driveline, ...]


def as_it_was(vehicle: Vehicle, facts: AxleFacts) -> Before:
    """The car before anything is changed.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :returns: what is not known is left out.
    :source: :class:`axle.gearing.speeds.Driveline`.

    >>> from axle.gearing.vehicle import vehicle_from
    >>> as_it_was(vehicle_from({}), AxleFacts(End.REAR, GearSet(11, 41))).rpm is None
    True
    """
    tyre = vehicle.before.get(facts.end)
    if facts.old_ratio is None or tyre is None:
        return Before(facts.old_ratio, None, None, None, ())
    line = cruising(vehicle, facts, facts.old_ratio, tyre=tyre)
    rpm = line.rpm(vehicle.cruise) if line is not None and vehicle.cruise else None
    ratio, speed = _crawl(facts.old_ratio, vehicle, tyre)
    gears = every_gear(vehicle, facts, facts.old_ratio, tyre=tyre)
    return Before(facts.old_ratio, rpm, ratio, speed, gears)


def _crawl(ratio: float, vehicle: Vehicle, tyre: Rolling | None) -> tuple[float | None, float | None]:
    """The lowest gear: its overall ratio, and the speed at idle."""
    if not vehicle.gears:
        return None, None
    gear, transfer = max(vehicle.gears), max(vehicle.transfer)
    if tyre is None:
        return ratio * gear * transfer, None
    lowest = Driveline(ratio, tyre.value, gear, transfer)
    return lowest.overall, lowest.speed(vehicle.idle) if vehicle.idle else None


def _shown(offer: Offer, vehicle: Vehicle, facts: AxleFacts) -> Shown | None:
    old, new = vehicle.before.get(facts.end), vehicle.after.get(facts.end)
    if vehicle.sensor is Sensor.UNKNOWN or old is None or new is None:
        return None
    if facts.old_ratio is None and vehicle.sensor is Sensor.SHAFT:
        return None
    return shown_after(
        vehicle.sensor,
        old_ratio=facts.old_ratio or 1.0,
        new_ratio=offer.ratio,
        old_tyre=old.circumference,
        new_tyre=new.circumference,
        before=vehicle.shows,
    )


def _ends(offer: Offer, vehicle: Vehicle, facts: AxleFacts) -> BothEnds | None:
    if facts.other_ratio is None or vehicle.centre is Centre.NONE or len(vehicle.after) < 2:
        return None
    ratios = {facts.end: offer.ratio, facts.end.other: facts.other_ratio}
    return both_ends(
        ratios[End.FRONT],
        vehicle.after[End.FRONT],
        ratios[End.REAR],
        vehicle.after[End.REAR],
        centre=vehicle.centre,
        overdrive=vehicle.overdrive,
    )


def top_speed(vehicle: Vehicle, facts: AxleFacts, ratio: float) -> float | None:
    """The fastest that a car goes: as typed, else where the engine's limit ends its top gear.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :param ratio: R [1].
    :returns: speed [km/h], or nothing.
    :source: :meth:`axle.gearing.speeds.Driveline.speed`.
    """
    line = cruising(vehicle, facts, ratio)
    by_engine = line.speed(vehicle.limit) if line is not None and vehicle.limit else None
    if vehicle.top_speed is None:
        return by_engine
    return vehicle.top_speed if by_engine is None else min(vehicle.top_speed, by_engine)


def drawn_to(vehicle: Vehicle, facts: AxleFacts, ratio: float) -> float:
    """How far a drawing of speeds goes: the fastest, and a little past cruise.

    :param vehicle: the vehicle.
    :param facts: its axle.
    :param ratio: R [1].
    :returns: speed [km/h].
    :source: the project's own choice.
    """
    top = top_speed(vehicle, facts, ratio) or _USUAL_TOP
    return max(top, 1.1 * (vehicle.cruise or 0.0))


def _shaft(offer: Offer, vehicle: Vehicle, facts: AxleFacts) -> ShaftVerdict | None:
    shaft, wheel = vehicle.shafts.get(facts.end), vehicle.after.get(facts.end)
    top = top_speed(vehicle, facts, offer.ratio)
    if shaft is None or wheel is None or top is None:
        return None
    line = Driveline(offer.ratio, wheel.value)
    cruise = line.shaft_rpm(vehicle.cruise) if vehicle.cruise else 0.0
    return judge_shaft(shaft.tube, line.shaft_rpm(top), cruise, shaft.angles, in_phase=shaft.in_phase)


def _drawbacks(found: Comparison, vehicle: Vehicle, facts: AxleFacts) -> list[Drawback]:
    return [
        *_of_carrier(found, vehicle, facts),
        *_of_ends(found),
        *_of_shaft(found),
        *_of_teeth(found, facts),
        *_of_engine(found, vehicle),
        *_of_buying(found),
    ]


def _of_carrier(found: Comparison, vehicle: Vehicle, facts: AxleFacts) -> list[Drawback]:
    offer, takes = found.offer, vehicle.carriers.get(facts.end)
    points = []
    if found.carrier is CarrierFit.OTHER and takes:
        points.append(
            Drawback(
                DrawbackKind.CARRIER,
                f"Beyond the carrier break: this carrier takes {takes[0]:.2f} to {takes[1]:.2f}. "
                "Another carrier, or a set made thick.",
            )
        )
    if found.carrier is CarrierFit.THICK:
        points.append(
            Drawback(
                DrawbackKind.THICK, "A thick ring gear: longer bolts, and the cross shaft is tried past it."
            )
        )
    if found.carrier is CarrierFit.UNKNOWN:
        points.append(
            Drawback(DrawbackKind.CARRIER_UNKNOWN, "Which ratios this carrier takes is not known.")
        )
    if not found.passes:
        what = "Thick" if offer.thick else "Numerically high"
        points.append(
            Drawback(
                DrawbackKind.PASSES,
                f"{what}: the pinion may not pass the ring gear. The carrier is moved aside and brought "
                "back, with adjusters by counted holes.",
            )
        )
    return points


def _of_ends(found: Comparison) -> list[Drawback]:
    if found.ends is None:
        return []
    # A centre differential takes it up while it is open: it is named, and weighs little.
    over = DrawbackKind.ENDS_NOT_SHOWN if found.ends.centre is Centre.OPEN else DrawbackKind.ENDS_OVER
    point = {Agreement.OVER: over, Agreement.NOT_SHOWN: DrawbackKind.ENDS_NOT_SHOWN}.get(
        found.ends.agreement
    )
    return [] if point is None else [Drawback(point, f"Front and rear: {found.ends.words}")]


def _of_shaft(found: Comparison) -> list[Drawback]:
    shaft, points = found.shaft, []
    if shaft is None:
        return []
    if not shaft.holds:
        points.append(
            Drawback(
                DrawbackKind.SHAFT,
                f"The driveshaft would turn {shaft.rpm:,.0f} rpm, {share_percent(shaft.share)} of its "
                f"critical {shaft.critical:,.0f}; at most 70 % is usual.",
            )
        )
    if shaft.near_half:
        points.append(
            Drawback(
                DrawbackKind.SHAFT_HALF,
                f"At cruise the driveshaft turns near half its critical speed, {shaft.critical / 2:,.0f} "
                "rpm: a joint's shake twice a turn may boom.",
            )
        )
    if shaft.shakes and shaft.residual is not None:
        points.append(
            Drawback(
                DrawbackKind.JOINTS,
                f"The joints leave {shaft.residual:,.0f} rad/s² at top speed, {shaft.inertia or 0:,.0f} of "
                "the steeper one; 300 and 1,000 are the usual limits. Bring both angles together.",
            )
        )
    return points


def _of_teeth(found: Comparison, facts: AxleFacts) -> list[Drawback]:
    points, strength = [], found.strength
    if found.meeting.kind is Meeting.PARTLY:
        points.append(Drawback(DrawbackKind.PARTLY, found.meeting.words))
    if found.meeting.kind is Meeting.NOT:
        points.append(Drawback(DrawbackKind.NOT_HUNTING, found.meeting.words))
    if strength.size is not None and strength.size < SMALL and facts.use in _HARD:
        points.append(
            Drawback(
                DrawbackKind.WEAK,
                f"Its pinion is {share_percent(strength.size)} of the old one's size, and the use is hard.",
            )
        )
    if strength.is_weak and strength.teeth < 7:
        points.append(
            Drawback(
                DrawbackKind.FEW_TEETH, f"{strength.teeth} teeth on the pinion: little left under shock."
            )
        )
    if strength.overlap < LITTLE_OVERLAP:
        points.append(
            Drawback(
                DrawbackKind.OVERLAP,
                f"Overlap {strength.overlap:.2f}: less than one tooth carries at all times.",
            )
        )
    return points


def _of_engine(found: Comparison, vehicle: Vehicle) -> list[Drawback]:
    if found.rpm is None:
        return []
    if vehicle.limit and found.rpm > 0.9 * vehicle.limit:
        return [
            Drawback(DrawbackKind.OVER_LIMIT, f"{found.rpm:,.0f} rpm at cruise: at the engine's limit.")
        ]
    least = max(_LUGS * (vehicle.torque_peak or 0), _OVER_IDLE * (vehicle.idle or 0))
    if found.rpm < least:
        return [
            Drawback(
                DrawbackKind.LUGS,
                f"{found.rpm:,.0f} rpm at cruise: the engine lugs, and shifts down on every hill.",
            )
        ]
    return []


def _of_buying(found: Comparison) -> list[Drawback]:
    points = []
    if not found.offer.sold_as:
        points.append(Drawback(DrawbackKind.NOT_SOLD, "Nobody on the shop's list sells it."))
    if found.in_time is not None and found.in_time < _SURE_ENOUGH:
        points.append(Drawback(DrawbackKind.LATE, f"It comes in time with {percent(found.in_time)}."))
    return points
