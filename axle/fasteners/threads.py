"""Threads and classes: stress area, proof load, clamp, and whether a typed torque can be meant."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from typing import Any, Final

from axle.data_file import read_table
from axle.errors import AxleError
from axle.measure.range import Range

_INCH: Final = 25.4
_KSI: Final = 6.894757293168361  # MPa; 1 psi = 6894.757… Pa from the pound-force and the inch
# Nut factors: moly-lubricated to dry steel (common practice).
SLIPPERY: Final = 0.12
DRY: Final = 0.20
# A bolt is set between a fifth of its proof load and a quarter over it: all else is questioned.
_LEAST_SHARE: Final = 0.20
_MOST_SHARE: Final = 1.25


@dataclass(frozen=True)
class Thread:
    """A thread.

    :param name: as builders write it.
    :param diameter: d, nominal diameter [mm], above 0.
    :param pitch: p [mm], above 0.
    :param unified: whether its stress area follows the unified rule.
    """

    name: str
    diameter: float
    pitch: float
    unified: bool

    @property
    def stress_area(self) -> float:
        """A_s [mm²]: π/4·(d − 0.9382·p)² (ISO 898-1) or 0.7854·(D − 0.9743/n)² (ASME B1.1)."""
        if self.unified:
            inches = (self.diameter - 0.9743 * self.pitch) / _INCH
            return 0.7854 * inches**2 * _INCH**2
        return math.pi / 4 * (self.diameter - 0.9382 * self.pitch) ** 2


def thread_named(name: str) -> Thread:
    """Find a thread by the name a builder writes.

    :param name: such as "M10x1.25", "M12" (coarse), "3/8-24" or "7/16-20 UNF".
    :raises AxleError: for one that is not in the tables.
    :source: ``threads.toml`` (ISO 261, ISO 262, ASME B1.1).

    >>> thread_named("m10").pitch, round(thread_named("3/8-24").diameter, 3)
    (1.5, 9.525)
    """
    text = re.sub(r"\s*(UN[A-Z]*)$", "", name.strip().upper().replace("×", "X").replace(" X ", "X"))
    if text.startswith("M") and "X" not in text:
        coarse = [t for t in threads().values() if not t.unified and t.name.startswith(f"{text}x")]
        if coarse:
            return max(coarse, key=lambda t: t.pitch)
    thread = threads().get(text.replace("X", "x").replace("–", "-"))
    if thread is None:
        raise AxleError(
            "thread",
            given=f"“{name[:24]}”",
            wanted="one such as M10x1.25 or 3/8-24",
            do="Write diameter and pitch, or diameter and threads per inch.",
        )
    return thread


def proof_stress(grade: str, diameter: float) -> float:
    """Proof stress of a class at a diameter.

    :param grade: class as in ``classes.toml``, such as "10.9" or "grade 8".
    :param diameter: d [mm], above 0.
    :returns: [MPa].
    :raises AxleError: for a class that is not in the table.
    :source: ISO 898-1:2013 table 3; SAE J429 (from memory, held to their proof loads).

    >>> proof_stress("8.8", 12.0), proof_stress("8.8", 20.0)
    (580.0, 600.0)
    """
    row = classes().get(grade)
    if row is None:
        raise AxleError("class", given=f"“{grade[:24]}”", wanted=", ".join(classes()))
    metric = "proof_mpa" in row
    for line in row["proof_mpa" if metric else "proof_ksi"]:
        top = line.get("up_to_mm", line.get("up_to_in", math.inf) * (1.0 if metric else _INCH))
        if diameter <= top + 1e-9:
            return float(line["stress"]) * (1.0 if metric else _KSI)
    raise AxleError("class", given=f"“{grade}” at {diameter:g} mm", wanted="a diameter of its table")


def proof_load(thread: Thread, grade: str) -> float:
    """Load that a bolt must bear without lasting stretch.

    :param thread: its thread.
    :param grade: its class.
    :returns: F_p [N].
    :raises AxleError: for a class that is not in the table.
    :source: ISO 898-1, SAE J429: stress area by proof stress.

    >>> round(proof_load(thread_named("M12"), "10.9"), -3)
    70000.0
    """
    return thread.stress_area * proof_stress(grade, thread.diameter)


def clamp(torque: float, thread: Thread, factor: float) -> float:
    """Clamp load that a torque gives: F = T/(K·d).

    :param torque: T [N·m], 0 or more.
    :param thread: its thread.
    :param factor: K, nut factor, 0.08 to 0.4; 0.12 with moly, 0.20 dry.
    :returns: F [N].
    :raises AxleError: for a factor or torque that cannot be.
    :source: common practice (nut factor method); an estimate, never the maker's figure.

    >>> round(clamp(58.0, thread_named("M10"), 0.2))
    29000
    """
    if not 0.08 <= factor <= 0.4 or torque < 0:
        raise AxleError(
            "nut factor", given=f"{factor:g} at {torque:g} N·m", wanted="0.08 to 0.4, torque 0 or more"
        )
    return torque / (factor * thread.diameter / 1000)


def plausible_torque(thread: Thread, grade: str) -> Range:
    """The torques that could be meant for a bolt: outside them an entry is questioned.

    :param thread: its thread.
    :param grade: its class.
    :returns: from a fifth of the proof load on a slippery thread to a quarter over it on a dry one
        [N·m].
    :raises AxleError: for a class that is not in the table.
    :source: T = K·d·F; the shares are the project's own, wide on purpose.

    >>> limits = plausible_torque(thread_named("3/8-24"), "grade 8")
    >>> limits.low < 81.0 < limits.high
    True
    """
    load, d = proof_load(thread, grade), thread.diameter / 1000
    return Range(SLIPPERY * d * load * _LEAST_SHARE, DRY * d * load * _MOST_SHARE)


def adapter_setting(wanted: float, length: float, adapter: float, angle: float = 0.0) -> float:
    """What to set a torque wrench to when an adapter lengthens it.

    :param wanted: torque at the bolt [N·m], 0 or more.
    :param length: L, wrench from square to the middle of the grip [mm], above 0.
    :param adapter: a, adapter from square to bolt [mm], 0 or more.
    :param angle: θ, of the adapter from in line with the wrench [rad]; a right angle changes nothing.
    :returns: wanted·L/(L + a·cos θ) [N·m].
    :raises AxleError: for lengths that cannot be.
    :source: lever arms; common practice.

    >>> round(adapter_setting(100.0, 400.0, 50.0), 1)
    88.9
    """
    lever = length + adapter * math.cos(angle)
    if length <= 0 or adapter < 0 or lever <= 0 or wanted < 0:
        raise AxleError(
            "adapter",
            given=f"a wrench of {length:g} mm with an adapter of {adapter:g} mm",
            wanted="a wrench length above 0 and an adapter that does not reach back past the grip",
        )
    return wanted * length / lever


@cache
def threads() -> Mapping[str, Thread]:
    """Every thread by name.

    :source: ``threads.toml`` (ISO 261, ISO 262, ASME B1.1).
    """
    rows = _load("threads.toml")
    found = {}
    for diameter, pitch in rows["metric"]["sizes_mm"]:
        name = f"M{diameter:g}x{pitch:g}"
        found[name] = Thread(name, diameter, pitch, unified=False)
    for size, count in rows["unified"]["sizes_in"]:
        name = f"{size}-{count}"
        found[name] = Thread(name, _inches(size) * _INCH, _INCH / count, unified=True)
    return found


@cache
def classes() -> Mapping[str, dict[str, Any]]:
    """Every class by name.

    :source: ``classes.toml`` (ISO 898-1, SAE J429).
    """
    return _load("classes.toml")


def _inches(size: str) -> float:
    return float(sum(Fraction(part) for part in size.split("-")))


def _load(name: str) -> dict[str, Any]:
    return read_table(__file__, name, dict[str, Any])
