"""A computed flank as a surface that a photograph's pose can be fitted to: its bow and taper are free.

Polynomials in (u, v) stand for the cutter's cones, so that thousands of places are worked out at once.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Final

import numpy as np

from axle.contact.cut import Cut, tooth
from axle.contact.flank import Flank
from axle.errors import AxleError

_POWERS_U, _POWERS_V = 6, 4
# Beyond the flank's edges a little: a taper reaches there.
_BEYOND: Final = 0.2


@dataclass(frozen=True, eq=False)
class FlankSurface:
    """One flank of a ring gear tooth, and its neighbours by turning.

    :param base: coefficients of the points by powers of u and v, shape (3, 7, 5) [mm].
    :param bent: of the points less the straight line from toe to heel, likewise [mm].
    :param root_share: height of the pitch cone over the root, share of the tooth's height.
    :param pitch: angle from a tooth to the next [rad].
    :param length: of the flank [mm].
    :param height: of the flank [mm].
    :param convex: it is the convex one.
    :param about: what a pose turns about, where that is another flank's middle, shape (3,) [mm].
    """

    base: np.ndarray
    bent: np.ndarray
    root_share: float
    pitch: float
    length: float
    height: float
    convex: bool
    about: np.ndarray | None = None

    def at(
        self,
        u: np.ndarray,
        v: np.ndarray,
        *,
        bow: float = 1.0,
        taper: float = 0.0,
        tooth: float | np.ndarray = 0.0,
    ) -> np.ndarray:
        """Points of the flank.

        :param u: from toe 0 to heel 1, shape (n,).
        :param v: from root 0 to top 1, shape (n,).
        :param bow: curve along the tooth, as a multiple of the computed one.
        :param taper: how much the height grows from toe to heel, share of it in the middle.
        :param tooth: so many teeth further round, one number or shape (n,).
        :returns: shape (n, 3) [mm].
        :source: :class:`axle.contact.flank.Flank`; its straight part and its bow apart.
        """
        grown = 1 + taper * (u - 0.5)
        high = self.root_share + (v - self.root_share) * grown
        coefficients = self.base + (bow - 1) * self.bent
        powers_u, powers_v = _powers(u, high)
        by_v = (coefficients @ powers_v.T).transpose(0, 2, 1)
        x, y, z = np.einsum("inj,nj->in", by_v, powers_u)
        turn = np.asarray(tooth) * self.pitch
        c, s = np.cos(turn), np.sin(turn)
        return np.column_stack([c * x - s * y, s * x + c * y, z])

    @cached_property
    def mirrored(self) -> FlankSurface:
        """The flank of a ring gear with the opposite hand."""
        flip = np.array([1.0, -1.0, 1.0])[:, None, None]
        return FlankSurface(
            self.base * flip,
            self.bent * flip,
            self.root_share,
            self.pitch,
            self.length,
            self.height,
            self.convex,
        )

    @cached_property
    def middle(self) -> np.ndarray:
        """What a pose turns about, shape (3,) [mm]: the flank's own middle, or where another flank says."""
        return np.asarray(self.about if self.about is not None else self.at(*np.full((2, 1), 0.5))[0])

    @cached_property
    def middle_frame(self) -> np.ndarray:
        """Ways to the heel, to the top and out of the metal in the flank's middle, rows of shape (3, 3)."""
        at = self.at(np.array([0.45, 0.55, 0.5, 0.5]), np.array([0.5, 0.5, 0.45, 0.55]))
        along, up = at[1] - at[0], at[3] - at[2]
        along = along / np.linalg.norm(along)
        up = up - (up @ along) * along
        up = up / np.linalg.norm(up)
        out = np.cross(along, up)
        return np.stack([along, up, out * self.outward])

    @cached_property
    def outward(self) -> int:
        """+1 where heel, top and outward make a right hand, −1 where a left one."""
        at = self.at(np.array([0.45, 0.55, 0.5, 0.5]), np.array([0.5, 0.5, 0.45, 0.55]))
        out = np.cross(at[1] - at[0], at[3] - at[2])
        # The metal lies on the side of the ring gear that the flank leans away from: towards its foot.
        place = at.mean(axis=0)
        around = np.array([-place[1], place[0], 0.0])
        turns_out = self._turns_out
        return 1 if float(out @ around) * turns_out > 0 else -1

    @property
    def slot_way(self) -> int:
        """+1 where the slot before the flank lies anticlockwise of it, seen from the teeth, else −1."""
        return self._turns_out

    @cached_property
    def hand(self) -> int:
        """+1 where the tooth turns anticlockwise on its way out, seen from the teeth, else −1."""
        ends = self.at(np.array([0.0, 1.0]), np.array([0.5, 0.5]))
        angles = np.unwrap(np.arctan2(ends[:, 1], ends[:, 0]))
        return 1 if angles[1] > angles[0] else -1

    @property
    def _turns_out(self) -> int:
        """+1 where the way out of the metal goes anticlockwise round the ring, seen from the teeth."""
        return -self.hand if self.convex else self.hand


@lru_cache(maxsize=16)
def surface_of(item: Cut, *, convex: bool) -> FlankSurface:
    """The surface of a set's flank, for poses.

    :param item: the set as it was cut.
    :param convex: the convex flank rather than the concave one.
    :returns: its surface, lengths [mm].
    :raises AxleError: where no such set can be cut.
    :source: :class:`axle.contact.flank.Flank`, fitted by least squares to 1 µm.

    >>> from axle.contact.cut import cut
    >>> found = surface_of(cut("large_cutter", 11, 41, 222.0), convex=True)
    >>> round(found.length), round(found.height, 1)
    (36, 8.6)
    """
    made = tooth(item)
    flank = Flank(made, convex, item.convex_angle if convex else item.concave_angle)
    u, v = (
        x.ravel() for x in np.meshgrid(np.linspace(-0.05, 1.05, 23), np.linspace(-_BEYOND, 1 + _BEYOND, 13))
    )
    points = flank.at(*flank.where(u, v))
    toe, heel = (flank.at(*flank.where(np.full_like(v, end), v)) for end in (0.0, 1.0))
    straight = toe + u * (heel - toe)
    basis = _basis(u, v)
    base, bent = (
        np.linalg.lstsq(basis, x.T, rcond=None)[0].T.reshape(3, _POWERS_U + 1, _POWERS_V + 1)
        for x in (points, points - straight)
    )
    surface = FlankSurface(
        base,
        bent,
        made.dedendum / (made.addendum + made.dedendum),
        2 * math.pi / item.ring_teeth,
        0.0,
        0.0,
        convex,
    )
    ends = surface.at(np.array([0.0, 1.0, 0.5, 0.5]), np.array([0.5, 0.5, 0.0, 1.0]))
    length, height = (float(np.linalg.norm(ends[i + 1] - ends[i])) for i in (0, 2))
    if not (np.isfinite(length) and np.isfinite(height)):
        raise AxleError("flank", given="a flank without an end", wanted="a set that can be cut")
    return FlankSurface(base, bent, surface.root_share, surface.pitch, length, height, convex)


def plain_surface(*, convex: bool) -> FlankSurface:
    """A flank of usual length, height and bow, for a set that cannot be computed; it has no neighbours.

    :param convex: the convex flank rather than the concave one.
    :returns: a bowed sheet, lengths [mm].
    :source: a flank a quarter as high as it is long, bowed by a cutter three times as large: usual, from
        memory.

    >>> plain_surface(convex=True).length
    36.0
    """
    length, height, sag = 36.0, 8.6, 1.4
    u, v = (x.ravel() for x in np.meshgrid(np.linspace(-0.1, 1.1, 13), np.linspace(-0.2, 1.2, 9)))
    arch = sag * 4 * u * (1 - u)
    # Along x, up z; the flank looks along y, and stands before an axis far away on the left.
    out = np.array([0.0, -1.0 if convex else 1.0, 0.0])
    flat = np.stack([100 + u * length, np.zeros_like(u), v * height])
    bulged = (1.0 if convex else -1.0) * arch * out[:, None]
    turned = np.stack([np.zeros_like(u), 0.15 * (u - 0.5) * length, np.zeros_like(u)])
    basis = _basis(u, v)
    base, bent = (
        np.linalg.lstsq(basis, x.T, rcond=None)[0].T.reshape(3, _POWERS_U + 1, _POWERS_V + 1)
        for x in (flat + turned + bulged, bulged)
    )
    return FlankSurface(base, bent, 0.7, 0.0, length, height, convex)


def _basis(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Products of powers, shape (n, 35)."""
    powers_u, powers_v = _powers(u, v)
    return np.asarray((powers_u[:, :, None] * powers_v[:, None, :]).reshape(len(powers_u), -1))


def _powers(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Powers of u and of v, each counted from the flank's middle, shapes (n, 7) and (n, 5)."""
    x, y = 2 * np.asarray(u, dtype=float) - 1, 2 * np.asarray(v, dtype=float) - 1
    return np.vander(x, _POWERS_U + 1, increasing=True), np.vander(y, _POWERS_V + 1, increasing=True)
