"""White compound against bare metal: by its brightness, once uneven light is taken out, and by its colour.

White paste is a little warmer than steel, and a highlight adds to all colours alike: the difference of red
and blue sees through it where brightness does not. Where a file's compression has washed the colours out,
brightness tells more. Several readings are made, and the one is kept whose patch stands out best.
"""

from __future__ import annotations

import math
from typing import Final

import numpy as np
from scipy import ndimage
from scipy.stats import median_abs_deviation
from skimage.filters import threshold_otsu

from axle.photo.patches import apart, no_difference, regions_of

# How far brightness and tint are smoothed, up and along [places of the flat flank].
_SMOOTH_LIGHT, _SMOOTH_TINT = 1.0, (2.0, 4.0)
_ROUNDS: Final = 20
_SMOOTH_TERMS: Final = 6
# How much of a patch's standing out counts at most, in scatters, by brightness and by tint, and what tint
# counts beside brightness; powers of its share of the flank and of how solid it is.
_MOST_APART, _TINT_COUNTS = (1.0, 2.0), 0.4
_LARGE, _SOLID = 0.25, 4.0
_LEAST_RING: Final = 50
# What stands out less is no patch: on drawn flanks of which nothing was wiped the best had 0.45, on wiped
# ones 0.47 and more. Beside a patch, what has less than this share of its worth is a shade.
_LEAST_WORTH, _SHADE = 0.46, 0.5


def whiteness(light: np.ndarray, clear: np.ndarray, seen: np.ndarray) -> np.ndarray:
    """How far each place is covered with white compound: about 0 on metal and 1 on compound.

    :param light: linear light 0 to 1 of a flat flank, shape (rows, columns, 3).
    :param clear: which places are free of glare, shape (rows, columns).
    :param seen: which places the camera sees, likewise.
    :returns: shape (rows, columns).
    :raises AxleError: where no patch stands out.
    :source: two classes over a smooth light, fitted to brightness and tint by turns (Dempster, Laird and
        Rubin); of the fits the one whose patch differs most from what lies around it.
    """
    bright = ndimage.gaussian_filter(np.log(light.mean(axis=-1) + 1e-3), _SMOOTH_LIGHT)
    tint = _tint(light, clear)
    starts = (bright, _above(bright, light_terms(bright.shape), clear), tint)
    signals = [_two_levels((bright, tint), clear, start > threshold_otsu(start[clear])) for start in starts]
    signals.append(_levelled(tint, clear))
    read = [(signal, _worths(signal, (bright, tint), clear, seen)) for signal in signals]
    signal, worths = max(read, key=lambda one: max((worth for worth, _ in one[1]), default=-math.inf))
    best = max((worth for worth, _ in worths), default=-math.inf)
    if best < _LEAST_WORTH:
        raise no_difference()
    shades = [region for worth, region in worths if worth < _SHADE * best]
    return np.where(np.any(shades, axis=0), 1.0, signal) if shades else signal


def light_terms(shape: tuple[int, ...]) -> np.ndarray:
    """Terms of a light that changes smoothly: a quadratic, and bands that run along the tooth.

    :param shape: rows and columns.
    :returns: shape (rows, columns, 14), the quadratic's six first.
    :source: the project's own.
    """
    v, u = np.mgrid[-1 : 1 : shape[0] * 1j, -1 : 1 : shape[1] * 1j]
    bands = [np.exp(-(((v - at) / 0.22) ** 2)) for at in np.linspace(-1, 1, 8)]
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v, *bands], axis=-1)


def least_squares(terms: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Coefficients of terms; a little is taken off so that bands and quadratic do not fight.

    :param terms: shape (n, m).
    :param values: shape (n,).
    :returns: shape (m,).
    :source: ridge regression.
    """
    square = terms.T @ terms
    return np.asarray(np.linalg.solve(square + 1e-4 * len(terms) * np.eye(len(square)), terms.T @ values))


def _tint(light: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """Red less blue over a slowly changing light, which highlights do not lift."""
    bright = np.log(light.mean(axis=-1) + 1e-3)
    terms = light_terms(bright.shape)[..., :_SMOOTH_TERMS]
    weight = np.ones(int(clear.sum()))
    found = np.zeros(_SMOOTH_TERMS)
    for _ in range(8):
        root = np.sqrt(weight)
        found = least_squares(terms[clear] * root[:, None], bright[clear] * root)
        off = bright[clear] - terms[clear] @ found
        weight = 1 / (1 + (off / (median_abs_deviation(off, scale="normal") + 1e-3)) ** 2)
    slow = np.exp(np.clip(terms @ found, -7, 0.5))
    held = clear.astype(float)
    part = ndimage.gaussian_filter((light[..., 0] - light[..., 2]) * held, _SMOOTH_TINT)
    return np.asarray(part / np.maximum(ndimage.gaussian_filter(held, _SMOOTH_TINT), 1e-3) / slow)


def _above(bright: np.ndarray, terms: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """How far each place lies from the light on the bright places: what lies above it counts for more."""
    weight = np.ones(int(clear.sum()))
    found = np.zeros(terms.shape[-1])
    for _ in range(15):
        root = np.sqrt(weight)[:, None]
        found = least_squares(terms[clear] * root, bright[clear] * root[:, 0])
        weight = np.where(bright[clear] > terms[clear] @ found, 0.93, 0.07)
    return np.asarray(bright - terms @ found)


def _two_levels(
    features: tuple[np.ndarray, np.ndarray], clear: np.ndarray, white: np.ndarray
) -> np.ndarray:
    """Two classes over smooth fields of brightness and tint, from a first guess of what is white."""
    terms = light_terms(clear.shape)
    fields = (terms, terms[..., :_SMOOTH_TERMS])
    shiny = np.zeros_like(clear)
    signal = np.zeros(clear.shape)
    for _ in range(_ROUNDS):
        found = []
        for number, (feature, field) in enumerate(zip(features, fields, strict=True)):
            # A highlight is neither: it would pull the light up along the whole tooth.
            fits = clear & ~shiny if number == 0 else clear
            both = np.concatenate([field, white[..., None]], axis=-1)[fits]
            values = least_squares(both, feature[fits])
            scatter = float(np.mean((both @ values - feature[fits]) ** 2)) + 1e-6
            found.append((feature - field @ values[:-1], float(values[-1]), scatter))
        rest, step, _ = found[0]
        shiny = ndimage.binary_dilation(rest > abs(step) + max(0.25 * abs(step), 0.06), iterations=2)
        shiny &= shiny.mean() < 0.4
        weights = [step * step / scatter for _, step, scatter in found]
        signal = np.sum([rest * step / scatter for rest, step, scatter in found], axis=0)
        signal = signal / max(sum(weights), 1e-9)
        again = signal > 0.5
        if np.array_equal(again, white):
            break
        white = again
    return signal


def _levelled(tint: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """The tint alone, 0 on the cold places and 1 on the warm ones."""
    level = threshold_otsu(tint[clear])
    low, high = (float(np.median(tint[clear & side])) for side in (tint < level, tint >= level))
    return np.asarray((tint - low) / max(high - low, 1e-6))


def _worths(
    signal: np.ndarray, features: tuple[np.ndarray, np.ndarray], clear: np.ndarray, seen: np.ndarray
) -> list[tuple[float, np.ndarray]]:
    """How well each patch of a reading stands out from what lies around it, and where it is."""
    found = regions_of(signal, clear, seen)
    worths = []
    for region in found.patches:
        one = found.numbers == region.label
        near = ndimage.binary_dilation(one, np.ones((3, 7), dtype=bool), iterations=4)
        around = near & ~ndimage.binary_dilation(one, iterations=2) & clear
        inside = one & clear
        if min(inside.sum(), around.sum()) < _LEAST_RING:
            continue
        light, tint = (
            float(np.clip(apart(feature[inside], feature[around]), -2, most))
            for feature, most in zip(features, _MOST_APART, strict=True)
        )
        shape = (region.area / one.size) ** _LARGE * region.solidity**_SOLID
        worths.append(((light + _TINT_COUNTS * tint) * shape, one))
    return worths
