"""A job's axle in words."""

from shop.jobs.bridge import Axle


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
