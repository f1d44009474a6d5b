"""The two flanks of a ring gear tooth as seen in the hand, and what is wiped on them.

The drive flank has its toe on the left; the coast flank is seen from the other side, so its toe
is on the right. The drawing maps flank coordinates to the picture and back, so that a patch
dragged on the page comes back as (u, v).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from axle.contact.patch import Patch
from axle.errors import AxleError
from shop.drawing.svg import Svg, number

WIDTH, HEIGHT = 640, 232
_LEFT, _RIGHT = 40.0, 600.0


@dataclass(frozen=True)
class FlankView:
    """How one flank lies on its picture.

    :param flank: "drive" or "coast".
    """

    flank: str

    @property
    def toe_on_left(self) -> bool:
        """Whether the toe is drawn on the left."""
        return self.flank == "drive"

    def to_picture(self, u: float, v: float) -> tuple[float, float]:
        """Place a flank point on the picture."""
        along = u if self.toe_on_left else 1 - u
        root, top = self._edges(u)
        return _LEFT + along * (_RIGHT - _LEFT), root + v * (top - root)

    def to_flank(self, x: float, y: float) -> tuple[float, float]:
        """Find the flank point under a place of the picture, held to the flank."""
        along = min(max((x - _LEFT) / (_RIGHT - _LEFT), 0.0), 1.0)
        u = along if self.toe_on_left else 1 - along
        root, top = self._edges(u)
        return u, min(max((y - root) / (top - root), 0.0), 1.0)

    @staticmethod
    def _edges(u: float) -> tuple[float, float]:
        """Heights of root and top on the picture; the tooth is taller at the heel and bowed."""
        bow = 4 * u * (1 - u)
        return 208 - 14 * bow, 88 - 52 * u - 12 * bow


def patch_from_drag(flank: str, x0: float, y0: float, x1: float, y1: float) -> Patch:
    """Make a patch from a dragged rectangle on the picture.

    :raises AxleError: when the drag covers too little to be a patch.
    """
    view = FlankView(flank)
    # The tooth grows taller towards the heel: heights are told where the patch has its middle.
    middle = (x0 + x1) / 2
    u0, u1 = view.to_flank(x0, y0)[0], view.to_flank(x1, y1)[0]
    v0, v1 = view.to_flank(middle, y0)[1], view.to_flank(middle, y1)[1]
    if abs(u1 - u0) < 0.02 or abs(v1 - v0) < 0.02:
        raise AxleError("patch", given="a touch", wanted="a drag across the wiped area")
    return Patch.box(min(u0, u1), max(u0, u1), min(v0, v1), max(v0, v1))


def flank(
    name: str, patch: Patch | None, ghosts: Sequence[Patch] = (), *, target: Patch | None = None,
    stale: bool = False, title: str = "",
) -> Svg:  # fmt: skip
    """Draw one flank with its patch, the target, and earlier assemblies as ghosts."""
    view = FlankView(name)
    svg = Svg(WIDTH, HEIGHT, f"{name.title()} flank" + (" with its patch" if patch else ", no patch yet"),
              f"flank flank-{name}")  # fmt: skip
    svg.path("flank-stale" if stale else "flank", _outline(view))
    for u in (0.25, 0.5, 0.75):
        svg.path("flank-grid", _line(view, [(u, 0.0), (u, 1.0)]))
    for v in (0.25, 0.5, 0.75):
        svg.path("flank-grid", _line(view, [(u / 20, v) for u in range(21)]))
    if patch is not None:
        svg.path("wiped", _smooth(view, patch))
    for ghost in ghosts:
        svg.path("ghost", _smooth(view, ghost))
    if target is not None:
        svg.path("target", _smooth(view, target))
    left, right = ("toe", "heel") if view.toe_on_left else ("heel", "toe")
    svg.text("unit", 34, 150, left, text_anchor="end")
    svg.text("unit", 606, 130, right)
    svg.text("unit", 320, 228, "root", text_anchor="middle")
    svg.text("unit", 320, 40, "top", text_anchor="middle")
    svg.text("flank-name", 4, 22, title or name.title(), font_family="Barlow Condensed", font_size="21",
             font_weight="600")  # fmt: skip
    return svg


def small(name: str, patch: Patch | None, *, stale: bool, **place: str) -> str:
    """Draw one flank small, to stand inside a larger drawing."""
    view = FlankView(name)
    marks = " ".join(f'{key}="{value}"' for key, value in place.items())
    svg = Svg(WIDTH, HEIGHT, f"{name} flank", "small-flank")
    svg.path("flank-stale" if stale or patch is None else "flank", _outline(view), stroke_width="5")
    if patch is not None:
        svg.path("wiped", _smooth(view, patch), stroke_width="4")
    return str(svg).replace("<svg ", f"<svg {marks} ", 1)


def _outline(view: FlankView) -> str:
    steps = [step / 20 for step in range(21)]
    corners = [(u, 0.0) for u in steps] + [(u, 1.0) for u in reversed(steps)]
    return _line(view, corners) + "Z"


def _line(view: FlankView, points: Sequence[tuple[float, float]]) -> str:
    placed = [view.to_picture(u, v) for u, v in points]
    return "M" + " L".join(f"{number(x)} {number(y)}" for x, y in placed)


def _smooth(view: FlankView, patch: Patch) -> str:
    """A rounded outline through the middles of the patch's sides, the corners as handles."""
    placed = [view.to_picture(u, v) for u, v in patch.outline]
    middles = [
        ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        for a, b in zip(placed, (*placed[1:], placed[0]), strict=True)
    ]
    d = f"M{number(middles[-1][0])} {number(middles[-1][1])}"
    for corner, middle in zip(placed, middles, strict=True):
        d += f" Q{number(corner[0])} {number(corner[1])} {number(middle[0])} {number(middle[1])}"
    return d + "Z"
