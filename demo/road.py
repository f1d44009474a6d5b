"""The made-up shop's gear sets, vehicles, a chosen ratio and a road test: all of it invented."""

from __future__ import annotations

import uuid
from datetime import date, timedelta
from typing import Final

from django.utils import timezone

from axle.gearing.fits import order_questions
from axle.gearing.lines import Answered, Counted, LookedUp
from axle.road.break_in import usual_legs
from axle.road.lines import Became, Filled, Heard, Planned, RoadNote, Ticked, Warm
from shop.gearing.inputs import RatioInputs
from shop.jobs import loading
from shop.jobs.actions import ratio, road
from shop.jobs.models import Job
from shop.people.models import User
from shop.stock import gear_sets
from shop.vehicles import services as vehicles
from shop.vehicles.services import VehicleWords

_TRUCK: Final = 413
_VAN: Final = 411
_SELLER: Final = "Talbahn gears and bearings"
# teeth, sold as, ring gear [mm], price, days, carrier from, to
_SETS: Final = (
    ("41/13", "3.15", "235", "398", "4", "3.08", "3.73"),
    ("39/11", "3.55", "235", "398", "4", "3.08", "3.73"),
    ("41/11", "3.73", "235", "412", "4", "3.08", "3.73"),
    ("41/10", "4.10", "235", "425", "4", "3.92", "5.38"),
    ("41/9", "4.56", "235", "436", "9", "3.92", "5.38"),
    ("39/8", "4.88", "235", "452", "9", "3.92", "5.38"),
    ("38/9", "4.22", "222", "388", "4", "", ""),
    ("41/11", "3.73", "222", "376", "3", "", ""),
    ("41/9", "4.56", "215", "362", "5", "", ""),
)
_TRUCK_FIGURES: Final = {
    "tyre_rear": "235/85R16",
    "tyre_rear_new": "12.74 m in 5 turns",
    "tread": "half",
    "ratio_rear": "41/13",
    "carrier_rear": "3.08 to 3.73",
    "centre": "none",
    "gears": "5.01 2.83 1.79 1.26 1 0.83",
    "idle": "780",
    "torque_peak": "1700",
    "limit": "3800",
    "curve": "1000:240, 1700:345, 2600:330, 3800:240",
    "cruise": "70 km/h",
    "wanted_rpm": "1400",
    "top_speed": "100 km/h",
    "sensor": "shaft",
    "pulses": "4971 /km",
    "shaft_rear_length": "1460 mm",
    "shaft_rear_outside": "76.2",
    "shaft_rear_wall": "2.1",
    "angle_rear_box": "3.5",
    "angle_rear_axle": "3",
}
_VAN_FIGURES: Final = {
    "tyre_rear": "225/75R16",
    "tread": "half",
    "ratio_rear": "38/9",
    "gears": "4.2 2.3 1.4 1 0.77",
    "idle": "800",
    "torque_peak": "1800",
    "limit": "4300",
    "cruise": "80 km/h",
    "sensor": "shaft",
}
_LOOKED_UP: Final = ("30", "30", "27.0 × 81.8 mm", "27.0 × 81.8 mm", "27.0 × 81.8 mm", "1460 of 1462 mm")
# minute, pinion, ring side, far side, bottom, tube [°C]
_WARM: Final = (
    (0.0, 9.0, 9.0, 9.0, 9.0, 8.0),
    (8.0, 31.0, 27.0, 26.0, 24.0, 12.0),
    (14.0, 46.0, 40.0, 38.0, 36.0, 16.0),
    (20.0, 55.0, 48.0, 46.0, 44.0, 19.0),
    (26.0, 61.0, 53.0, 51.0, 50.0, 22.0),
)
_PLACES: Final = ("pinion", "ring_side", "far_side", "bottom", "tube")


def open_road(owner: User, builder: User) -> None:
    """Write down what can be had, the vehicles, the truck's ratio and the van's first miles."""
    names = ("teeth", "sold_as", "ring_diameter", "price", "days", "carrier_low", "carrier_high")
    for row in _SETS:
        gear_sets.keep(owner, {**dict(zip(names, row, strict=True)), "supplier": _SELLER})
    _truck(owner, builder)
    _van(builder)


def _truck(owner: User, builder: User) -> None:
    vehicle = vehicles.keep(
        builder,
        VehicleWords("Funicular maintenance truck", "upper section, steep", _TRUCK_FIGURES),
    )
    job = _job(owner, _TRUCK)
    ratio.link_vehicle(builder, job, job.version, vehicle, "rear")
    job = _job(owner, _TRUCK)
    counted = Counted("both", pinion=31.5, left=10.0, right=10.0)
    ratio.note_ratio(builder, job, job.version, "counted", counted, uuid.uuid4())
    found = RatioInputs(loading.load(_job(owner, _TRUCK)))
    said = found.recommended
    assert said is not None
    job = _job(owner, _TRUCK)
    ratio.choose_set(
        builder,
        job,
        job.version,
        said.best,
        uuid.uuid4(),
        reasons=said.reasons,
        old_ratio=found.old_ratio,
    )
    job = _job(owner, _TRUCK)
    answer = Answered(agreed=True, name="Varnholt funicular, workshop", how="by telephone")
    ratio.answer_set(owner, job, job.version, answer, uuid.uuid4())
    job = _job(owner, _TRUCK)
    answers = dict(zip(order_questions(), _LOOKED_UP, strict=True))
    answers.pop("box_joint")
    ratio.note_ratio(builder, job, job.version, "looked_up", LookedUp(answers), uuid.uuid4())


def _van(builder: User) -> None:
    vehicle = vehicles.keep(builder, VehicleWords("Post van 7", "", _VAN_FIGURES))
    Job.objects.filter(shop=builder.shop, number=_VAN).update(vehicle=vehicle)
    start = timezone.localdate() - timedelta(days=11)
    warm: list[RoadNote] = [
        Warm(place, minute, f"{celsius:g} °C", celsius)
        for minute, *read in _WARM
        for place, celsius in zip(_PLACES, read, strict=True)
    ]
    heard: list[RoadNote] = [
        Heard("pull", "quiet", "30 to 60 mph"),
        Heard("hold", "quiet"),
        Heard("coast", "quiet"),
        Heard("neutral", "hum", "45 mph", "changes with the surface"),
        Heard("reversal", "clunk", "25 mph", "one, soft"),
    ]
    filled = Filled("GL-5 75W-90", "none", "2.4 qt", 2.27, "shop", "at the 500-mile check")
    _note(builder, [filled])
    _note(builder, heard)
    _note(builder, warm)
    _note(builder, [Became("gone", "no tone on the pull up to 70")])
    _note(builder, [Planned([*usual_legs()], start, 52.0, "common practice, no source")])
    _tick(builder, 1, start)
    _tick(builder, 2, start + timedelta(days=2))
    _tick(builder, 3, start + timedelta(days=3))


def _tick(builder: User, leg: int, day: date) -> None:
    _note(builder, [Ticked(leg, day, "Works yard, post vans", "")])


def _note(builder: User, lines: list[RoadNote]) -> None:
    job = _job(builder, _VAN)
    road.note_road(builder, job, job.version, lines, uuid.uuid4())


def _job(user: User, number: int) -> Job:
    job: Job = Job.objects.of(user.shop).get(number=number)
    return job
