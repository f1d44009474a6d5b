"""Places on a photograph as it is kept: as shares of its width and height, whatever copy is looked at."""

from __future__ import annotations

from collections.abc import Sequence


def places_in(
    width: int, height: int, shares: Sequence[Sequence[float]]
) -> tuple[tuple[float, float], ...]:
    """Places given as shares of a picture, in its pixels.

    :param width: of the picture [pixels].
    :param height: of the picture [pixels].
    :param shares: (x, y) of each, 0 to 1.
    :source: the project's own job format.

    >>> places_in(400, 200, [[0.5, 0.5]])
    ((200.0, 100.0),)
    """
    return tuple((x * width, y * height) for x, y in shares)


def place_shares(
    width: int, height: int, places: Sequence[Sequence[float]]
) -> tuple[tuple[float, float], ...]:
    """Places in a picture's pixels, as shares of it held to its edges: what is kept.

    :param width: of the picture [pixels], more than 0.
    :param height: of the picture [pixels], more than 0.
    :param places: (x, y) of each [pixels].
    :source: the project's own job format.

    >>> place_shares(400, 200, [[200.0, 100.0]])
    ((0.5, 0.5),)
    """
    return tuple((min(max(x / width, 0.0), 1.0), min(max(y / height, 0.0), 1.0)) for x, y in places)
