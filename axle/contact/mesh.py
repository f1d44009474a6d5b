"""When each place of a ring gear's flank is in contact, and how the pinion's displacement opens it there.

Turned with the ring by φ, a place touches the conjugate pinion where its normal is square to the sliding.
The moment of the normal about the ring's axis does not change with φ, and the one about the pinion's goes
as a cosine, so φ follows without a search. Lines of equal φ are the contact lines.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from axle.errors import AxleError


@dataclass(frozen=True)
class Contact:
    """Places of a flank at the moment they touch.

    :param angle: φ, shape (…) [rad].
    :param points: r turned by φ, shape (3, …) [mm].
    :param normals: unit normals out of the ring's metal, turned by φ, shape (3, …) [1].
    """

    angle: np.ndarray
    points: np.ndarray
    normals: np.ndarray

    @property
    def lever(self) -> np.ndarray:
        """|n·(a2×r)|: how far a place moves square to the flank per radian of the ring [mm]."""
        moved = self.points[0] * self.normals[1] - self.points[1] * self.normals[0]
        return np.asarray(np.abs(moved))


def mesh(points: np.ndarray, normals: np.ndarray, ratio: float, offset: float) -> Contact:
    """Turn places of a flank to where they touch the conjugate pinion.

    n·v12 = 0 with v12 = z×r − (N2/N1)·x×(r − O1): with m = r×n that is m_x·cos φ − m_y·sin φ =
    m_z·N1/N2 + E·n_z.

    :param points: r on the flank as it was cut, shape (3, …) [mm].
    :param normals: unit normals there, shape (3, …) [1].
    :param ratio: N2/N1, more than 0.
    :param offset: E [mm].
    :returns: the contact at the root next to the pitch point's own, which is φ = 0.
    :raises AxleError: where a place never touches.
    :source: equation of meshing (Litvin & Fuentes, Gear Geometry and Applied Theory).

    >>> at = mesh(np.array([[100.0], [0.0], [-20.0]]), np.array([[0.0], [1.0], [0.0]]), 5.0, 0.0)
    >>> at.angle, at.lever
    (array([0.]), array([100.]))
    """
    moment = np.cross(points, normals, axis=0)
    size = np.hypot(moment[0], moment[1])
    with np.errstate(divide="ignore", invalid="ignore"):
        cosine = (moment[2] / ratio + offset * normals[2]) / size
    if not np.all(np.isfinite(cosine)) or float(np.max(np.abs(cosine))) > 1:
        raise AxleError(
            "mesh",
            given="a place of the flank that never touches the pinion",
            wanted="proportions of a gear set that meshes over the whole flank",
        )
    phase, away = np.arctan2(moment[1], moment[0]), np.arccos(cosine)
    roots = np.stack([_wrapped(away - phase), _wrapped(-away - phase)])
    nearest = np.argmin(np.abs(roots), axis=0)
    angle = np.asarray(np.take_along_axis(roots, nearest[None], axis=0)[0])
    return Contact(angle, _turned(points, angle), _turned(normals, angle))


def opened(contact: Contact, move: np.ndarray, mean_radius: float) -> np.ndarray:
    """Gap that a displacement of the pinion against the ring opens at each place, as ring rotation × r_m.

    :param contact: places of the flank in contact, shape (…).
    :param move: δ at each of them or one for all, broadcast to shape (3, …) [mm].
    :param mean_radius: r_m [mm], more than 0.
    :returns: (n·δ)/|n·(a2×r)|·r_m, shape (…) [mm]; positive opens.
    :source: rigid-body displacement; held to moved surfaces in the tests.

    >>> at = mesh(np.array([[100.0], [0.0], [-20.0]]), np.array([[0.0], [1.0], [0.0]]), 5.0, 0.0)
    >>> opened(at, np.array([[0.0], [0.1], [0.0]]), 100.0)
    array([0.1])
    """
    return np.asarray(np.sum(contact.normals * move, axis=0) / contact.lever * mean_radius)


def displacement(
    points: np.ndarray, *, depth: float = 0.0, ring: float = 0.0, offset: float = 0.0, tilt: float = 0.0
) -> np.ndarray:
    """How the pinion stands against the ring, other than it should.

    :param points: r in contact, shape (3, …) [mm].
    :param depth: > 0 too deep, so towards the ring's axis [mm].
    :param ring: ring offset, > 0 away from the pinion [mm].
    :param offset: error of E, along y [mm].
    :param tilt: shaft-angle error, about y [rad].
    :returns: δ, shape (3, …) [mm].
    :source: models of the project: δ = −depth·a1 + ring·a2 + offset·y + tilt·y×r.

    >>> displacement(np.zeros((3, 1)), depth=0.1, ring=0.2).ravel().tolist()
    [-0.1, 0.0, 0.2]
    """
    zero = 0.0 * points[0]
    return np.array([zero - depth + tilt * points[2], zero + offset, zero + ring - tilt * points[0]])


def _turned(vectors: np.ndarray, angle: np.ndarray) -> np.ndarray:
    cosine, sine = np.cos(angle), np.sin(angle)
    return np.array(
        [
            cosine * vectors[0] - sine * vectors[1],
            sine * vectors[0] + cosine * vectors[1],
            vectors[2] + 0 * angle,
        ]
    )


def _wrapped(angle: np.ndarray) -> np.ndarray:
    return np.asarray((angle + np.pi) % (2 * np.pi) - np.pi)
