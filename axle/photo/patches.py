"""Wiped patches on a flat flank, told from bare spots and from strips along an edge."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from scipy import ndimage
from scipy.stats import median_abs_deviation
from skimage.filters import threshold_otsu
from skimage.measure import find_contours, label, regionprops

from axle.photo.refusals import ROOT_IN_SIGHT, Cause, Unreadable, unreadable

# The flat flank, in places up and along.
HIGH, LONG = 80, 240
_LEAST_PATCH, _MOST_PATCH = 0.02, 0.85
_LEAST_CONTRAST: Final = 2.9
# Medians of compound and metal that lie nearer than this are one.
_LEAST_APART: Final = 0.12
# The widest feathered edge, share of the height.
_MOST_BLUR: Final = 0.3
# A region no higher than this along the top land or the root is a strip of it, not a patch.
_STRIP: Final = 0.12
# What runs along nearly the whole tooth and is thin is a line of light, not a patch.
_WHOLE: Final = 0.8
# Share of a patch's length that may end at the next tooth.
_CUT_OFF: Final = 0.4
_MOST: Final = 6
# What is smaller is not counted [share of the flank].
_SPECK: Final = 0.003
# Where less than this is seen, a patch may be behind the next tooth.
_SEEN_ENOUGH: Final = 0.75
# A bare spot: so near an end or the top, and under so much of the flank. Along the root the light falls
# off: what is smaller there is a shade.
_AT_EDGE, _SPOT, _ROOT_SHADE = 0.04, 0.09, 0.04
# What a signal is cut to before a threshold is set: a highlight must not be a class of its own. So far
# about a bare spot the coat is thin. Least contrast where the threshold is set again without such spots:
# two halves of one normal scatter have 2.3.
_SIGNAL: Final = (-0.25, 1.25)
_SPOT_RIM: Final = 3
_THIN_CONTRAST: Final = 3.6
# A region of which so much of the outline lies on top land and ends is a shade of the light, not a patch.
_ON_RIM: Final = 0.22


@dataclass(frozen=True)
class WipedPatch:
    """One wiped patch, as read.

    :param outline: closed outline (u, v), shape (n, 2) as a tuple of pairs.
    :param area: share of the flank.
    """

    outline: tuple[tuple[float, float], ...]
    area: float


@dataclass(frozen=True, eq=False)
class Wiped:
    """Every patch of one flank.

    :param patches: the largest first.
    :param mask: which places are wiped, shape (80, 240), rows from the top land down.
    :param contrast: of compound against metal, in scatters.
    :param edge: how wide the patch's edge is, share of the height.
    :param bare: number of bare spots that were left out.
    :param small: spots too small to be patches by themselves, shape (80, 240).
    """

    patches: tuple[WipedPatch, ...]
    mask: np.ndarray
    contrast: float
    edge: float
    bare: int
    small: np.ndarray

    @property
    def area(self) -> float:
        """Share of the flank that is wiped."""
        return float(self.mask.mean())

    @property
    def centroid(self) -> tuple[float, float]:
        """Middle of the wiped area (u, v)."""
        v, u = np.nonzero(self.mask)
        return float((u.mean() + 0.5) / LONG), float(1 - (v.mean() + 0.5) / HIGH)


def wiped_patches(signal: np.ndarray, clear: np.ndarray, seen: np.ndarray) -> Wiped:
    """Patches where compound was wiped off.

    :param signal: 0 on metal and 1 on compound, shape (80, 240).
    :param clear: which places are free of glare, likewise.
    :param seen: which places the camera sees, likewise.
    :returns: the patches and how they were seen.
    :raises AxleError: for no patch, no contrast, or a smear.
    :source: Otsu's threshold, connected regions.
    """
    found = regions_of(signal, clear, seen)
    smooth, numbers, patches = found.smooth, found.numbers, found.patches
    clearness = contrast(smooth, smooth < found.level, found.counted)
    no_patch = not patches or patches[0].area / signal.size < _LEAST_PATCH
    # What hides the flank comes first: the coat cannot be judged by what is left of it.
    if (no_patch or clearness < _LEAST_CONTRAST) and float(seen.mean()) < _SEEN_ENOUGH:
        raise unreadable(Cause.HIDDEN, "no wiped patch above the next tooth", ROOT_IN_SIGHT)
    if clearness < _LEAST_CONTRAST:
        raise no_difference()
    if no_patch:
        raise unreadable(Cause.COAT, "no wiped patch", "look whether the gears were turned under load")
    kept = [
        region
        for region in patches
        if region.area >= max(_LEAST_PATCH * signal.size, 0.15 * patches[0].area)
    ]
    large = {region.label for region in kept}
    small = np.isin(
        numbers, [r.label for r in patches if r.area > _SPECK * signal.size and r.label not in large]
    )
    # What goes on under the next tooth beside a patch that does not is that tooth, or bare.
    clear_of = [region for region in kept if not _goes_under(region, seen)]
    bare = found.bare + (len(kept) - len(clear_of) if clear_of else 0)
    kept = clear_of or kept
    mask = np.isin(numbers, [region.label for region in kept])
    if mask.mean() > _MOST_PATCH:
        raise unreadable(Cause.COAT, "hardly any compound on the flank", "print again with a fuller coat")
    if _runs_out_of_sight(mask, seen):
        raise unreadable(
            Cause.HIDDEN,
            "a patch that goes on behind the next tooth",
            ROOT_IN_SIGHT,
        )
    edge = _edge_width(smooth, mask)
    if edge > _MOST_BLUR or len(kept) > 3:
        raise unreadable(Cause.COAT, "a smeared patch without an edge", "clean the teeth and print again")
    outlines = tuple(
        WipedPatch(_outline(numbers == region.label), float(region.area / signal.size)) for region in kept
    )
    return Wiped(outlines, mask, clearness, edge, bare, small)


def no_difference() -> Unreadable:
    """The refusal of a flank on which wiped and covered places look alike.

    :returns: the error.
    :source: the project's own words.
    """
    return unreadable(
        Cause.COAT,
        "no clear difference between compound and metal",
        "the coat is too thin or was not wiped; clean the teeth and print again",
    )


@dataclass(frozen=True, eq=False)
class Regions:
    """Places where compound is missing.

    :param smooth: the signal, smoothed, shape (80, 240).
    :param level: what lies under it is metal.
    :param counted: places that the level rests on, shape (80, 240).
    :param numbers: of all regions, likewise, 0 for none.
    :param patches: those that may be patches, the largest first.
    :param bare: number of spots that the brush missed.
    """

    smooth: np.ndarray
    level: float
    counted: np.ndarray
    numbers: np.ndarray
    patches: list[Any]
    bare: int


def regions_of(signal: np.ndarray, clear: np.ndarray, seen: np.ndarray) -> Regions:
    """Regions where compound is missing that may be patches: no strips along an edge, no bare spots.

    :param signal: 0 on metal and 1 on compound, shape (80, 240).
    :param clear: which places are free of glare, likewise.
    :param seen: which places the camera sees, likewise.
    :source: Otsu's threshold, connected regions.
    """
    smooth = ndimage.gaussian_filter(np.clip(signal, *_SIGNAL), 1.5)
    counted, bare = clear, 0
    while True:
        level = float(threshold_otsu(smooth[counted]))
        wiped = ndimage.binary_opening((smooth < level) & seen & (counted | ~clear), iterations=2)
        numbers = label(ndimage.binary_fill_holes(wiped))
        regions = sorted(regionprops(numbers), key=lambda region: -region.area)
        missed = {region.label for region in regions if _is_bare(region, seen)}
        patches = [region for region in regions if region.label not in missed]
        spots = [r for r in regions if r.label in missed and r.area > _SPECK * seen.size]
        bare += len(spots)
        if counted is not clear and contrast(smooth, smooth < level, counted) < _THIN_CONTRAST:
            patches = []
        is_patch = bool(patches) and patches[0].area >= _LEAST_PATCH * seen.size
        if is_patch or not spots:
            break
        # Bare metal is so unlike a thin coat that a patch with a film left on it lies on the coat's side.
        spot = np.isin(numbers, [region.label for region in spots])
        without = counted & ~ndimage.binary_dilation(spot, iterations=_SPOT_RIM)
        if without.sum() < clear.sum() / 2:
            break
        counted = without
    return Regions(smooth, level, counted, numbers, patches, bare)


def contrast(signal: np.ndarray, wiped: np.ndarray, clear: np.ndarray) -> float:
    """How far compound and metal lie apart, in scatters of either; 0 where they hardly do.

    :param signal: 0 on metal, 1 on compound, shape (rows, columns).
    :param wiped: which places are metal, likewise.
    :param clear: which places count, likewise.
    :source: :func:`apart`.
    """
    metal, paste = signal[wiped & clear], signal[~wiped & clear]
    if len(metal) < 50 or len(paste) < 50 or np.median(paste) - np.median(metal) < _LEAST_APART:
        return 0.0
    return apart(metal, paste)


def apart(low: np.ndarray, high: np.ndarray) -> float:
    """How far the middle of one group lies over another's, in scatters of either.

    :param low: shape (n,), at least one value.
    :param high: shape (m,), likewise.
    :source: difference of medians over the mean of median absolute deviations.

    >>> round(apart(np.array([0.0, 1.0, 2.0]), np.array([10.0, 11.0, 12.0])), 1)
    6.7
    """
    scatter = (_scatter(low) + _scatter(high)) / 2
    return float(np.median(high) - np.median(low)) / (scatter + 1e-6)


def _scatter(values: np.ndarray) -> float:
    return float(median_abs_deviation(values, scale="normal"))


def patches_in(mask: np.ndarray) -> tuple[WipedPatch, ...]:
    """Patches of a mask that a hand has corrected, the largest first.

    :param mask: which places are wiped, shape (80, 240).
    :returns: outlines (u, v) and shares of the flank.
    :raises AxleError: where nothing is wiped.
    :source: connected regions.
    """
    numbers = label(mask)
    least = _LEAST_PATCH * mask.size / 4
    regions = [region for region in regionprops(numbers) if region.area >= least]
    if not regions:
        raise unreadable(
            Cause.COAT, "no wiped patch left", "paint it with a finger, or point at the corners again"
        )
    regions.sort(key=lambda region: -region.area)
    return tuple(
        WipedPatch(_outline(numbers == region.label), float(region.area / mask.size))
        for region in regions[:_MOST]
    )


def _runs_out_of_sight(mask: np.ndarray, seen: np.ndarray) -> bool:
    """Whether a good part of the patch's lower edge is where the next tooth begins, over the root."""
    columns = np.nonzero(mask.any(axis=0))[0]
    lowest_seen = _lowest(seen)
    over_root = lowest_seen < (1 - 2 * _AT_EDGE) * HIGH - 1
    cut = (_lowest(mask) >= lowest_seen - 1) & over_root
    return bool(cut[columns].mean() > _CUT_OFF)


def _goes_under(region: Any, seen: np.ndarray) -> bool:
    """Whether a good part of a region's lower edge is where the seen flank ends at the bottom."""
    top, left, _, right = region.bbox
    lowest = top + region.image.shape[0] - 1 - np.argmax(region.image[::-1], axis=0)
    return bool(np.mean(lowest >= _lowest(seen)[left:right] - 2) > _CUT_OFF)


def _lowest(places: np.ndarray) -> np.ndarray:
    """The lowest row of each column that counts."""
    return np.asarray(HIGH - 1 - np.argmax(places[::-1], axis=0))


def _is_bare(region: Any, seen: np.ndarray) -> bool:
    """A strip along top land or root, or a small spot at an end: the brush missed it."""
    top, left, bottom, right = region.bbox
    share = region.area / seen.size
    lowest = HIGH - int(np.argmax(seen[::-1].any(axis=1))) if seen.any() else HIGH
    at_root = bottom >= lowest - _AT_EDGE * HIGH
    if (top <= _AT_EDGE * HIGH or at_root) and (bottom - top) < _STRIP * HIGH:
        return True
    if at_root and share < _ROOT_SHADE:
        return True
    if (right - left) > _WHOLE * LONG and region.area < 0.5 * (right - left) * HIGH * 0.5:
        return True
    if _on_rim(region, seen) > _ON_RIM:
        return True
    at_end = left <= _AT_EDGE * LONG or right >= (1 - _AT_EDGE) * LONG
    return bool(
        (at_end or top <= _AT_EDGE * HIGH)
        and share < _SPOT
        and (at_end or (bottom - top) < 3 * _STRIP * HIGH)
    )


def _on_rim(region: Any, seen: np.ndarray) -> float:
    """Share of a region's outline that lies where the seen flank ends at the top and at toe and heel."""
    top, left = region.bbox[:2]
    one = np.pad(region.image, 1)
    outline = (one & ~ndimage.binary_erosion(one))[1:-1, 1:-1]
    rows, columns = np.nonzero(outline)
    rows, columns = rows + top, columns + left
    across, along = np.nonzero(seen.any(axis=1))[0], np.nonzero(seen.any(axis=0))[0]
    on = (rows <= across[0] + 2) | (columns <= along[0] + 2) | (columns >= along[-1] - 2)
    return float(on.mean())


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
