"""Reading a print from a photograph of one flank whose four corners were pointed at.

The flank is laid flat by its corners; compound is told from wiped metal by its colour (for white by its
brightness once uneven light is taken out), glare is bridged, and what cannot be read is said to be so.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

import numpy as np
from scipy import ndimage, sparse
from scipy.sparse.linalg import spsolve
from skimage.filters import threshold_otsu
from skimage.measure import find_contours, label, regionprops

from axle.contact.corners import HIGH, LONG, flatten, unreadable

_SATURATED: Final = 0.96
# A clipped colour is a highlight where every colour is at least this bright; else it is bright compound.
_WHITISH: Final = 0.25
# How far a highlight's halo reaches beyond its white middle [pixels laid flat].
_HALO: Final = 4
# Bounds outside which a photograph is not read; common practice and tried on rendered ones.
_DARK, _MOST_GLARE = 0.012, 0.35
_LEAST_PATCH, _MOST_PATCH = 0.015, 0.85
# Contrast of compound against metal, in scatters of either; the widest feathered edge, in heights.
_LEAST_CONTRAST: Final = 4.2
# How far towards its own colour compound has to be: 0 is grey, 1 the usual paste.
_LEAST_TINT: Final = 0.35
_MOST_BLUR: Final = 0.22


class Compound(Enum):
    """Colours of marking compound."""

    YELLOW = "yellow"
    WHITE = "white"
    BLUE = "blue"
    RED = "red"


# Chromaticity (r, b) of each against grey metal, from linear light; usual pastes, from memory.
_CHROMA: Final = {
    Compound.YELLOW: (0.57, 0.03),
    Compound.BLUE: (0.055, 0.77),
    Compound.RED: (0.92, 0.03),
}
_GREY: Final = np.array([1 / 3, 1 / 3])


@dataclass(frozen=True)
class Blob:
    """One wiped patch, as read.

    :param outline: closed outline (u, v), shape (n, 2) as a tuple of pairs.
    :param area: share of the flank.
    """

    outline: tuple[tuple[float, float], ...]
    area: float


@dataclass(frozen=True)
class PhotoReading:
    """What a photograph of one flank shows.

    :param blobs: wiped patches, largest first.
    :param centroid: middle of the wiped area (u, v).
    :param area: share of the flank that is wiped.
    :param glare: share of the flank that glare covers, bridged over.
    :param contrast: of compound against metal, in scatters.
    """

    blobs: tuple[Blob, ...]
    centroid: tuple[float, float]
    area: float
    glare: float
    contrast: float


def read_photo(
    image: np.ndarray, corners: tuple[tuple[float, float], ...], compound: Compound
) -> PhotoReading:
    """Read the wiped patch of one flank.

    :param image: the photograph, shape (height, width, 3), 0 to 255.
    :param corners: (x, y) of toe-root, heel-root, heel-top, toe-top [pixels].
    :param compound: its colour.
    :returns: patches in (u, v), shares 0 to 1.
    :raises AxleError: where the photograph cannot be read, saying why.
    :source: two-class threshold (Otsu) on chromaticity; for white a quadratic light field fitted beside it.

    >>> picture = np.full((200, 500, 3), (230, 190, 30), dtype=np.uint8)
    >>> picture[80:120, 200:300] = (120, 122, 126)
    >>> found = read_photo(picture, ((50, 150), (450, 150), (450, 50), (50, 50)), Compound.YELLOW)
    >>> round(found.centroid[0], 2), round(found.centroid[1], 2), round(found.area, 1)
    (0.5, 0.5, 0.1)
    """
    light = _without_rim(flatten(image, corners))
    glare = ndimage.binary_dilation(light.min(axis=-1) > _SATURATED, iterations=_HALO)
    share = float(glare.mean())
    if share > _MOST_GLARE:
        raise unreadable(f"glare over {share:.0%} of the flank", "turn the lamp or the gear")
    clear = ~glare
    if float(np.median(light.sum(axis=-1)[clear])) / 3 < _DARK:
        raise unreadable("a picture too dark", "more light, from the side")
    if compound is Compound.WHITE:
        signal = _whiteness(light, clear)
    else:
        signal = _colour(light, compound, clear)
        clipped = (light.max(axis=-1) > _SATURATED) & (light.min(axis=-1) > _WHITISH)
        clear = ~ndimage.binary_dilation(clipped, iterations=1)
    signal = _bridged(signal, clear)
    smooth = ndimage.gaussian_filter(signal, 1.5)
    level = float(threshold_otsu(smooth[clear]))
    wiped = smooth < level
    contrast = _contrast(smooth, wiped, clear)
    if contrast < _LEAST_CONTRAST:
        raise unreadable(
            "no clear difference between compound and metal",
            "check the compound's colour, or clean the teeth and print again",
        )
    return _measured(smooth, level, share, contrast)


def _measured(smooth: np.ndarray, level: float, glare: float, contrast: float) -> PhotoReading:
    wiped = ndimage.binary_opening(smooth < level, iterations=2)
    wiped = ndimage.binary_fill_holes(wiped)
    numbers = label(wiped)
    found = sorted(regionprops(numbers), key=lambda region: -region.area)
    least = max(_LEAST_PATCH, 0.12 * found[0].area / wiped.size) if found else 0.0
    kept = [region for region in found if region.area / wiped.size >= least]
    area = sum(region.area for region in kept) / wiped.size
    if not kept or area > _MOST_PATCH:
        raise unreadable(
            "no wiped patch" if not kept else "hardly any compound on the flank", "print again"
        )
    mask = np.isin(numbers, [region.label for region in kept])
    blur = _edge_width(smooth, mask)
    if blur > _MOST_BLUR or len(kept) > 3:
        raise unreadable("a smeared patch without an edge", "clean the teeth and print again")
    v, u = np.nonzero(mask)
    blobs = tuple(Blob(_outline(numbers == region.label), region.area / wiped.size) for region in kept)
    centroid = (float((u.mean() + 0.5) / LONG), float(1 - (v.mean() + 0.5) / HIGH))
    return PhotoReading(blobs, centroid, area=float(area), glare=glare, contrast=contrast)


def _without_rim(light: np.ndarray) -> np.ndarray:
    """What lies just inside, out to the edge: a corner pointed at a little off shows the housing there."""
    return np.pad(light[2:-2, 4:-4], ((2, 2), (4, 4), (0, 0)), mode="edge")


def _tint(light: np.ndarray, compound: Compound) -> np.ndarray:
    """How far each place is from grey towards the compound's colour: about 0 on metal, 1 on compound."""
    total = light.sum(axis=-1) + 1e-4
    chroma = np.stack([light[..., 0] / total, light[..., 2] / total], axis=-1) - _GREY
    way = np.array(_CHROMA[compound]) - _GREY
    return np.asarray(chroma @ way / (way @ way))


def _colour(light: np.ndarray, compound: Compound, clear: np.ndarray) -> np.ndarray:
    """Difference of red and blue against that of the compound all around: 0 on metal, 1 on compound.

    A highlight adds to all colours alike, so the difference stays right in its halo; a share would not.
    """
    tint = _tint(light, compound)
    paste = clear & (tint > threshold_otsu(tint[clear]))
    if float(np.median(tint[paste])) < _LEAST_TINT:
        raise unreadable(
            f"no {compound.value} compound on the flank", "choose the compound's colour, or print again"
        )
    sign = -1.0 if compound is Compound.BLUE else 1.0
    difference = sign * (light[..., 0] - light[..., 2])
    terms = _field(light.shape[:2])
    sure = paste & (difference > 1e-3)
    if sure.sum() < terms.shape[-1] * 10:
        return tint
    found = np.linalg.lstsq(terms[sure], np.log(difference[sure]), rcond=None)[0]
    return np.asarray(np.clip(difference / np.exp(np.clip(terms @ found, -8, 0)), -0.5, 1.5))


def _field(shape: tuple[int, ...]) -> np.ndarray:
    """Terms of a light that changes smoothly over the flank: a quadratic."""
    v, u = np.mgrid[-1 : 1 : shape[0] * 1j, -1 : 1 : shape[1] * 1j]
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=-1)


def _whiteness(light: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """Brightness against a smooth light field, which is fitted together with the two classes."""
    bright = np.log(light.mean(axis=-1) + 1e-3)
    terms = _field(bright.shape)
    fits = [_two_levels(bright, terms, clear, start) for start in (bright, _above(bright, terms, clear))]
    _, rest, step = min(fits, key=lambda fit: fit[0])
    return np.asarray(rest / max(step, 0.05))


def _above(bright: np.ndarray, terms: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """How far each place lies from the light on the bright places: what lies above it counts for more."""
    weight = np.ones(int(clear.sum()))
    found = np.zeros(terms.shape[-1])
    for _ in range(15):
        root = np.sqrt(weight)[:, None]
        found = np.linalg.lstsq(terms[clear] * root, bright[clear] * root[:, 0], rcond=None)[0]
        weight = np.where(bright[clear] > terms[clear] @ found, 0.93, 0.07)
    return np.asarray(bright - terms @ found)


def _two_levels(
    bright: np.ndarray, terms: np.ndarray, clear: np.ndarray, start: np.ndarray
) -> tuple[float, np.ndarray, float]:
    """A smooth light and a step between two classes, from a first guess of what is bright.

    :returns: what is left over, the brightness without the light, and the step.
    """
    white = start > threshold_otsu(start[clear])
    rest, step, left = bright, 1.0, np.inf
    for _ in range(15):
        both = np.concatenate([terms, white[..., None]], axis=-1)[clear]
        found = np.linalg.lstsq(both, bright[clear], rcond=None)[0]
        left = float(np.mean((both @ found - bright[clear]) ** 2))
        rest, step = bright - terms @ found[:-1], float(found[-1])
        again = rest > step / 2
        if np.array_equal(again, white):
            break
        white = again
    return left, rest, step


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
    ) + sparse.diags(count)
    filled = known.copy()
    filled[inside] = spsolve(matrix.tocsc(), right)
    return np.asarray(filled[1:-1, 1:-1])


def _contrast(signal: np.ndarray, wiped: np.ndarray, clear: np.ndarray) -> float:
    metal, paste = signal[wiped & clear], signal[~wiped & clear]
    if len(metal) < 50 or len(paste) < 50:
        return 0.0
    apart = float(np.median(paste) - np.median(metal))
    if apart < 0.12:
        return 0.0
    scatter = [float(np.median(np.abs(x - np.median(x)))) * 1.4826 for x in (metal, paste)]
    return apart / (sum(scatter) / 2 + 1e-6)


def _edge_width(signal: np.ndarray, mask: np.ndarray) -> float:
    """How wide the edge is, from the steepness of the signal on it, as share of the flank's height."""
    edge = mask ^ ndimage.binary_erosion(mask)
    edge[:2], edge[-2:], edge[:, :2], edge[:, -2:] = False, False, False, False
    if not edge.any():
        return 0.0
    steep = np.hypot(*np.gradient(signal))[edge]
    span = float(np.median(signal[~mask]) - np.median(signal[mask]))
    return span / (float(np.median(steep)) + 1e-9) / HIGH


def _outline(mask: np.ndarray) -> tuple[tuple[float, float], ...]:
    padded = np.pad(ndimage.gaussian_filter(mask.astype(float), 1.0), 1)
    line = max(find_contours(padded, 0.5), key=len)
    u = np.clip((line[:, 1] - 0.5) / LONG, 0, 1)
    v = np.clip(1 - (line[:, 0] - 0.5) / HIGH, 0, 1)
    step = max(len(line) // 60, 1)
    return tuple((float(a), float(b)) for a, b in zip(u[::step], v[::step], strict=True))
