"""Compound against bare metal on a flank laid flat: how far each place is covered, and what colour it is.

Compound differs from metal by its colour, white by its brightness once uneven light is taken out. Where
both tell
something, what tells more is kept.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from scipy import ndimage, sparse
from scipy.sparse.linalg import spsolve
from skimage.filters import threshold_otsu

from axle.contact.compound import Compound
from axle.photo.refusals import Cause, unreadable
from axle.photo.white import least_squares, light_terms, whiteness

_SATURATED: Final = 0.96
# A clipped colour is a highlight where every colour is at least this bright; else it is bright compound.
_WHITISH: Final = 0.25
# How far a highlight's halo reaches beyond its white middle [places of the flat flank].
_HALO: Final = 3
# Bounds outside which a photograph is not read; tried on rendered ones.
_DARK, _MOST_GLARE = 0.012, 0.35

# Chromaticity (r, b) of each against grey metal, from linear light; usual pastes, from memory.
_CHROMA: Final[Mapping[Compound, tuple[float, float]]] = {
    Compound.YELLOW: (0.57, 0.03),
    Compound.BLUE: (0.055, 0.77),
    Compound.RED: (0.92, 0.03),
}
_GREY: Final = np.array([1 / 3, 1 / 3])
# Share of a flank that has to look like a paste, and how far from grey, before it is named.
_NAMED_SHARE, _NAMED_TINT, _LEAST_TINT = 0.25, 0.3, 0.35


def coverage(
    light: np.ndarray, seen: np.ndarray, compound: Compound
) -> tuple[np.ndarray, np.ndarray, float]:
    """How far each place of a flat flank is covered with compound.

    :param light: linear light 0 to 1, shape (rows, columns, 3).
    :param seen: which places the camera sees, shape (rows, columns).
    :param compound: its colour.
    :returns: about 0 on metal and 1 on compound, shape (rows, columns); which places are clear of glare,
        likewise;
        and the share of the flank under glare.
    :raises AxleError: too dark, too much glare, another colour, or none.
    :source: two classes by Otsu's threshold; for brightness a quadratic light fitted beside them.
    """
    glare = ndimage.binary_dilation(light.min(axis=-1) > _SATURATED, iterations=_HALO)
    share = float(glare[seen].mean()) if seen.any() else 0.0
    if share > _MOST_GLARE:
        raise unreadable(Cause.LIGHT, f"glare over {share:.0%} of the flank", "turn the lamp or the gear")
    clear = seen & ~glare
    if clear.sum() < 200 or float(np.median(light.sum(axis=-1)[clear])) / 3 < _DARK:
        raise unreadable(Cause.LIGHT, "a picture too dark", "more light, from the side")
    found = named(light[clear])
    if found is not None and found is not compound:
        raise unreadable(
            Cause.COLOUR,
            f"no {compound.value} compound: this looks {found.value}",
            f"choose {found.value} as the compound",
        )
    if compound is Compound.WHITE:
        return _bridged(whiteness(light, clear, seen), clear), clear, share
    tint = _colour(light, compound, clear)
    clipped = (light.max(axis=-1) > _SATURATED) & (light.min(axis=-1) > _WHITISH)
    clear &= ~ndimage.binary_dilation(clipped, iterations=1)
    return _bridged(tint, clear), clear, share


def named(light: np.ndarray) -> Compound | None:
    """Which coloured compound is seen, or None for white, or none at all.

    :param light: linear light of places, shape (n, 3).
    :source: the nearest usual paste by its way from grey.
    """
    chroma = _chroma(light)
    ways = {c: np.array(place) - _GREY for c, place in _CHROMA.items()}
    tints = {c: chroma @ way / (way @ way) for c, way in ways.items()}
    off = {c: np.linalg.norm(chroma - tints[c][:, None] * way, axis=1) for c, way in ways.items()}
    order = list(ways)
    nearest = np.argmin(np.stack([off[c] - 0.25 * np.clip(tints[c], 0, 1) for c in order]), axis=0)
    best: tuple[float, Compound] | None = None
    for i, c in enumerate(order):
        strong = float(np.mean((nearest == i) & (tints[c] > _NAMED_TINT)))
        if strong > _NAMED_SHARE and (best is None or strong > best[0]):
            best = strong, c
    return best[1] if best else None


def _chroma(light: np.ndarray) -> np.ndarray:
    total = light.sum(axis=-1) + 1e-4
    return np.asarray(np.stack([light[..., 0] / total, light[..., 2] / total], axis=-1) - _GREY)


def _colour(light: np.ndarray, compound: Compound, clear: np.ndarray) -> np.ndarray:
    """Difference of red and blue against that of the compound all around: 0 on metal, 1 on compound.

    A highlight adds to all colours alike, so the difference stays right in its halo; a share would not.
    """
    way = np.array(_CHROMA[compound]) - _GREY
    tint = _chroma(light) @ way / (way @ way)
    paste = clear & (tint > threshold_otsu(tint[clear]))
    if float(np.median(tint[paste])) < _LEAST_TINT:
        raise unreadable(
            Cause.COLOUR,
            f"no {compound.value} compound on the flank",
            "point at a painted flank, choose the compound's colour, or print with a fuller coat",
        )
    sign = -1.0 if compound is Compound.BLUE else 1.0
    difference = sign * (light[..., 0] - light[..., 2])
    terms = light_terms(light.shape[:2])
    sure = paste & (difference > 1e-3)
    if sure.sum() < terms.shape[-1] * 10:
        return np.asarray(tint)
    found = least_squares(terms[sure], np.log(difference[sure]))
    by_difference = np.clip(difference / np.exp(np.clip(terms @ found, -8, 0)), -0.5, 1.5)
    by_share = np.clip(tint / max(float(np.median(tint[paste])), 1e-3), -0.5, 1.5)
    # A highlight takes from the share, a shadow from the difference: what either calls covered is covered.
    return np.asarray(np.maximum(by_difference, by_share))


def _bridged(signal: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """Glare filled from its rim as a stretched skin would: each place the mean of its neighbours."""
    if clear.all():
        return signal
    held = np.pad(clear, 1, constant_values=False)
    number = -np.ones(held.shape, dtype=int)
    inside = np.pad(~clear, 1, constant_values=False)
    number[inside] = np.arange(inside.sum())
    known = np.pad(signal, 1)
    rows, columns, right = [], [], np.zeros(int(inside.sum()))
    count = np.zeros(int(inside.sum()))
    y, x = np.nonzero(inside)
    for dy, dx in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        there = (y + dy, x + dx)
        unknown, given = inside[there], held[there]
        rows.append(np.nonzero(unknown)[0])
        columns.append(number[there][unknown])
        right[given] += known[there][given]
        count += unknown | given
    ones = [np.full(len(r), -1.0) for r in rows]
    matrix = sparse.csr_matrix(
        (np.concatenate(ones), (np.concatenate(rows), np.concatenate(columns))), shape=(len(y), len(y))
    ) + sparse.diags(np.maximum(count, 1))
    filled = known.copy()
    filled[inside] = spsolve(matrix.tocsc(), right)
    return np.asarray(filled[1:-1, 1:-1])
