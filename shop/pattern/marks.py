"""A patch from what the page sends: a drag across the drawing, or four numbers."""

import math
from collections.abc import Mapping

from axle.contact.patch import Patch
from axle.errors import AxleError
from shop.drawing.flanks import patch_from_drag


def patch_from(flank: str, given: Mapping[str, str]) -> Patch:
    """Read a patch: a drag where the form has one, else the four typed numbers.

    :raises AxleError: naming what cannot be used.
    """
    if given.get("x0"):
        x0, y0, x1, y1 = (_coordinate(given.get(name, "")) for name in ("x0", "y0", "x1", "y1"))
        return patch_from_drag(flank, x0, y0, x1, y1)
    ends = (given.get(name, "") for name in ("toe", "heel", "root", "top"))
    return Patch.from_percent(*ends, flank=flank)


def _coordinate(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise AxleError("drag", given=f"“{text[:20]}”", wanted="a place on the drawing")
    return value
