"""What a recording says: causes with their odds, those it cannot tell apart, and what to record instead."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Final

import msgspec
import numpy as np

from axle.data_file import read_table
from axle.noise.evidence import SEEN, Evidence, bearing_density, bearing_parts, loads
from axle.noise.orders import Machine

_LEAST_SHOWN: Final = 0.01
# Where one is less likely than another by more than this, the recording does tell them apart.
_TOLD_APART: Final = 0.05


class HeardCause(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What may be behind a recording, as in ``data/verdict.toml``."""

    title: str
    group: str
    axle: bool
    cure: str
    weights: dict[str, float]


class NotToldApart(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a recording may not tell apart, as in ``data/verdict.toml``."""

    members: tuple[str, ...]
    title: str
    would: str


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    causes: dict[str, HeardCause]
    groups: dict[str, NotToldApart]


@cache
def _table() -> _Table:
    return read_table(__file__, "data/verdict.toml", _Table)


def heard_causes() -> Mapping[str, HeardCause]:
    """Everything that a recording may tell, by name.

    :source: ``data/verdict.toml``; weights set on simulated recordings.

    >>> heard_causes()["tyre"].axle
    False
    """
    return _table().causes


@dataclass(frozen=True)
class Likely:
    """A cause, or causes that the recording does not tell apart, with the odds.

    :param names: of the causes.
    :param title: in words.
    :param chance: [1], of all of them.
    :param would: what would tell them apart, or "".
    """

    names: tuple[str, ...]
    title: str
    chance: float
    would: str = ""


@dataclass(frozen=True)
class Verdict:
    """What a recording says.

    :param chances: by cause, summing to 1.
    :param likely: causes and groups, likeliest first.
    :param reasons: sentences.
    :param parts: bearings and their parts that the blows may be of, with their shares.
    """

    chances: Mapping[str, float]
    likely: tuple[Likely, ...]
    reasons: tuple[str, ...]
    parts: tuple[tuple[str, float], ...]

    @property
    def first(self) -> Likely:
        """The likeliest."""
        return self.likely[0]


def features(evidence: Evidence, machine: Machine) -> dict[str, dict[str, float]]:
    """What speaks for each cause, as figures that the weights are put on.

    :param evidence: what stands out.
    :param machine: what is known of what turns.
    :source: levels over the floor in steps of 3 dB; how far a scale had to be moved; sidebands; load.
    """
    e = evidence
    mesh = max((line for line in e.mesh.values() if line.sigmas > SEEN), key=lambda x: x.over, default=None)
    both = loads(e)
    by_load = abs(both[0] - both[1]) if both and mesh else 3.0
    gear = {
        "level": _step(mesh.over, -13) if mesh else -4.0,
        "off": -(e.mesh_off**2) / 2 if mesh else 0.0,
        "pinion": float(np.clip(e.by_pinion - 4, 0, 8) / 4) if mesh else 0.0,
        "ring": float(np.clip(e.by_ring - 4, 0, 8) / 4) if mesh else 0.0,
        "load": float(np.clip(by_load - 3, -3, 5) / 2) if mesh else 0.0,
        "louder": _step(mesh.over, e.tread.over) if mesh else -2.0,
        "shared": float(e.shared and mesh is not None),
    }
    drive = float(np.clip(both[0] - both[1], -10, 10)) / 3 if both and mesh else 0.0
    tread = e.tread if e.tread.sigmas > SEEN else None
    blow = e.blow
    strength = math.log(max(blow.sigmas, 1.0) / 7) if blow else -1.0
    tooth = float(np.clip((max(e.tooth_pinion, e.tooth_ring) - 3) / 1.5, -2, 4))
    struck = {
        "level": float(np.clip(strength * 4, -3, 4)),
        "tooth": max(tooth, 0.0),
        "toned": float(bool(blow and blow.toned)),
    }
    engine = _step(e.engine.over, -8) if e.engine_lines else -4.0
    shaft = max(e.once, e.twice, key=lambda x: x.over)
    found: dict[str, dict[str, float]] = {
        "gear_drive": {**gear, "side": drive},
        "gear_coast": {**gear, "side": -drive},
        "gear_tooth": {"level": tooth},
        "tyre": {
            "level": _step(tread.over, -12) if tread else -4.0,
            "around": float(min(e.around, 6)) / 2 if tread else 0.0,
            "load": float(np.clip(abs(e.tread_by_load) - 3, -3, 5) / 2) if tread else 0.0,
            "place": (e.mesh_off**2) / 2 if mesh else 0.0,
        },
        "shaft": {"level": _step(shaft.over, -8) if shaft.sigmas > SEEN else -4.0},
        "engine": {"level": engine, "lines": float(e.engine_lines - 2)},
        "nothing": {},
    }
    for name, parts in (
        ("pinion_bearing", ("pinion_head", "pinion_tail")),
        ("carrier_bearing", ("carrier",)),
        ("wheel_bearing", ("wheel",)),
    ):
        place, sides = -6.0, 0.0
        if blow:
            density = sum(
                bearing_density(blow.order, machine, part, e.scale if e.locked else 1.0, e.scale_std)
                for part in parts
            ) / len(parts)
            place = max(math.log(density + 1e-9) + 3, -6.0)
            by = blow.by_pinion if name == "pinion_bearing" else blow.by_ring
            sides = float(np.clip(by - 3, 0, 6) / 3)
        found[name] = {**struck, "place": place, "sides": sides}
    return found


def _step(over: float, neutral: float) -> float:
    """A level as steps of 3 dB from where it says nothing."""
    return float(np.clip((over - neutral) / 3, -4, 5))


def chances(found: Mapping[str, Mapping[str, float]]) -> dict[str, float]:
    """Odds of each cause from what speaks for it.

    :param found: of :func:`features`.
    :source: a multinomial logistic model; weights in ``data/verdict.toml``.
    """
    scores = {
        name: cause.weights["base"] + sum(cause.weights[key] * value for key, value in found[name].items())
        for name, cause in heard_causes().items()
    }
    top = max(scores.values())
    weights = {name: math.exp(score - top) for name, score in scores.items()}
    total = sum(weights.values())
    return {name: weight / total for name, weight in weights.items()}


def verdict_of(evidence: Evidence, machine: Machine) -> Verdict:
    """What a recording says.

    :param evidence: what stands out.
    :param machine: what is known of what turns.
    :source: :func:`chances`; groups of ``data/verdict.toml``.
    """
    found = chances(features(evidence, machine))
    grouped = _groups(found, evidence, machine)
    taken = {name for group in grouped for name in group.names}
    single = [
        Likely((name,), heard_causes()[name].title, chance)
        for name, chance in found.items()
        if name not in taken
    ]
    every = sorted([*grouped, *single], key=lambda one: -one.chance)
    blow = evidence.blow
    parts = (
        bearing_parts(blow.order, machine, evidence.scale if evidence.locked else 1.0, evidence.scale_std)
        if blow
        else []
    )
    return Verdict(
        found,
        likely=tuple(one for one in every if one.chance >= _LEAST_SHOWN) or tuple(every[:1]),
        reasons=_reasons(evidence),
        parts=tuple(parts[:4]),
    )


def _groups(found: Mapping[str, float], evidence: Evidence, machine: Machine) -> list[Likely]:
    """Causes that this recording does not tell apart: each is in one group at the most."""
    e, blow, both = evidence, evidence.blow, loads(evidence)
    meshes = max(line.sigmas for line in e.mesh.values()) > SEEN
    # A tread of as many blocks as the ring gear has teeth answers to no load and has no pinion beside it.
    like_tread = e.by_pinion < 4 and (both is None or abs(both[0] - both[1]) < 3)
    wanted = []
    if meshes and e.shared:
        wanted.append("firing")
    same_blocks = abs(machine.tread - machine.ring_teeth) <= 1
    if meshes and like_tread:
        wanted.append("tread")
    if both is None:
        wanted.append("flanks")
    if blow is not None:
        at = e.scale if e.locked else 1.0
        ends = [
            bearing_density(blow.order, machine, name, at, e.scale_std) for name in ("carrier", "wheel")
        ]
        if max(ends) < 8 * min(ends):
            wanted.append("axle_ends")
    if e.twice.over > -12 and e.engine_lines <= 2 and abs((machine.gear or 1.0) - 1.0) < 0.03:
        wanted.append("turning")
    groups: list[Likely] = []
    taken: set[str] = set()
    for name in wanted:
        group = _table().groups[name]
        members = [found[member] for member in group.members]
        # Gears on either flank count as one beside something else.
        gears = sum(found[m] for m in group.members if m in ("gear_drive", "gear_coast"))
        others = [found[m] for m in group.members if m not in ("gear_drive", "gear_coast")]
        sides = [gears, *others] if gears and others else members
        told_apart = min(sides) < _TOLD_APART * max(sides) and not (name == "tread" and same_blocks)
        if taken & set(group.members) or told_apart:
            continue
        taken |= set(group.members)
        groups.append(Likely(group.members, group.title, chance=sum(members), would=group.would))
    return groups


def _reasons(evidence: Evidence) -> tuple[str, ...]:
    """What stands out, in sentences."""
    return (*_of_the_mesh(evidence), *_of_the_rest(evidence))


def _of_the_mesh(evidence: Evidence) -> list[str]:
    e, lines = evidence, []
    if e.mesh["all"].sigmas > SEEN:
        lines.append(f"The gear mesh stands {_db(e.mesh['all'].over)}.")
    both = loads(e)
    if both and max(both) > -15:
        louder, other = ("drive", "coast") if both[0] > both[1] else ("coast", "drive")
        apart = abs(both[0] - both[1])
        lines.append(
            f"It is {apart:.0f} dB louder on {louder}."
            if min(both) > -25
            else f"It is heard on {louder}, not on {other}."
        )
    strong = max(SEEN, 0.03 * e.mesh["all"].sigmas)
    if e.by_pinion > SEEN:
        more = ", and the pinion runs out or is hurt" if e.by_pinion > strong else ""
        lines.append(f"Lines one pinion turn beside it: it is the mesh{more}.")
    if e.by_ring > strong:
        lines.append("Lines one ring gear turn beside it: the ring gear or the carrier runs out.")
    if e.shared:
        lines.append("The mesh lies where a multiple of the engine's firings does.")
    return lines


def _of_the_rest(evidence: Evidence) -> list[str]:
    e, lines = evidence, []
    if e.tread.sigmas > SEEN and e.tread.over > -18:
        more = f", with {e.around} lines a wheel turn apart" if e.around else ""
        lines.append(f"A line {e.tread.order:.1f} times a wheel turn, {_db(e.tread.over)}{more}.")
    if e.blow and e.blow.sigmas > 14:
        lines.append(
            f"Blows {e.blow.order:.2f} times a ring gear turn, in {e.blow.band[0]:.0f} to "
            f"{e.blow.band[1]:.0f} Hz."
        )
    for title, value in (("pinion", e.tooth_pinion), ("ring gear", e.tooth_ring)):
        if value > SEEN:
            lines.append(f"Blows once a turn of the {title}, with their multiples.")
    if e.engine_lines >= 2 and e.engine.over > -15:
        lines.append(f"Firings of an engine, {_db(e.engine.over)}.")
    for title, line in (("Once", e.once), ("Twice", e.twice)):
        if line.sigmas > SEEN and line.over > -15:
            lines.append(f"{title} a turn of the driveshaft, {_db(line.over)}.")
    return lines


def _db(over: float) -> str:
    return f"{abs(over):.0f} dB {'over' if over >= 0 else 'under'} its third octave"
