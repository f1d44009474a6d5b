"""A pattern that wanders around the ring gear, and which part turns it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np

from axle.contact.mark import Flanked

# Wander under this, peak to peak in shares of the flank, is a print's own scatter: twice the usual noise,
# and a little; from memory.
LEAST: Final = 0.08
_LEAST_FIT, _LEAST_TOLD = 3, 5
# The better order must leave less than this share of what the next best leaves.
_CLEARER: Final = 0.35
# An order of which another explains all but this share at the places read cannot be told from it.
_APART: Final = 0.2


class Blamed(StrEnum):
    """The part that makes a pattern wander: ring gear or carrier (once or twice a turn), or pinion."""

    NOTHING = "nothing"
    RING = "ring"
    PINION = "pinion"
    NOT_TOLD = "not told"


@dataclass(frozen=True)
class Wander:
    """How far a pattern wanders, and with what.

    :param along: peak to peak along the tooth, share of the length, the flank where it is most.
    :param up: peak to peak up the tooth, share of the height, likewise.
    :param places: places around the ring gear that were read.
    :param blames: the part that turns it.
    :param order: times a turn of the ring gear that explain it best; 0 when none is told.
    :param tells: least number of places at which the pinion's turns look like no lower order, where those
        read cannot tell; 0 where none up to twelve can, or nothing is asked.
    """

    along: float
    up: float
    places: int
    blames: Blamed
    order: float
    tells: int = 0


def wander(flanks: Mapping[str, Flanked], places: int, ratio: float, ring_teeth: int = 0) -> Wander | None:
    """Tell which part makes a pattern wander, by the order that explains it best.

    :param flanks: prints by flank word, each at places 1 to ``places``, equally spaced around it; where all
        marks name their tooth, those say where they are.
    :param places: places painted in all, 1 or more.
    :param ratio: N2/N1 [1], more than 0.
    :param ring_teeth: N2, to place teeth by; 0 when not known.
    :returns: None with fewer than three places on every flank. The pinion's order is told only where it
        cannot be taken for another one at those places.
    :source: least squares on cos kθ, sin kθ for k = 1, 2 and N2/N1 (orders as in runout).

    >>> from axle.contact.mark import FlankMark
    >>> from axle.contact.patch import Patch
    >>> shifts = [0.1 * math.cos(2 * math.pi * k / 6) for k in range(6)]
    >>> marks = {k + 1: FlankMark((Patch.box(0.2, 0.6, 0.3 + s, 0.6 + s),)) for k, s in enumerate(shifts)}
    >>> found = wander({"drive": Flanked(marks)}, 6, 3.73)
    >>> found.blames.value, found.order, round(found.up, 1)
    ('ring', 1.0, 0.2)
    """
    places = max(places, *(max(flank.marks) for flank in flanks.values()))
    rows = {name: flank for name, flank in flanks.items() if len(flank.marks) >= _LEAST_FIT}
    if not rows:
        return None
    along = max(_span(flank, 0) for flank in rows.values())
    up = max(_span(flank, 1) for flank in rows.values())
    count = max(len(flank.marks) for flank in rows.values())
    if max(along, up) < LEAST:
        return Wander(along, up, places=count, blames=Blamed.NOTHING, order=0.0)
    angles = {name: _angles(flank, places, ring_teeth) for name, flank in rows.items()}
    orders = [1.0, 2.0, *([ratio] if all(_told_apart(ratio, at) for at in angles.values()) else [])]
    left = {order: sum(_left(rows[name], order, at) for name, at in angles.items()) for order in orders}
    ranked = sorted(orders, key=lambda order: left[order])
    # The pinion's turns that fold onto the order that explains it best would look just so.
    folds = any(ranked[0] != ratio and _folds_onto(ranked[0], ratio, at) for at in angles.values())
    if count < _LEAST_TOLD or folds or left[ranked[0]] > _CLEARER * left[ranked[1]]:
        return Wander(
            along, up, places=count, blames=Blamed.NOT_TOLD, order=0.0, tells=places_that_tell(ratio)
        )
    return Wander(
        along,
        up,
        places=count,
        blames=Blamed.PINION if ranked[0] == ratio else Blamed.RING,
        order=ranked[0],
    )


def _angles(flank: Flanked, places: int, ring_teeth: int) -> np.ndarray:
    """Where around the ring gear each mark is [rad]."""
    teeth = [mark.tooth for mark in flank.marks.values()]
    if ring_teeth and all(teeth) and len(set(teeth)) == len(teeth):
        return 2 * math.pi * (np.array(teeth) - 1) / ring_teeth
    return 2 * math.pi * (np.array([*flank.marks]) - 1) / places


def _waves(order: float, at: np.ndarray) -> np.ndarray:
    return np.column_stack([np.ones_like(at), np.cos(order * at), np.sin(order * at)])


def _told_apart(order: float, at: np.ndarray) -> bool:
    """Whether an order looks like no other at these places: the pinion's folds back onto a lower one."""
    wave = _waves(order, at)[:, 1:]
    return not any(_looks_like(other, wave, at) for other in (1.0, 2.0))


def _folds_onto(lower: float, order: float, at: np.ndarray) -> bool:
    """Whether an order looks like a lower one at these places."""
    return _looks_like(lower, _waves(order, at)[:, 1:], at)


def _looks_like(lower: float, wave: np.ndarray, at: np.ndarray) -> bool:
    as_lower = _waves(lower, at) @ np.linalg.lstsq(_waves(lower, at), wave, rcond=None)[0]
    return float(((wave - as_lower) ** 2).sum()) < _APART * float((wave**2).sum())


def places_that_tell(ratio: float, most: int = 12) -> int:
    """Least number of equally spaced places at which the pinion's turns look like neither order 1 nor 2.

    :param ratio: N2/N1 [1].
    :param most: largest number looked at.
    :returns: 5 or more places; 0 where none up to ``most`` can tell.
    :source: sampling: an order above half the number of places folds onto a lower one.

    >>> places_that_tell(4.1), places_that_tell(3.73)
    (7, 7)
    """
    for count in range(_LEAST_TOLD, most + 1):
        if _told_apart(ratio, 2 * math.pi * np.arange(count) / count):
            return count
    return 0


def _span(flank: Flanked, axis: int) -> float:
    centroids = [mark.centroid[axis] for mark in flank.marks.values()]
    return max(centroids) - min(centroids)


def _left(flank: Flanked, order: float, at: np.ndarray) -> float:
    """Sum of squares that one order leaves, over both ways of the flank."""
    centroids = np.array([mark.centroid for mark in flank.marks.values()])
    found = np.linalg.lstsq(_waves(order, at), centroids, rcond=None)[0]
    return float(((centroids - _waves(order, at) @ found) ** 2).sum())


def tells_pinion(ratio: float, places: int) -> bool:
    """Say whether the pinion's turns look like no turn of the ring gear at so many equally spaced places.

    :param ratio: N2/N1 [1].
    :param places: n, 3 or more.
    :source: as :func:`places_that_tell`, for order 1 alone.

    >>> tells_pinion(4.1, 3), tells_pinion(3.73, 8)
    (False, True)
    """
    at = 2 * math.pi * np.arange(places) / places
    return not _folds_onto(1.0, ratio, at)
