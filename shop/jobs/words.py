"""A job's axle in words."""

from axle.depth.marks import MarkConvention
from axle.spec import Range
from axle.units import FOOT_POUND, Unit, brief
from shop.jobs.bridge import Axle

MARK_WORDS = {
    MarkConvention.LONGER_IS_PLUS: "+ is longer: further from the ring gear's axis",
    MarkConvention.SHORTER_IS_PLUS: "+ is shorter: nearer to the ring gear's axis",
    MarkConvention.DISTANCE: "the whole distance, axis to face",
}


def layout_words(axle: Axle) -> str:
    """The layout and gears in one line."""
    layout, gears = axle.spec.layout, axle.spec.gears
    carrier = {"outboard": "side shims", "under_cone": "shims under the cones",
               "covers": "side-cover shims", "adjusters": "adjusters"}  # fmt: skip
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
    if unit is not FOOT_POUND:
        return f"{brief(wanted.low, FOOT_POUND)}–{brief(wanted.high, FOOT_POUND)} ft·lb"
    return f"{wanted.low:.0f}–{wanted.high:.0f} N·m"
