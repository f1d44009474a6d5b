"""How long it takes to compare 200 sets, to read a vehicle, to judge a count."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from axle.gearing.compare import AxleFacts, compare
from axle.gearing.counted import Count, Wheels, from_counted_turns
from axle.gearing.offers import pairs_near
from axle.gearing.recommend import recommend
from axle.gearing.vehicle import End, vehicle_from
from axle.gearset import GearSet

_TYPED = {
    "tyre_front": "245/70R16",
    "tyre_front_new": "12.74 m in 5 turns",
    "ratio_front": "41/11",
    "ratio_rear": "41/11",
    "gears": "4.7 3.14 2.1 1.67 1.29 1 0.84 0.67",
    "transfer": "1 2.72",
    "idle": "700",
    "torque_peak": "1900",
    "limit": "4200",
    "curve": "1000:240, 1700:345, 2600:330, 3800:240",
    "cruise": "65 mph",
    "sensor": "shaft",
    "carrier_rear": "3.08 to 3.73",
    "shaft_rear_length": "1400",
    "shaft_rear_outside": "76.2",
    "shaft_rear_wall": "1.65",
    "angle_rear_box": "4",
    "angle_rear_axle": "3",
}
_SETS = 200
_TIMES = 30


def main() -> None:
    """Print median and largest of each, in milliseconds."""
    vehicle = vehicle_from(_TYPED)
    facts = AxleFacts(End.REAR, GearSet(11, 41), "tow", 41 / 11, 41 / 11)
    offers = pairs_near(3.9, 0.3)[:_SETS]
    count = Count(Wheels.BOTH, 37.25, 10, 10)
    for words, act in (
        (
            f"{len(offers)} sets compared and put in order",
            lambda: recommend([compare(offer, vehicle, facts) for offer in offers]),
        ),
        ("a vehicle read", lambda: vehicle_from(_TYPED)),
        ("a count judged", lambda: from_counted_turns(count, offers)),
    ):
        print(f"{words}: {_timed(act)}")


def _timed(act: Callable[[], object]) -> str:
    spent = []
    for _ in range(_TIMES):
        start = time.perf_counter()
        act()
        spent.append((time.perf_counter() - start) * 1000)
    return f"median {statistics.median(spent):.1f} ms, largest {max(spent):.1f} ms"


if __name__ == "__main__":
    main()
