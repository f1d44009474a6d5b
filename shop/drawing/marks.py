"""Pictures that are data: marks as a style and a path, put down in their order."""

from __future__ import annotations

from collections.abc import Iterable

from shop.drawing.svg import Svg

Mark = tuple[str, str]


def put(svg: Svg, marks: Iterable[Mark]) -> None:
    """Draw marks.

    :param svg: the picture.
    :param marks: (style, path); a style as in :data:`shop.drawing.svg.STYLES`.
    """
    for style, path in marks:
        svg.path(style, path)
