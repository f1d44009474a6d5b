"""Orders that an axle can make: how often each part comes by per turn of the ring gear."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError

# Rolling bearings slip: a rate is lower than the kinematic one by so much (vibration handbooks: 1 to 2 %).
SLIP: Final = 0.02


@dataclass(frozen=True)
class Bearing:
    """A rolling bearing by its figures.

    :param rollers: n, number of rollers or balls, 3 to 60.
    :param roller: d, their mean diameter, in the unit of ``pitch``.
    :param pitch: D, pitch diameter at the rollers' middle, more than d.
    :param angle: α, angle of the rollers' axis to the shaft's, or the contact angle of balls [°], 0 to 45.
    :raises AxleError: for figures that no bearing has.
    :source: vibration handbooks.
    """

    rollers: int
    roller: float
    pitch: float
    angle: float = 0.0

    def __post_init__(self) -> None:
        if not 3 <= self.rollers <= 60:
            raise AxleError("rollers", given=f"{self.rollers}", wanted="3 to 60")
        if not 0 < self.roller < self.pitch:
            raise AxleError(
                "roller diameter",
                given=f"{self.roller:g}",
                wanted=f"more than 0, less than the pitch diameter {self.pitch:g}",
            )
        if self.rollers * self.roller > math.pi * self.pitch:
            raise AxleError(
                "rollers",
                given=f"{self.rollers} of {self.roller:g}",
                wanted=f"so many as fit around a pitch diameter of {self.pitch:g}",
            )
        if not 0 <= self.angle <= 45:
            raise AxleError("angle", given=f"{self.angle:g}°", wanted="0 to 45°")


@dataclass(frozen=True)
class Rates:
    """How often each part of a bearing strikes per turn of one race against the other.

    :param outer: a flaw of the outer race.
    :param inner: a flaw of the inner race.
    :param cage: turns of the cage, the outer race standing.
    :param cage_outer: turns of the cage, the outer race turning.
    :param roller: turns of a roller; its flaw strikes twice as often.
    """

    outer: float
    inner: float
    cage: float
    cage_outer: float
    roller: float


def rates(bearing: Bearing) -> Rates:
    """Rates of a bearing per relative turn.

    With q = (d/D)·cos α: outer n/2·(1 − q), inner n/2·(1 + q), cage ½(1 − q), with the outer race turning
    ½(1 + q), roller D/2d·(1 − q²).

    :param bearing: by its figures.
    :source: vibration handbooks; ISO 13373-3.

    >>> r = rates(Bearing(9, 0.3126, 1.537))
    >>> round(r.outer, 3), round(r.inner, 3), round(r.cage, 3), round(2 * r.roller, 3)
    (3.585, 5.415, 0.398, 4.713)
    """
    q = bearing.roller / bearing.pitch * math.cos(math.radians(bearing.angle))
    half = bearing.rollers / 2
    return Rates(
        outer=half * (1 - q),
        inner=half * (1 + q),
        cage=(1 - q) / 2,
        cage_outer=(1 + q) / 2,
        roller=bearing.pitch / bearing.roller / 2 * (1 - q * q),
    )


class UsualBearing(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """UsualBearing rates of a bearing, least and most, as in ``data/bearings.toml``."""

    title: str
    shaft: str
    outer: tuple[float, float]
    inner: tuple[float, float]
    roller: tuple[float, float]
    cage: tuple[float, float]


@cache
def usual_bearings() -> Mapping[str, UsualBearing]:
    """Bearings of an axle by name, with what their rates usually are.

    :source: ``data/bearings.toml``; rates of tapered and ball bearings of common sizes, from memory.

    >>> list(usual_bearings())
    ['pinion_head', 'pinion_tail', 'carrier', 'wheel']
    """
    return read_table(__file__, "data/bearings.toml", dict[str, UsualBearing])


@dataclass(frozen=True)
class Machine:
    """What is known of what turns.

    :param pinion_teeth: N1.
    :param ring_teeth: N2.
    :param bearings: figures by name of :func:`usual_bearings`; what is left out is as usual.
    :param gear: turns of the engine to one of the driveshaft [1], or 0 where nobody said.
    :param tread: blocks of the tyre's tread around, or 0 where nobody counted.
    :raises AxleError: for teeth or figures that are none.
    """

    pinion_teeth: int
    ring_teeth: int
    bearings: Mapping[str, Bearing] = field(default_factory=dict)
    gear: float = 0.0
    tread: int = 0

    def __post_init__(self) -> None:
        if not 3 <= self.pinion_teeth < self.ring_teeth <= 100:
            raise AxleError("teeth", given=f"{self.ring_teeth}/{self.pinion_teeth}", wanted="such as 41/11")
        unknown = set(self.bearings) - set(usual_bearings())
        if unknown:
            raise AxleError("bearing", given=min(unknown)[:20], wanted=", ".join(usual_bearings()))
        if not 0 <= self.gear <= 12:
            raise AxleError("gear", given=f"{self.gear:g}", wanted="0 to 12 turns of the engine")
        if self.tread and not 10 <= self.tread <= 150:
            raise AxleError("tread blocks", given=f"{self.tread}", wanted="10 to 150, or none")

    @property
    def ratio(self) -> float:
        """R = N2/N1."""
        return self.ring_teeth / self.pinion_teeth


@dataclass(frozen=True)
class KnownOrder:
    """One thing that comes by.

    :param name: its name.
    :param title: in words.
    :param low: least order per turn of the ring gear.
    :param high: most; as the least where it is exact.
    :param part: "tyre", "shaft", "engine", "mesh", or a bearing.
    :param struck: told by blows in the envelope, not by a tone.
    :param usual: figures are usual ones, not this axle's.
    """

    name: str
    title: str
    low: float
    high: float
    part: str
    struck: bool = False
    usual: bool = False


def known_orders(machine: Machine) -> tuple[KnownOrder, ...]:
    """Everything that comes by at a known order, lowest first.

    Wheel and tyre 1, pinion and driveshaft R, joints 2R, mesh N2 and multiples with sidebands of ring gear
    (± 1) and pinion (± R), the hunting tooth gcd(N1, N2)/N1 as modulation, engine order k at k·R·gear,
    tread at its blocks, bearings by their rates.

    :param machine: what is known of what turns.
    :source: the geometry of the axle; vibration handbooks for bearings.

    >>> [one.name for one in known_orders(Machine(11, 41)) if not one.usual][:4]
    ['hunting', 'wheel', 'shaft', 'joint']
    """
    r, mesh = machine.ratio, float(machine.ring_teeth)
    hunting = math.gcd(machine.pinion_teeth, machine.ring_teeth) / machine.pinion_teeth
    exact = [
        ("hunting", "one pinion tooth meeting one ring gear tooth", hunting, "mesh", True),
        ("wheel", "wheel and tyre", 1.0, "tyre", False),
        ("shaft", "driveshaft and pinion", r, "shaft", False),
        ("joint", "joints of the driveshaft, twice a turn", 2 * r, "shaft", False),
        ("mesh-ring", "mesh less one ring gear turn", mesh - 1, "mesh", False),
        ("mesh", "gear mesh", mesh, "mesh", False),
        ("mesh+ring", "mesh and one ring gear turn", mesh + 1, "mesh", False),
        ("mesh-pinion", "mesh less one pinion turn", mesh - r, "mesh", False),
        ("mesh+pinion", "mesh and one pinion turn", mesh + r, "mesh", False),
        ("mesh2", "gear mesh, twice", 2 * mesh, "mesh", False),
        ("mesh3", "gear mesh, three times", 3 * mesh, "mesh", False),
    ]
    found = [KnownOrder(n, t, low=o, high=o, part=p, struck=s) for n, t, o, p, s in exact]
    if machine.gear:
        for k in (0.5, 1, 1.5, 2, 3, 4, 6, 8):
            order = k * r * machine.gear
            found.append(KnownOrder(f"engine{k:g}", f"engine order {k:g}", order, order, "engine"))
    if machine.tread:
        tread = float(machine.tread)
        found.append(KnownOrder("tread", "tread of the tyre", tread, tread, "tyre"))
    else:
        found.append(KnownOrder("tread", "tread of the tyre", 25.0, 90.0, "tyre", usual=True))
    for name in usual_bearings():
        found += bearing_orders(machine, name)
    return tuple(sorted(found, key=lambda one: one.low))


def bearing_orders(machine: Machine, name: str) -> list[KnownOrder]:
    """Orders of one bearing per turn of the ring gear, slip in them.

    :param machine: what is known of what turns.
    :param name: of :func:`usual_bearings`.
    :source: :func:`rates`, less slip.

    >>> bearing_orders(Machine(11, 41), "carrier")[0].usual
    True
    """
    usual = usual_bearings()[name]
    per_turn = machine.ratio if usual.shaft == "pinion" else 1.0
    figures = machine.bearings.get(name)
    found = []
    for part, title in (("outer", "outer race"), ("inner", "inner race"), ("roller", "roller")):
        low, high = getattr(usual, part)
        if figures is not None:
            rate = getattr(rates(figures), part) * (2 if part == "roller" else 1)
            low, high = rate * (1 - SLIP), rate
        found.append(
            KnownOrder(
                f"{name}-{part}",
                f"{usual.title}, {title}",
                low * per_turn,
                high * per_turn,
                name,
                struck=True,
                usual=figures is None,
            )
        )
    return found
