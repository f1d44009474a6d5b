"""Patches from what the page sends: a line drawn around one, corners that were dragged, words, numbers."""

import json
import math
from collections.abc import Mapping, Sequence

from axle.contact.patch import Patch
from axle.errors import AxleError
from shop.drawing.flanks import FlankView, patch_from_drag, patch_from_line
from shop.jobs.actions.prints import MOST_PATCHES, Seen
from shop.people.request import plain_number, whole_number

# A line drawn by hand is sent a few times a millimetre; a longer one is no patch.
_MOST_POINTS = 2000


def patches_from(flank: str, given: Mapping[str, str]) -> list[Patch]:
    """Read the patches of one flank in whichever way the form sent them.

    :raises AxleError: naming what cannot be used.
    """
    if given.get("shape"):
        view = FlankView(flank)
        shapes = _shapes(given["shape"])
        return [Patch(tuple(view.to_flank(x, y) for x, y in shape)) for shape in shapes]
    if given.get("outlines"):
        # As a photo was read, in (u, v), where nobody dragged a corner.
        return [Patch(tuple(shape)) for shape in _shapes(given["outlines"])]
    if given.get("line"):
        return [patch_from_line(flank, _shapes(f"[{given['line']}]")[0])]
    if given.get("height"):
        return [Patch.quick(given["height"], given.get("length", ""), given.get("size", ""))]
    return [patch_from(flank, given)]


def patch_from(flank: str, given: Mapping[str, str]) -> Patch:
    """Read a patch: a drag where the form has one, else the four typed numbers.

    :raises AxleError: naming what cannot be used.
    """
    if given.get("x0"):
        x0, y0, x1, y1 = (_coordinate(given.get(name, "")) for name in ("x0", "y0", "x1", "y1"))
        return patch_from_drag(flank, x0, y0=y0, x1=x1, y1=y1)
    ends = (given.get(name, "") for name in ("toe", "heel", "root", "top"))
    return Patch.from_percent(*ends, flank=flank)


def seen_from(given: Mapping[str, str], place: int) -> Seen:
    """How a patch was seen, as the form beside it says.

    :raises AxleError: naming what cannot be used.
    """
    tooth = given.get("tooth", "").strip()
    return Seen(
        place,
        whole_number(tooth, "tooth", 1) if tooth else None,
        edge=given.get("edge") or "feathered",
        strength=given.get("strength") or "clear",
    )


def place_from(given: Mapping[str, str]) -> int:
    """The place around the ring gear that a form is for."""
    return plain_number(given.get("place"), 1) or 1


def corners_from(text: str) -> tuple[tuple[float, float], ...]:
    """The four corners of a flank on its photo, in its pixels.

    :raises AxleError: for anything but four points.
    """
    points = _shapes(f"[{text}]")[0] if text.strip() else []
    if len(points) != 4:
        raise AxleError(
            "corners",
            given=f"{len(points)} points",
            wanted="four",
            do="Tap toe-root, heel-root, heel-top, toe-top.",
        )
    return tuple(points)


def _shapes(text: str) -> list[Sequence[tuple[float, float]]]:
    try:
        found = json.loads(text)
        if not 1 <= len(found) <= MOST_PATCHES or any(len(shape) > _MOST_POINTS for shape in found):
            raise ValueError
        shapes = [[(float(x), float(y)) for x, y in shape] for shape in found]
    except (ValueError, TypeError, RecursionError):
        raise AxleError("drawing", given="a line that is none", wanted="places on the drawing") from None
    if not all(math.isfinite(number) for shape in shapes for point in shape for number in point):
        raise AxleError("drawing", given="a place that is none", wanted="places on the drawing")
    return list(shapes)


def _coordinate(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise AxleError("drag", given=f"“{text[:20]}”", wanted="a place on the drawing")
    return value
