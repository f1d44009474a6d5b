"""The edges of a flank found on its photograph: they put right what a finger was off by.

First whole poses are tried (:mod:`axle.photo.search`). Then, across each edge of the best one, the picture
is looked through for the line along which colour or light changes most. What is behind the next tooth has
no edge to find.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy import ndimage
from scipy.stats import median_abs_deviation
from skimage.transform import resize

from axle.photo.hidden import hidden_below
from axle.photo.pose import Held, Pose, Sighting, fitted, tapped
from axle.photo.search import likeliest
from axle.photo.surface import FlankSurface

# Stations along a long edge and along an end; how near to a corner they begin, share of the edge.
_LONG, _SHORT, _MARGIN = 44, 18, 0.04
# How far from the edge is looked on each round, share of the flank's length, and how fine [pixels].
_REACHES: Final = (0.012, 0.009)
_FINE: Final = 41
# What a found edge may still be off: of the length, and in the steps of the looking.
_EDGE_SHARE: Final = 0.004
# Stations along an edge that count as one: what is wrong with one is wrong with its neighbours.
_ALIKE: Final = 8.0
# Price of a line that bends: of a change by one of the reach's shares between two stations.
_STIFF: Final = 260.0
_LEAST_CLEAR: Final = 1.35
# Most tilt and bend of a line, shares of how far is looked, and their price; how near it is looked finely
# [steps], and what being farther costs.
_TILT, _BEND, _CROOKED, _NEAR_STEPS, _FAR = 0.3, 0.1, 0.05, 2.5, 9.0
# How far to either side of an edge the picture is looked at [length], in so many samples, and over how many
# stations: lines of light and bare spots that are narrower than half of it do not count.
_SIDE, _SIDE_SAMPLES, _STATIONS = 0.045, 9, 5
# The picture is looked through at such a length of the flank [pixels].
_LENGTH: Final = 420.0
_EDGES: Final = ("top", "toe", "heel", "root")
# Other teeth whose edges are looked for too, the nearest first; and what is too unsure to look for
# [length].
_NEIGHBOURS: Final = (1, -1, 2, -2, 3, -3)
# How much of what the taps leave open is still open after whole poses were tried, share of the variance.
_LEFT_OPEN: Final = 0.2
_MOST_UNSURE: Final = 0.03
# So far over what the next tooth hides a root has to lie, share of the height: its thickness is a guess.
_NEAR_HIDDEN: Final = 0.1
_ROOT_SOFT: Final = 1.7
_MOST_TURNED: Final = math.radians(75)


@dataclass(frozen=True, eq=False)
class EdgePoints:
    """Where one edge of a flank was found.

    :param places: (u, v) on the flank, shape (n, 2).
    :param pixels: shape (n, 2).
    :param across: unit vectors square to the edge, shape (n, 2).
    :param name: which edge.
    :param tooth: so many teeth from the one that was pointed at.
    :param change: how the light changes across it, inward to outward, by colour, of length 1, shape (3,).
    :param clear: how much clearer it is than what lies about it, 1 for no clearer.
    """

    places: np.ndarray
    pixels: np.ndarray
    across: np.ndarray
    clear: float
    name: str = ""
    tooth: int = 0
    change: np.ndarray | None = None


def refined(
    pose: Pose, taps: np.ndarray, light: np.ndarray, before: Held, neighbour: FlankSurface | None
) -> tuple[Pose, tuple[EdgePoints, ...]]:
    """A pose brought onto the edges that the picture shows.

    :param pose: as the taps have it.
    :param taps: places pointed at, shape (n, 2) [pixels].
    :param light: linear light 0 to 1, shape (height, width, 3).
    :param before: what is held of the pose's values.
    :param neighbour: the next tooth's flank that looks at this one, which may hide its root; None where it
        is not known.
    :returns: the pose, and the edges it rests on.
    :source: shortest path through the steepness of the picture (Bellman); Tukey's weights.
    """
    by = min(_LENGTH / pose.length, 1.0)
    size = np.maximum(np.round(np.array(light.shape[1::-1]) * by), 8).astype(int)
    picture = resize(np.sqrt(np.clip(light, 0, 1)), (size[1], size[0], 3), order=1, anti_aliasing=by < 0.7)
    picture = ndimage.gaussian_filter(picture.astype(np.float32), (0.8, 0.8, 0))
    small, found = _refined(pose.scaled(by), taps * by, picture, before.scaled(by), neighbour)
    return small.scaled(1 / by), tuple(replace(edge, pixels=edge.pixels / by) for edge in found)


def _refined(
    pose: Pose, taps: np.ndarray, picture: np.ndarray, before: Held, neighbour: FlankSurface | None
) -> tuple[Pose, tuple[EdgePoints, ...]]:
    (tried, _), *_ = likeliest(pose, picture)
    left_open = tried.covariance * _LEFT_OPEN
    pose = replace(tried, covariance=left_open)
    found = _edges(pose, picture, _REACHES[-1], neighbour, teeth=(0,), like={})
    like = {edge.name: edge.change for edge in found if edge.name != "root" and edge.change is not None}
    for reach in _REACHES:
        # A line already found must not hold the next look for it: that would take itself for granted.
        there = replace(pose, covariance=left_open)
        found = _edges(there, picture, reach, neighbour, teeth=(0, *_NEIGHBOURS), like=like) or found
        for _ in range(2):
            pose = _onto_edges(pose, taps, found, before)
    return pose, found


def _edges(
    pose: Pose,
    picture: np.ndarray,
    reach: float,
    neighbour: FlankSurface | None,
    *,
    teeth: tuple[int, ...],
    like: Mapping[str, np.ndarray],
) -> tuple[EdgePoints, ...]:
    """Every edge that is found on some teeth; of other teeth, those that look as this one's do."""
    every = (
        _edge(
            pose,
            picture,
            name,
            reach=reach,
            neighbour=neighbour,
            tooth=k,
            like=like.get(name) if k else None,
        )
        for k in teeth
        for name in (_EDGES if k == 0 else _EDGES[:3])
        if k == 0 or name in like
    )
    return tuple(edge for edge in every if edge is not None)


def _edge(
    pose: Pose,
    picture: np.ndarray,
    name: str,
    *,
    reach: float,
    neighbour: FlankSurface | None,
    tooth: int,
    like: np.ndarray | None,
) -> EdgePoints | None:
    """One edge of one tooth, looked for to either side by so much of the flank's length at least."""
    along_it = name in ("top", "root")
    count = _LONG if along_it else _SHORT
    t = np.linspace(_MARGIN, 1 - _MARGIN, count)
    fixed = np.full(count, 1.0 if name in ("top", "heel") else 0.0)
    places = np.column_stack([t, fixed] if along_it else [fixed, t])
    here = replace(pose, tooth=pose.tooth + tooth)
    if tooth and here.off_square > _MOST_TURNED:
        return None
    if tooth:
        # Only what stands clear of the tooth before it.
        places = places[places[:, 1] > 0.5]
    elif name != "top":
        low = hidden_below(here, neighbour, places[:, 0])
        places = places[places[:, 1] > low + (_NEAR_HIDDEN if name == "root" else 0.06)]
    if len(places) < count // 3:
        return None
    at = here.onto(*places.T)
    size = np.array(picture.shape[1::-1])
    inside = np.all((at > 3) & (at < size - 3), axis=1)
    places, at = places[inside], at[inside]
    if len(places) < count // 3:
        return None
    by = here.by_place(*places.T)
    along = by[:, :, 0] if along_it else by[:, :, 1]
    across = np.column_stack([-along[:, 1], along[:, 0]])
    across /= np.linalg.norm(across, axis=1)[:, None]
    held = np.maximum(_held_across(pose, places, across, tooth), 1.0)
    if tooth and held.max() > _MOST_UNSURE * pose.length:
        return None
    far = max(reach * pose.length, 2.2 * float(held.max())) if tooth else reach * pose.length
    off = np.linspace(-far, far, _FINE)
    changes = _changes(picture, at, across, off, pose.length)
    # The next tooth's edge looks as this one's does: that tells it from streaks and highlights.
    steep = np.sqrt((changes**2).sum(axis=-1)) if like is None else np.clip(changes @ like, 0, None)
    worth = steep / (np.median(steep) + steep.max() * 0.05 + 1e-6)
    worth = np.log1p(worth) - 0.4 * (off[None, :] / held[:, None]) ** 2
    path = _straight(changes, off, held) if name == "root" else _best_line(worth, changes)
    clear = float(np.mean(steep[np.arange(len(path)), path]) / (np.mean(steep) + 1e-9))
    pixels = at + across * _between(worth, path, off)[:, None]
    change = np.median(changes[np.arange(len(path)), path], axis=0)
    size_of = float(np.linalg.norm(change))
    return EdgePoints(
        places, pixels, across, clear, name, tooth, change / size_of if size_of > 1e-4 else None
    )


def _changes(
    picture: np.ndarray, at: np.ndarray, across: np.ndarray, off: np.ndarray, length: float
) -> np.ndarray:
    """How the picture changes across the edge, by station, place and colour, shape (n, m, 3).

    An edge is a step: what lies on either side differs. A line of light is none, though it is steeper.
    """
    step = off[1] - off[0]
    wide = np.concatenate([[off[0] - step], off, [off[-1] + step]])
    part = ndimage.uniform_filter1d(_sampled(picture, at, across, wide), 5, axis=0, mode="nearest")
    steep = part[:, 2:] - part[:, :-2]
    side = _SIDE * length / _SIDE_SAMPLES
    coarse = np.arange(off[0] - _SIDE * length - side, off[-1] + _SIDE * length + 1.5 * side, side)
    part = ndimage.median_filter(_sampled(picture, at, across, coarse), (_STATIONS, 1, 1), mode="nearest")
    middles = np.median(sliding_window_view(part, _SIDE_SAMPLES, axis=1), axis=-1)
    apart = middles[:, _SIDE_SAMPLES:] - middles[:, :-_SIDE_SAMPLES]
    places = coarse[_SIDE_SAMPLES - 1 : -_SIDE_SAMPLES] + side / 2
    index = np.clip((off - places[0]) / side, 0, len(places) - 1.001)
    low = index.astype(int)
    share = (index - low)[None, :, None]
    apart = apart[:, low] * (1 - share) + apart[:, low + 1] * share
    both = np.clip((steep * apart).sum(axis=-1, keepdims=True), 0, None)
    return np.asarray(steep / (np.linalg.norm(steep, axis=-1, keepdims=True) + 1e-9) * both)


def _sampled(picture: np.ndarray, at: np.ndarray, across: np.ndarray, off: np.ndarray) -> np.ndarray:
    """Colours beside stations of an edge, shape (n, m, 3)."""
    where = at[:, None, :] + across[:, None, :] * off[None, :, None]
    places = (where[..., 1] - 0.5, where[..., 0] - 0.5)
    return np.stack(
        [ndimage.map_coordinates(picture[..., c], places, order=1, mode="nearest") for c in range(3)], -1
    )


def _held_across(pose: Pose, places: np.ndarray, across: np.ndarray, tooth: int) -> np.ndarray:
    """Scatter of each station across the edge as the pose is known, shape (n,) [pixels]."""
    slopes = np.einsum("ni,nij->nj", across, pose.slopes(places[:, 0], places[:, 1], pose.tooth + tooth))
    return np.asarray(np.sqrt(np.einsum("na,ab,nb->n", slopes, pose.covariance, slopes)))


def _path(worth: np.ndarray, stiff: float) -> np.ndarray:
    """The line of most worth that hardly bends: an index for each station."""
    stations, steps = worth.shape
    apart = (np.arange(steps)[:, None] - np.arange(steps)[None, :]) / steps
    price = stiff * apart**2 * 60
    total, back = worth[0], np.zeros((stations, steps), dtype=int)
    for i in range(1, stations):
        sums = total[:, None] - price
        back[i] = sums.argmax(axis=0)
        total = sums.max(axis=0) + worth[i]
    path = np.empty(stations, dtype=int)
    path[-1] = int(total.argmax())
    for i in range(stations - 1, 0, -1):
        path[i - 1] = back[i, path[i]]
    return path


def _best_line(worth: np.ndarray, changes: np.ndarray) -> np.ndarray:
    """The line, shifted, tilted and bent as a whole, that is worth most; then finely, near it.

    :returns: an index for each station.
    """
    stations, steps = worth.shape
    x = np.linspace(-1, 1, stations)
    size = np.linalg.norm(changes, axis=-1, keepdims=True)
    # A line that changes alike all along counts for more than one that changes now so, now so.
    ways = changes / (size + 1e-9) * np.clip(worth, 0, None)[..., None]
    every = np.concatenate([worth[..., None], ways], axis=-1)
    rim = np.array([-1.0, 0.0, 0.0, 0.0])
    far = math.ceil((_TILT + _BEND) * steps)
    padded = np.concatenate([np.tile(rim, (stations, far, 1)), every, np.tile(rim, (stations, far, 1))], 1)
    rows = np.arange(stations)[:, None]
    best, chosen = -math.inf, np.zeros(stations)
    for tilt in np.linspace(-1, 1, 11):
        for bend in np.linspace(-1, 1, 5):
            line = steps * (tilt * _TILT * x + bend * _BEND * (x * x - 1 / 3))
            index = np.arange(far, far + steps) + np.rint(line).astype(int)[:, None]
            mean = padded[rows, index].mean(axis=0)
            total = mean[:, 0] / 2 + np.linalg.norm(mean[:, 1:], axis=-1) / 2
            total = total - _CROOKED * (tilt**2 + bend**2)
            at = int(total.argmax())
            if total[at] > best:
                best, chosen = float(total[at]), at + line
    near = np.abs(np.arange(steps)[None, :] - chosen[:, None]) <= _NEAR_STEPS
    return _path(np.where(near, worth, worth - _FAR), _STIFF / stations)


def _straight(changes: np.ndarray, off: np.ndarray, held: np.ndarray) -> np.ndarray:
    """The line, shifted and tilted as a whole, across which the picture changes alike all along."""
    stations, steps = changes.shape[:2]
    along = np.linspace(-1, 1, stations)
    size = np.linalg.norm(changes, axis=-1, keepdims=True)
    alike = changes / (size + np.median(size) + 1e-6)
    best, chosen = -math.inf, np.zeros(stations, dtype=int)
    for tilt in np.linspace(-0.35, 0.35, 9) * steps / 2:
        index = np.arange(steps)[None, :] + np.rint(tilt * along).astype(int)[:, None]
        inside = (index >= 0) & (index < steps)
        picked = alike[np.arange(stations)[:, None], np.clip(index, 0, steps - 1)] * inside[..., None]
        worth = np.linalg.norm(picked.mean(axis=0), axis=-1)
        worth = (
            worth / (np.median(worth) + 0.02)
            - 0.25 * (off / float(np.median(held))) ** 2
            - 0.5 * (4 * tilt / steps) ** 2
        )
        at = int(worth.argmax())
        if worth[at] > best:
            best, chosen = float(worth[at]), np.clip(at + np.rint(tilt * along).astype(int), 0, steps - 1)
    return chosen


def _between(worth: np.ndarray, path: np.ndarray, off: np.ndarray) -> np.ndarray:
    """Where along the looking the most lies, finer than its steps: by a parabola."""
    inner = np.clip(path, 1, worth.shape[1] - 2)
    rows = np.arange(len(path))
    a, b, c = worth[rows, inner - 1], worth[rows, inner], worth[rows, inner + 1]
    bend = a - 2 * b + c
    shift = np.where(np.abs(bend) > 1e-9, 0.5 * (a - c) / np.where(np.abs(bend) > 1e-9, bend, 1.0), 0.0)
    return np.asarray(off[inner] + np.clip(shift, -0.5, 0.5) * (off[1] - off[0]))


def _onto_edges(pose: Pose, taps: np.ndarray, edges: tuple[EdgePoints, ...], before: Held) -> Pose:
    rows, places, pixels, teeth = [], [], [], []
    for edge in edges:
        if edge.tooth and edge.clear < _LEAST_CLEAR:
            continue
        sigma = math.hypot(_EDGE_SHARE * pose.length, 0.7) * (_ROOT_SOFT if edge.name == "root" else 1.0)
        left = np.einsum(
            "ni,ni->n",
            edge.across,
            edge.pixels - pose.onto(edge.places[:, 0], edge.places[:, 1], tooth=pose.tooth + edge.tooth),
        )
        middle = float(np.median(left))
        spread = max(float(median_abs_deviation(left, scale="normal")), sigma / 2)
        own = np.clip(1 - ((left - middle) / (4.7 * spread)) ** 2, 0, 1)
        # An edge that lies off as a whole is another line than the one looked for.
        own = own / (1 + (middle / (3 * sigma)) ** 2)
        unclear, clear = (1.1, 1.8) if edge.name == "root" else (1.0, _LEAST_CLEAR)
        trust = min(max((edge.clear - unclear) / (clear - unclear), 0.05), 1.0)
        scale = own * trust / sigma / math.sqrt(len(left) / _ALIKE)
        weights = np.zeros((len(left), 2, 2))
        weights[:, 0, :] = edge.across * scale[:, None]
        rows.append(weights)
        places.append(edge.places)
        pixels.append(edge.pixels)
        teeth.append(np.full(len(left), float(edge.tooth)))
    if not rows:
        return pose
    seen = Sighting(*(np.concatenate(x) for x in (places, pixels, rows, teeth)))
    return fitted(pose, [tapped(taps), seen], before, rounds=6)
