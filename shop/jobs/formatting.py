"""A job's axle in words."""

from typing import Any

from axle.carrier.adjusters import Stands, Threads, on_lock, turn_words
from axle.decision.move import Move as Advice
from axle.decision.move import Swap
from axle.depth.marks import MarkConvention
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import BOLT_NEWTON_METRE, FOOT_POUND, Unit, show
from shop.jobs.job_axle import JobAxle
from shop.people.models import Shop

MARK_WORDS = {
    MarkConvention.LONGER_IS_PLUS: "+ is longer: further from the ring gear's axis",
    MarkConvention.SHORTER_IS_PLUS: "+ is shorter: nearer to the ring gear's axis",
    MarkConvention.DISTANCE: "the whole distance, axis to face",
}


def layout_words(axle: JobAxle) -> str:
    """The layout and gears in one line."""
    layout, gears = axle.spec.layout, axle.spec.gears
    carrier = {
        "outboard": "side shims",
        "under_cone": "shims under the cones",
        "covers": "side-cover shims",
        "adjusters": "adjusters",
    }
    preload = {"sleeve": "sleeve", "spacer": "spacer and shims", "step": "shims to a step"}
    return " · ".join(
        [
            layout.housing.value.replace("_", "-"),
            f"{layout.depth_shim.value} shim",
            carrier[layout.carrier_by.value],
            preload[layout.preload_by.value],
            f"{gears.pinion_teeth}/{gears.ring_teeth} = {gears.ratio:.3f}",
            "new bearings" if axle.state.new_bearings else "used bearings",
        ]
    )


def in_both(wanted: Range, unit: Unit) -> str:
    """A bolt's torque in the other system than the shop's own."""
    other = BOLT_NEWTON_METRE if unit is FOOT_POUND else FOOT_POUND
    return f"{wanted.words(other)} {other.symbol}"


def side_title(axle: JobAxle, place: Place) -> str:
    """A side of the carrier in every way a shop may call it: ring or far, left or right, its own word."""
    hand = axle.spec.layout.side_of(place).value
    shop: Shop = axle.job.shop
    own = str(shop.ring_side_name if place is Place.RING else shop.far_side_name)
    first = "Ring-gear side" if place is Place.RING else "Far side"
    return f"{first} · {hand}" + (f" · “{own}”" if own else "")


def place_words(axle: JobAxle, place: Place) -> str:
    """Any place of an axle as a label."""
    if place in (Place.RING, Place.FAR):
        return side_title(axle, place)
    return "Depth shim" if place is Place.DEPTH else "Preload pack"


def turning(axle: JobAxle, swap: Swap) -> str:
    """Which way a hand turns an adjuster for a move; nothing for a pack."""
    if swap.pack is not None or not swap.change or swap.place not in (Place.RING, Place.FAR):
        return ""
    facts = axle.plan.facts
    return turn_words(
        axle.spec.layout.side_of(swap.place),
        Threads(facts["adjuster_thread"]),
        Stands(facts["stands"]),
        float(swap.change),
    )


def _is_sleeve(swap: Swap) -> bool:
    return swap.place is Place.PRELOAD and swap.pack is None


def swap_rows(axle: JobAxle, move: Advice) -> list[dict[str, Any]]:
    """A move's changes, each side named as the shop may call it, an adjuster with its way round."""
    return [
        {
            "title": "Sleeve" if _is_sleeve(swap) else place_words(axle, swap.place),
            "swap": swap,
            "turn": turning(axle, swap),
            "is_sleeve": _is_sleeve(swap),
            "locked": swap.pack is None
            and not _is_sleeve(swap)
            and on_lock(float(swap.after), axle.state.hole_step),
        }
        for swap in move.swaps
    ]


def expected_rows(axle: JobAxle, move: Advice) -> list[dict[str, str]]:
    """What is read next if a move is done, in the reader's units."""
    return [
        {
            "label": e.label,
            "low": show(e.low, axle.display.unit_for(e.dimension)),
            "high": show(e.high, axle.display.unit_for(e.dimension)),
            "unit": axle.display.unit_for(e.dimension).symbol,
        }
        for e in move.expected
    ]
