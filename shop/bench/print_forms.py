"""Patches from what the page sends: a line drawn around one, corners that were dragged, words, numbers."""

import json
import math
from collections.abc import Mapping, Sequence
from typing import Any

from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.photo.pose import NAMES
from axle.photo.strokes import Drop, Stroke
from shop.drawing.flanks import FlankView, patch_from_drag, patch_from_line
from shop.jobs.actions.prints import MOST_PATCHES, Seen
from shop.people.request import plain_number, whole_number

# A line drawn by hand is sent a few times a millimetre; a longer one is no patch.
_MOST_POINTS = 2000
_MOST_BESIDE, _FARTHEST = 12, 1e6


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
    """The places of a flank that were pointed at on its photo, in its pixels.

    :raises AxleError: for anything but four points or six.
    """
    points = _shapes(f"[{text}]")[0] if text.strip() else []
    if len(points) not in (len(NAMES) - 2, len(NAMES)):
        raise AxleError(
            "corners",
            given=f"{len(points)} points",
            wanted="four, or six",
            do=f"Tap {', '.join(NAMES[:4])}; then, if you like, {' and '.join(NAMES[4:])}.",
        )
    return tuple(points)


def strokes_from(given: Mapping[str, str]) -> list[Stroke | Drop]:
    """What a finger painted, wiped or dropped on the photo, in order.

    :raises AxleError: for what is none of these.
    """
    try:
        rows = json.loads(given.get("strokes") or "[]")
        strokes = [_correction(row) for row in rows]
    except (ValueError, TypeError, KeyError, RecursionError) as problem:
        if isinstance(problem, AxleError):
            raise
        raise AxleError("strokes", given="a way that is none", wanted="places on the photo") from None
    numbers = [x for stroke in strokes for point in _places(stroke) for x in point]
    if not all(math.isfinite(number) and abs(number) < _FARTHEST for number in numbers):
        raise AxleError("strokes", given="a place that is none", wanted="places on the photo")
    return strokes


def _correction(row: Mapping[str, Any]) -> Stroke | Drop:
    if "drops" in row:
        x, y = row["drops"]
        return Drop((float(x), float(y)))
    points = [(float(x), float(y)) for x, y in row["points"]]
    return Stroke(bool(row["wipes"]), float(row["radius"]), points)


def _places(stroke: Stroke | Drop) -> Sequence[tuple[float, float]]:
    return stroke.points if isinstance(stroke, Stroke) else [stroke.at]


def read_beside(given: Mapping[str, str]) -> tuple[list[float], list[dict[str, float]]]:
    """How sure a photo's reading is and what its other teeth show, as the page was told.

    :raises AxleError: for anything else.
    """
    try:
        spread = [float(part) for part in json.loads(given.get("spread") or "[]")]
        beside = [
            {"tooth": int(row["tooth"]), **{name: float(row[name]) for name in ("u", "v", "area")}}
            for row in json.loads(given.get("beside") or "[]")
        ]
        shares = [*spread, *(row[name] for row in beside for name in ("u", "v", "area"))]
        whole = len(spread) in (0, 2) and len(beside) <= _MOST_BESIDE
        if (
            not whole
            or not all(0 <= share <= 1 for share in shares)
            or any(abs(row["tooth"]) > 12 for row in beside)
        ):
            raise ValueError
    except (ValueError, TypeError, KeyError, RecursionError, OverflowError):
        raise AxleError("photo", given="a reading that is none", wanted="the one the page showed") from None
    return spread, beside


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
