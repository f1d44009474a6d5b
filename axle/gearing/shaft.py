"""The driveshaft: how fast its tube may turn, and how its joints shake."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError
from axle.measure.units import share_percent

# Steel: modulus [N/mm²] over density [t/mm³], as a speed of sound in the tube's wall [mm/s].
_WAVE: Final = math.sqrt(2.068e5 / 7.86e-9)
# Largest share of the critical speed, common practice.
SAFE_SHARE: Final = 0.7
# Near half the critical speed the tube answers to what happens twice a turn: within so much of it.
_NEAR_HALF: Final = 0.06
# Residual acceleration of the joints, and that of their inertia [rad/s²]: a design manual, from memory.
RESIDUAL_LIMIT: Final = 300.0
INERTIA_LIMIT: Final = 1000.0
# A joint that stands straight wears one place: its needles want to roll, from memory.
LEAST_ANGLE: Final = math.radians(0.5)


@dataclass(frozen=True)
class Tube:
    """One piece of a driveshaft.

    :param length: L, joint centre to joint centre, or to the centre bearing [mm], 100 to 4000.
    :param outside: D [mm], 20 to 200.
    :param wall: thickness [mm], above 0 and under half of D.
    :raises AxleError: outside these ranges.
    """

    length: float
    outside: float
    wall: float

    def __post_init__(self) -> None:
        if not 100 <= self.length <= 4000:
            raise AxleError("shaft length", given=f"{self.length:.0f} mm", wanted="100 to 4000 mm")
        if not 20 <= self.outside <= 200:
            raise AxleError("tube", given=f"{self.outside:.1f} mm outside", wanted="20 to 200 mm")
        if not 0 < self.wall < self.outside / 2:
            raise AxleError(
                "tube's wall",
                given=f"{self.wall:.1f} mm",
                wanted=f"above 0, under {self.outside / 2:.1f} mm",
            )

    @property
    def critical(self) -> float:
        """First critical speed of the tube with pinned ends [rpm].

        n = (30π/L²)·√(EI/ρA), √(I/A) = √(D² + d²)/4.
        """
        inside = self.outside - 2 * self.wall
        radius = math.hypot(self.outside, inside) / 4
        return 30 * math.pi / self.length**2 * _WAVE * radius


@dataclass(frozen=True)
class JointAngle:
    """How a joint stands.

    :param side: seen from the side, β_v [rad], 0 to 0.6.
    :param above: seen from above, β_h [rad].
    """

    side: float
    above: float = 0.0

    @property
    def angle(self) -> float:
        """The true angle between both shafts: tan²β = tan²β_v + tan²β_h [rad]."""
        return math.atan(math.hypot(math.tan(self.side), math.tan(self.above)))


def equal_angle(first: JointAngle, second: JointAngle, *, in_phase: bool = True) -> float:
    """The angle of one joint that would shake like both.

    :param first: at the gearbox.
    :param second: at the axle.
    :param in_phase: the yokes of the shaft lie in one plane.
    :returns: β_eq [rad]: √|β1² − β2²| in phase, √(β1² + β2²) a quarter turn apart.
    :source: driveshaft design manual, from memory; both joints in one plane.

    >>> round(equal_angle(JointAngle(0.1), JointAngle(0.1)), 6)
    0.0
    """
    one, two = first.angle**2, second.angle**2
    return math.sqrt(abs(one - two) if in_phase else one + two)


def joint_acceleration(rpm: float, angle: float) -> float:
    """Largest angular acceleration behind one joint.

    :param rpm: n of the shaft [rpm], 0 or more.
    :param angle: β of the joint [rad].
    :returns: ω²·sin²β [rad/s²], at twice the shaft's speed.
    :raises AxleError: for a speed below 0.
    :source: kinematics of a universal joint: ω2/ω1 = cos β/(1 − sin²β·cos²θ).

    >>> round(joint_acceleration(3000, math.radians(3)))
    270
    """
    if rpm < 0:
        raise AxleError("shaft speed", given=f"{rpm:g} rpm", wanted="0 or more")
    omega = rpm * math.pi / 30
    return omega**2 * math.sin(angle) ** 2


@dataclass(frozen=True)
class ShaftVerdict:
    """How a shaft stands at its top speed.

    :param rpm: top speed [rpm].
    :param critical: first critical speed [rpm].
    :param near_half: a cruising speed lies near half of it.
    :param residual: of both joints together [rad/s²], or nothing where their angles are not known.
    :param inertia: of the joint that stands steeper [rad/s²], or nothing.
    :param straight: a joint stands so straight that its needles do not roll.
    """

    rpm: float
    critical: float
    near_half: bool
    residual: float | None
    inertia: float | None
    straight: bool

    @property
    def share(self) -> float:
        """Top speed over critical speed [1]."""
        return self.rpm / self.critical

    @property
    def holds(self) -> bool:
        """Whether it stays under 70 % of its critical speed."""
        return self.share <= SAFE_SHARE

    @property
    def words(self) -> tuple[str, ...]:
        """What it comes to, in sentences."""
        said = [
            f"It turns {self.rpm:,.0f} rpm at the top, {share_percent(self.share)} of its critical "
            f"{self.critical:,.0f} rpm; at most {share_percent(SAFE_SHARE)} is usual."
        ]
        if self.near_half:
            said.append(f"At cruise it turns near half of that, {self.critical / 2:,.0f} rpm: it may boom.")
        if self.residual is not None:
            limits = f"{RESIDUAL_LIMIT:,.0f} and {INERTIA_LIMIT:,.0f}"
            said.append(
                f"Both joints leave {self.residual:,.0f} rad/s², the steeper one "
                f"{self.inertia or 0.0:,.0f}; usual is up to {limits}."
            )
        if self.straight:
            said.append("A joint stands straight: half a degree to one lets its needles roll.")
        return tuple(said)

    @property
    def shakes(self) -> bool:
        """Whether its joints shake more than a design allows."""
        over = self.residual is not None and self.residual > RESIDUAL_LIMIT
        return over or (self.inertia is not None and self.inertia > INERTIA_LIMIT)


def judge_shaft(
    tube: Tube,
    top: float,
    cruise: float,
    angles: tuple[JointAngle, JointAngle] | None = None,
    *,
    in_phase: bool = True,
) -> ShaftVerdict:
    """Hold a shaft to its critical speed and its joints to what a design allows.

    :param tube: its longest piece.
    :param top: its largest speed [rpm].
    :param cruise: its speed at cruise [rpm].
    :param angles: of the joint at the gearbox and of that at the axle, or nothing.
    :param in_phase: the yokes of the shaft lie in one plane.
    :source: 70 % of the critical speed, common practice; 300 and 1000 rad/s², design manual, from memory.

    >>> judge_shaft(Tube(1400, 76.2, 1.65), 4000, 2500).holds
    True
    """
    critical = tube.critical
    residual = inertia = None
    straight = False
    if angles is not None:
        residual = joint_acceleration(top, equal_angle(*angles, in_phase=in_phase))
        inertia = joint_acceleration(top, max(joint.angle for joint in angles))
        straight = min(joint.angle for joint in angles) < LEAST_ANGLE
    near_half = abs(cruise / (critical / 2) - 1) <= _NEAR_HALF
    return ShaftVerdict(top, critical, near_half, residual, inertia, straight)
