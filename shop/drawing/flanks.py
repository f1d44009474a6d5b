"""The two flanks of a ring gear tooth as seen in the hand, and what is wiped on them.

The drive flank has its toe on the left; the coast flank is seen from the other side, so its toe
is on the right. The drawing maps flank coordinates to the picture and back, so that a patch
drawn on the page comes back as (u, v).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from axle.contact.mark import Edge, FlankMark, Strength
from axle.contact.patch import Patch
from axle.errors import AxleError
from shop.drawing.svg import Svg, number

WIDTH, HEIGHT = 640, 218
_LEFT, _RIGHT = 44.0, 596.0
# An outline of more corners than this was traced: it is drawn as it is, not rounded.
_TRACED = 16
_DARKNESS = {Strength.FAINT: "0.5", Strength.CLEAR: "0.9", Strength.DARK: "1"}

Outline = Sequence[Sequence[float]] | np.ndarray


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
        return 204 - 14 * bow, 88 - 52 * u - 12 * bow


@dataclass(frozen=True)
class Shown:
    """What one flank shows beside its own patches.

    :param computed: computed outlines (u, v) at the place that is looked at.
    :param target: outlines (u, v) of the target.
    :param ghosts: what was wiped on earlier assemblies.
    :param words: beside the flank's name.
    :param stale: what is wiped no longer holds.
    :param handles: corners of the patches can be dragged.
    """

    computed: Sequence[Outline] = ()
    target: Sequence[Outline] = ()
    ghosts: Sequence[Patch] = field(default_factory=tuple)
    words: str = ""
    stale: bool = False
    handles: bool = False


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
        raise AxleError("patch", given="a touch", wanted="a line drawn around the wiped area")
    return Patch.box(min(u0, u1), max(u0, u1), min(v0, v1), max(v0, v1))


def patch_from_line(flank: str, points: Sequence[tuple[float, float]]) -> Patch:
    """Make a patch from a line drawn around it on the picture; a straight one is a box's diagonal.

    :raises AxleError: when it goes around too little to be a patch.
    """
    view = FlankView(flank)
    if len(points) < 2:
        raise AxleError("patch", given="a touch", wanted="a line drawn around the wiped area")
    try:
        return Patch.drawn([view.to_flank(x, y) for x, y in points])
    except AxleError:
        (x0, y0), (x1, y1) = points[0], points[-1]
        return patch_from_drag(flank, x0, y0=y0, x1=x1, y1=y1)


def flank(name: str, mark: FlankMark | None, shown: Shown | None = None, *, title: str = "") -> Svg:
    """Draw one flank with what is wiped, what is computed, the target, and earlier assemblies as ghosts."""
    view, shown = FlankView(name), shown or Shown()
    label = f"{name.title()} flank" + (" with its patch" if mark else ", no patch yet")
    # A picture that holds buttons is a group of them.
    role = "group" if mark is not None and shown.handles else "img"
    svg = Svg(WIDTH, HEIGHT, label=label, name=f"flank flank-{name}", role=role)
    svg.raw(
        f'<filter id="feather-{name}" x="-20%" y="-20%" width="140%" height="140%">'
        '<feGaussianBlur stdDeviation="5"/></filter>'
    )
    svg.path("flank-stale" if shown.stale else "flank", _outline(view))
    for u in (0.25, 0.5, 0.75):
        svg.path("flank-grid", _line(view, [(u, 0.0), (u, 1.0)]))
    for v in (0.25, 0.5, 0.75):
        svg.path("flank-grid", _line(view, [(u / 20, v) for u in range(21)]))
    if mark is not None:
        _wiped(svg, view, mark)
    for ghost in shown.ghosts:
        svg.path("ghost", _drawn(view, ghost))
    svg.path("target", outlines_path(name, shown.target), data_role="target")
    svg.path("computed", outlines_path(name, shown.computed), data_role="computed")
    if mark is not None and shown.handles:
        _handles(svg, view, mark)
    left, right = ("toe", "heel") if view.toe_on_left else ("heel", "toe")
    svg.text("unit", 38, 150 if view.toe_on_left else 126, left, text_anchor="end")
    svg.text("unit", 602, 126 if view.toe_on_left else 150, right)
    svg.text("unit", 320, 208, "root", text_anchor="middle")
    svg.text("unit", 320, 44, "top", text_anchor="middle")
    svg.text(
        "flank-name",
        0,
        20,
        title or name.title(),
        font_family="Barlow Condensed",
        font_size="21",
        font_weight="600",
    )
    if shown.words:
        svg.text("unit", 62, 20, shown.words)
    return svg


def small(name: str, mark: FlankMark | None, *, stale: bool, **place: str) -> str:
    """Draw one flank small, to stand inside a larger drawing."""
    view = FlankView(name)
    marks = " ".join(f'{key}="{value}"' for key, value in place.items())
    svg = Svg(WIDTH, HEIGHT, label=f"{name} flank", name="small-flank")
    svg.path("flank-stale" if stale or mark is None else "flank", _outline(view), stroke_width="5")
    if mark is not None:
        for patch in mark.patches:
            svg.path("wiped", _drawn(view, patch), stroke_width="4")
    return str(svg).replace("<svg ", f"<svg {marks} ", 1)


def outline_path(name: str) -> str:
    """The outline of a flank, as path data."""
    return _outline(FlankView(name))


def outlines_path(name: str, outlines: Iterable[Outline], step: int = 1) -> str:
    """Outlines (u, v) on a flank as path data; every so many of their corners."""
    view = FlankView(name)
    return "".join(_line(view, [(p[0], p[1]) for p in outline[::step]]) + "Z" for outline in outlines)


def _wiped(svg: Svg, view: FlankView, mark: FlankMark) -> None:
    hard = mark.edge is Edge.HARD
    for patch in mark.patches:
        d = _drawn(view, patch)
        if not hard:
            svg.path("wiped-soft", d, filter=f"url(#feather-{view.flank})")
        svg.path("wiped", d, fill_opacity=_DARKNESS[mark.strength], stroke_width="3" if hard else "1.2")


def _handles(svg: Svg, view: FlankView, mark: FlankMark) -> None:
    for blob, patch in enumerate(mark.patches):
        for corner, (u, v) in enumerate(patch.simplified().outline):
            x, y = view.to_picture(u, v)
            svg.circle(
                "handle",
                x,
                y,
                7,
                data_blob=str(blob),
                data_corner=str(corner),
                tabindex="0",
                role="button",
                aria_label=f"corner {corner + 1}, {view.flank} patch",
            )


def _outline(view: FlankView) -> str:
    steps = [step / 20 for step in range(21)]
    corners = [(u, 0.0) for u in steps] + [(u, 1.0) for u in reversed(steps)]
    return _line(view, corners) + "Z"


def _line(view: FlankView, points: Sequence[tuple[float, float]]) -> str:
    placed = [view.to_picture(u, v) for u, v in points]
    return "M" + " L".join(f"{number(x)} {number(y)}" for x, y in placed)


def _drawn(view: FlankView, patch: Patch) -> str:
    if len(patch.outline) > _TRACED:
        return _line(view, patch.outline) + "Z"
    return _smooth(view, patch)


def _smooth(view: FlankView, patch: Patch) -> str:
    """A rounded outline through the middles of the patch's sides, the corners as handles."""
    placed = [view.to_picture(u, v) for u, v in patch.outline]
    centroids = [
        ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        for a, b in zip(placed, (*placed[1:], placed[0]), strict=True)
    ]
    d = f"M{number(centroids[-1][0])} {number(centroids[-1][1])}"
    for corner, middle in zip(placed, centroids, strict=True):
        d += f" Q{number(corner[0])} {number(corner[1])} {number(middle[0])} {number(middle[1])}"
    return d + "Z"
