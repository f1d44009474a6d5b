"""Reading a print from a photograph: one tooth is pointed at, all that are seen whole are read."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from scipy import ndimage

from axle.contact.compound import Compound
from axle.contact.cut import Cut
from axle.errors import AxleError
from axle.photo.colour import coverage
from axle.photo.edges import EdgePoints, refined
from axle.photo.hidden import found_below, hidden_below
from axle.photo.patches import HIGH, LONG, Wiped, wiped_patches
from axle.photo.pose import NAMES, Pose, held, poses, tap_length
from axle.photo.questions import Question, not_on_this_flank, questions_about
from axle.photo.refusals import ROOT_IN_SIGHT, Cause, Unreadable, unreadable
from axle.photo.repeats import repeated
from axle.photo.surface import FlankSurface, plain_surface, surface_of

_FINE: Final = 2
_BORDER: Final = 0.002
_LEAST_LENGTH: Final = 60.0
# A flank longer than twice this is read from a smaller picture [pixels].
_ENOUGH: Final = 450.0
# Teeth to either side that are looked at, how far off square they may stand, and how much may be hidden.
_ASIDE: Final = 3
_MOST_TURNED: Final = math.radians(62)
_MOST_HIDDEN: Final = 0.6
# Beyond this angle off square a height is foreshortened so much that its spread is at least so large.
_OBLIQUE, _OBLIQUE_SPREAD = math.radians(45), 0.06
# What the pose's own spread is multiplied by, and what lens, paint and threshold add, along and up; set on
# simulated worlds, docs/photo.md.
_WIDER: Final = (1.6, 1.5)
_BY_TAPS: Final = (0.6, 0.5)
_READING: Final = (0.009, 0.014)
# How far over the next tooth's edge a flank is taken as seen, where that edge is near; rims that are left
# out.
_OVER_NEXT, _NEAR_ROOT = 0.035, 0.12
_RIM_UP, _RIM_ALONG = 0.04, 0.02
# Least clearness of the top's edge: of drawn pictures with less, two thirds were read wrong.
_LEAST_TOP: Final = 1.2
# Taps that the picture's edges move by more than this share of the length were not on this flank.
_MOST_MOVED, _MOST_MOVED_MEAN = 0.065, 0.03


@dataclass(frozen=True, eq=False)
class ToothReading:
    """What is wiped on one tooth.

    :param tooth: so many teeth from the one pointed at, anticlockwise round the ring gear.
    :param wiped: its patches.
    :param pose: where it stands.
    :param spread: standard deviation of the patch's middle, along and up [shares of the flank].
    """

    tooth: int
    wiped: Wiped
    pose: Pose
    spread: tuple[float, float]

    @property
    def frame(self) -> np.ndarray:
        """Outline of the flank on the picture, shape (n, 2) [pixels]."""
        edge, whole, none = np.linspace(0, 1, 25), np.ones(25), np.zeros(25)
        u = np.concatenate([edge, whole, edge[::-1], none])
        return self.pose.onto(u, np.concatenate([none, edge, whole, edge[::-1]]))

    @property
    def grid(self) -> tuple[np.ndarray, ...]:
        """Lines over the flank on the picture, at its quarters, each of shape (n, 2) [pixels]."""
        t = np.linspace(0, 1, 21)
        along = [self.pose.onto(t, np.full(21, at)) for at in (0.25, 0.5, 0.75)]
        return (*along, *(self.pose.onto(np.full(21, at), t) for at in (0.25, 0.5, 0.75)))

    @property
    def outlines(self) -> tuple[np.ndarray, ...]:
        """Its patches on the picture, each of shape (n, 2) [pixels]."""
        return tuple(self.pose.onto(*np.array(patch.outline).T) for patch in self.wiped.patches)


@dataclass(frozen=True, eq=False)
class PhotoReading:
    """What a photograph of a painted ring gear shows.

    :param pose: where the flank that was pointed at stands.
    :param teeth: every tooth that was read, the one pointed at first.
    :param edges: edges that were found on the picture.
    :param glare: share of the flank that glare covers, bridged over.
    :param questions: what only the person can say.
    """

    pose: Pose
    teeth: tuple[ToothReading, ...]
    edges: tuple[EdgePoints, ...]
    glare: float
    questions: tuple[Question, ...] = ()

    def with_first(self, wiped: Wiped) -> PhotoReading:
        """The same with the patches of the first tooth as a person left them."""
        return replace(self, teeth=(replace(self.teeth[0], wiped=wiped), *self.teeth[1:]))

    @property
    def middle(self) -> tuple[float, float]:
        """Middle of the patch, median of the teeth (u, v); the one pointed at counts twice."""
        every = np.array([tooth.wiped.centroid for tooth in (self.teeth[0], *self.teeth)])
        u, v = np.median(every, axis=0)
        return float(u), float(v)

    @property
    def scatter(self) -> tuple[float, float]:
        """Standard deviation from tooth to tooth, along and up; 0 for one tooth."""
        if len(self.teeth) < 2:
            return 0.0, 0.0
        along, up = np.std([tooth.wiped.centroid for tooth in self.teeth], axis=0, ddof=1)
        return float(along), float(up)

    @property
    def spread(self) -> tuple[float, float]:
        """Standard deviation of the middle, along and up: teeth share the pose and average out the rest."""
        own = np.array(self.teeth[0].spread)
        alike = np.array([_share(tooth.spread) for tooth in self.teeth]).mean(axis=0)
        count = len(self.teeth)
        found = np.sqrt(alike**2 + np.maximum(own**2 - alike**2, 0) / count)
        return float(found[0]), float(found[1])


def _share(spread: tuple[float, float]) -> tuple[float, float]:
    """What of a tooth's spread its neighbours have too: the pose."""
    along, up = (math.sqrt(max(s**2 - r**2, 0.0)) for s, r in zip(spread, _READING, strict=True))
    return along, up


def read_photo(
    image: np.ndarray,
    taps: Sequence[Sequence[float]],
    item: Cut | None,
    compound: Compound,
    *,
    convex: bool,
    focal: float | None = None,
    pose_number: int = 0,
    edges: bool = True,
) -> PhotoReading:
    """Read the wiped patches of one flank and of its neighbours.

    :param image: the photograph, shape (height, width, 3), 0 to 255.
    :param taps: (x, y) of the corners toe-root, heel-root, heel-top, toe-top [pixels], and perhaps of the
        middles
        of root and top.
    :param item: the gear set as it was cut; None where it cannot be computed: six places are needed then.
    :param compound: its colour.
    :param convex: the flank pointed at is the ring gear's convex one.
    :param focal: focal length as on a 35 mm film, as the file tells it [mm], or None.
    :param pose_number: 1 for the mirror pose, where the person chose it.
    :param edges: put the pose right by the picture's own edges.
    :returns: patches, shares 0 to 1, with their spread.
    :raises AxleError: where the photograph cannot be read, saying why.
    :source: pose of the computed flank (:mod:`axle.photo.pose`), edges, and colour.
    """
    points = checked(np.array(taps, dtype=float), image.shape[1], image.shape[0])
    size = (image.shape[1], image.shape[0])
    if item is None and len(points) < len(NAMES):
        raise AxleError(
            "corners",
            given="four points on a set that is not computed",
            wanted="six",
            do=f"Tap {', '.join(NAMES)}.",
        )
    surface = plain_surface(convex=convex) if item is None else surface_of(item, convex=convex)
    both = poses(surface, points, size, focal)
    pose = both[min(pose_number, len(both) - 1)]
    neighbour = None if item is None else surface_of(item, convex=not convex)
    light, offset, step = _linear(image, points)
    found: tuple[EdgePoints, ...] = ()
    moved = replace(pose, centre=pose.centre - offset).scaled(1 / step)
    small = (points - offset) / step
    if edges and item is not None:
        moved, found = refined(moved, small, light, held(size, focal).scaled(1 / step), neighbour)
        moved = replace(moved, on_edges=bool(found))
    questions = questions_about(item, points, size, focal, convex=convex, both=both)
    doubted = not {Question.FLANK, Question.ENDS}.isdisjoint(questions)
    off = (moved.corners[: len(points)] - small) / tap_length(small)
    if np.abs(off).max() > _MOST_MOVED or np.sqrt(np.mean(off**2)) > _MOST_MOVED_MEAN:
        raise not_on_this_flank(questions)
    try:
        first, glare = _tooth(moved, light, compound, neighbour)
    except Unreadable as refused:
        if refused.cause is Cause.COLOUR or not doubted:
            raise
        raise not_on_this_flank(questions) from None
    clear = [edge.clear for edge in found if edge.name == "top" and edge.tooth == 0]
    if clear and clear[0] < _LEAST_TOP:
        raise (
            not_on_this_flank(questions)
            if doubted
            else unreadable(
                Cause.LIGHT,
                "a top land that looks like the flank below it",
                "let the light fall across the tooth, so that its top stands out from the flank",
            )
        )
    teeth = [first]
    for k in [k for n in range(1, _ASIDE + 1) for k in (n, -n)] if item is not None else []:
        try:
            tooth, _ = _tooth(replace(moved, tooth=k), light, compound, neighbour)
        except AxleError:
            continue
        if _is_alike(tooth, first):
            teeth.append(tooth)
    alike = repeated([tooth.wiped for tooth in teeth])
    whole = moved.scaled(step)
    whole = replace(whole, centre=whole.centre + offset)
    teeth = [
        replace(tooth, pose=replace(whole, tooth=tooth.tooth), wiped=wiped)
        for tooth, wiped in zip(teeth, alike, strict=True)
    ]
    shifted = tuple(replace(edge, pixels=edge.pixels * step + offset) for edge in found)
    return PhotoReading(whole, tuple(teeth), shifted, glare, questions)


def checked(taps: np.ndarray, width: int, height: int) -> np.ndarray:
    """Places pointed at, where they can be a flank's.

    :param taps: shape (4, 2) or (6, 2) [pixels].
    :param width: of the picture [pixels].
    :param height: likewise.
    :raises AxleError: for another count, places off the picture, crossed, or too near each other.
    :source: a flank's corners go round it.
    """
    if taps.ndim != 2 or taps.shape not in ((4, 2), (6, 2)) or not np.all(np.isfinite(taps)):
        count = len(taps) if taps.ndim else 0
        raise AxleError(
            "corners", given=f"{count} points", wanted="four, or six", do=f"Tap {', '.join(NAMES)}."
        )
    margin = _BORDER * max(width, height)
    if (taps < margin).any() or (taps > np.array([width, height]) - margin).any():
        raise unreadable(Cause.FRAME, "a corner at or past the picture's edge", "take the whole flank in")
    corners = taps[:4]
    following = np.roll(corners, -1, axis=0) - corners
    after = np.roll(following, -1, axis=0)
    turns = following[:, 0] * after[:, 1] - following[:, 1] * after[:, 0]
    if not (np.all(turns > 0) or np.all(turns < 0)):
        raise AxleError(
            "corners",
            given="corners that cross",
            wanted="toe-root, heel-root, heel-top, toe-top in that order",
        )
    if tap_length(taps) < _LEAST_LENGTH or np.hypot(*following.T).min() < _LEAST_LENGTH / 8:
        raise unreadable(
            Cause.FRAME, f"a flank of fewer than {_LEAST_LENGTH:.0f} pixels", "take the picture from nearer"
        )
    return taps


def _linear(image: np.ndarray, taps: np.ndarray) -> tuple[np.ndarray, np.ndarray, int]:
    """Linear light of what lies about the flank, where that begins, and how many pixels became one."""
    reach = 1.6 * tap_length(taps)
    low = np.maximum(np.floor(taps.min(axis=0) - reach).astype(int), 0)
    high = np.ceil(taps.max(axis=0) + reach).astype(int)
    part = image[low[1] : high[1], low[0] : high[0], :3]
    step = max(int(tap_length(taps) // _ENOUGH), 1)
    table = np.arange(256, dtype=np.float32) / 255
    table = np.where(table <= 0.04045, table / 12.92, ((table + 0.055) / 1.055) ** 2.4).astype(np.float32)
    rows, columns = (length // step * step for length in part.shape[:2])
    light = table[part[:rows:step, :columns:step]]
    for y, x in np.ndindex(step, step):
        if y or x:
            light += table[part[y:rows:step, x:columns:step]]
    return light / np.float32(step * step), low.astype(float), step


def _tooth(
    pose: Pose, light: np.ndarray, compound: Compound, neighbour: FlankSurface | None
) -> tuple[ToothReading, float]:
    """One tooth's flank laid flat and read.

    :raises AxleError: where it is not seen whole, or cannot be read.
    """
    turned = pose.off_square
    corners = pose.corners
    size = np.array(light.shape[1::-1])
    if turned > _MOST_TURNED or (corners < 0).any() or (corners > size).any():
        raise unreadable(
            Cause.HIDDEN,
            "a flank seen too much from the side",
            ROOT_IN_SIGHT,
        )
    flat, seen = _flat(pose, light, neighbour)
    if float(seen.mean()) < 1 - _MOST_HIDDEN:
        raise unreadable(Cause.HIDDEN, "a flank half behind the next tooth", ROOT_IN_SIGHT)
    signal, clear, glare = coverage(flat, seen, compound)
    wiped = wiped_patches(signal, clear, seen)
    return ToothReading(pose.tooth, wiped, pose, _spread(pose, wiped)), glare


def _flat(pose: Pose, light: np.ndarray, neighbour: FlankSurface | None) -> tuple[np.ndarray, np.ndarray]:
    """The flank laid flat, shape (80, 240, 3), rows from the top land down, and which places are seen."""
    u = (np.arange(LONG * _FINE) + 0.5) / (LONG * _FINE)
    v = 1 - (np.arange(HIGH * _FINE) + 0.5) / (HIGH * _FINE)
    grid_u, grid_v = np.meshgrid(u, v)
    at = pose.onto(grid_u.ravel(), grid_v.ravel())
    fine = np.stack(
        [
            ndimage.map_coordinates(light[..., c], at.T[::-1] - 0.5, order=1, mode="nearest")
            for c in range(3)
        ],
        -1,
    )
    flat = fine.reshape(HIGH, _FINE, LONG, _FINE, 3).mean(axis=(1, 3))
    low = hidden_below(pose, neighbour, (np.arange(LONG) + 0.5) / LONG)
    if neighbour is not None and not pose.on_edges:
        low = found_below(flat, low)
    rows = 1 - (np.arange(HIGH) + 0.5) / HIGH
    seen = rows[:, None] > low[None, :] + np.where(low > -_NEAR_ROOT, _OVER_NEXT, 0.0)[None, :]
    # Just inside the frame lies what it was set wrong by: top land, ends, ground.
    seen[: round(_RIM_UP * HIGH)] = False
    seen[-round(_RIM_UP * HIGH) :] = False
    seen[:, : round(_RIM_ALONG * LONG)] = False
    seen[:, -round(_RIM_ALONG * LONG) :] = False
    return np.asarray(flat), seen


def _spread(pose: Pose, wiped: Wiped) -> tuple[float, float]:
    """Standard deviation of a patch's middle: what the pose leaves open, lens, paint and threshold."""
    rows, columns = np.nonzero(wiped.mask)
    pick = np.linspace(0, len(rows) - 1, min(len(rows), 120)).astype(int)
    u, v = (columns[pick] + 0.5) / LONG, 1 - (rows[pick] + 0.5) / HIGH
    by_place = np.linalg.inv(pose.by_place(u, v))
    moved = -np.einsum("nij,njk->nik", by_place, pose.slopes(u, v)).mean(axis=0)
    own = np.sqrt(np.clip(np.diag(moved @ pose.covariance @ moved.T), 0, None))
    own = own * (_WIDER if pose.on_edges else _BY_TAPS)
    # A wide edge can be set too far out on one side.
    paint = np.array(_READING) * (1 + 2 * wiped.edge)
    along, up = np.hypot(own, paint)
    if pose.off_square > _OBLIQUE:
        up = max(up, _OBLIQUE_SPREAD)
    return float(along), float(up)


def _is_alike(tooth: ToothReading, first: ToothReading) -> bool:
    """Whether a neighbour's patch is one of the same print: of like size, at a like place."""
    off = np.abs(np.array(tooth.wiped.centroid) - first.wiped.centroid)
    size = tooth.wiped.area / first.wiped.area
    return bool(off.max() < 0.2 and 0.4 < size < 2.5)
