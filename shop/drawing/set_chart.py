"""One cell of a set's chart: both flanks small, with the computed pattern."""

from __future__ import annotations

from collections.abc import Mapping

from shop.drawing.flanks import WIDTH, Outline, outline_path, outlines_path
from shop.drawing.svg import Svg

# Every so many corners of a computed outline: what a cell of two inches shows.
_COARSE = 3
_FLANK = 190


def cell(
    outlines: Mapping[str, tuple[Outline, ...]],
    label: str,
    ghosts: Mapping[str, tuple[Outline, ...]] | None = None,
) -> Svg:
    """Draw both flanks of one cell; dotted is where the patch was."""
    svg = Svg(WIDTH, 2 * _FLANK, label=label, name="cell")
    for index, name in enumerate(("drive", "coast")):
        svg.raw(f'<g transform="translate(0 {index * _FLANK - 18})">')
        svg.path("flank-plain", outline_path(name))
        svg.path("wiped", outlines_path(name, outlines[name], _COARSE), stroke_width="5")
        if ghosts:
            svg.path("ghost", outlines_path(name, ghosts[name], _COARSE), stroke_width="5")
        svg.raw("</g>")
    return svg
