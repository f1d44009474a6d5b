"""Conditions of readings in words: what is not as usual, and what keeps two torques apart."""

from __future__ import annotations

from axle.measure.units import BOLT_NEWTON_METRE, Unit, show
from axle.procedure.condition_words import (
    ATTITUDE_WORDS,
    BOUND_WORDS,
    FIGURE_WORDS,
    MESH_WORDS,
    NUT_WORDS,
    OIL_WORDS,
    PUSHED_WORDS,
    SLEEVE_WORDS,
)
from axle.procedure.conditions import (
    BacklashConditions,
    Conditions,
    DialConditions,
    FeelerConditions,
    PullConditions,
    TorqueConditions,
)


def unlike(one: TorqueConditions, other: TorqueConditions) -> tuple[str, ...]:
    """Name what keeps two rotating torques from being held to each other.

    :param one: conditions of the one.
    :param other: conditions of the other.
    :returns: differences in words; none where the two may be mixed.
    :source: common practice; a nut within a tenth of the same torque is the same.

    >>> unlike(TorqueConditions(), TorqueConditions(seal=True))
    ('the seal in',)
    """
    lines = []
    if other.seal != one.seal:
        lines.append("the seal in" if other.seal else "no seal")
    for name, words in (("oil", OIL_WORDS), ("attitude", ATTITUDE_WORDS), ("figure", FIGURE_WORDS)):
        if getattr(other, name) != getattr(one, name):
            lines.append(words[getattr(other, name)])
    if other.nut != one.nut:
        lines.append(NUT_WORDS[other.nut])
    if other.sleeve != one.sleeve:
        lines.append(SLEEVE_WORDS[other.sleeve])
    if (
        one.nut_torque
        and other.nut_torque
        and abs(other.nut_torque - one.nut_torque) > 0.1 * one.nut_torque
    ):
        lines.append("another torque on the nut")
    return tuple(lines)


def words_of(conditions: Conditions | None, bolts: Unit = BOLT_NEWTON_METRE) -> tuple[str, ...]:
    """Say in words what is not as usual, or is worth keeping in sight.

    :param conditions: of a reading.
    :param bolts: unit in which a nut's torque is said.
    :source: common practice.

    >>> words_of(TorqueConditions(oil="dry", turned=15))
    ('dry', 'nut turned 15°')
    """
    if isinstance(conditions, FeelerConditions) and conditions.binds is not None:
        if not conditions.passes:
            return (f"{conditions.binds:g} mm will not enter",)
        return (f"{conditions.passes:g} mm passes, {conditions.binds:g} mm binds",)
    if isinstance(conditions, DialConditions) and conditions.shows == "figure":
        return ("figure pointed at",)
    if isinstance(conditions, PullConditions):
        return () if conditions.settled else ("bearings not stabilised",)
    if isinstance(conditions, BacklashConditions):
        return _of_backlash(conditions)
    if not isinstance(conditions, TorqueConditions):
        return ()
    usual, lines = TorqueConditions(), ["seal in"] if conditions.seal else []
    for name, words in (
        ("oil", OIL_WORDS),
        ("attitude", ATTITUDE_WORDS),
        ("figure", FIGURE_WORDS),
        ("nut", NUT_WORDS),
        ("sleeve", SLEEVE_WORDS),
        ("bound", BOUND_WORDS),
        ("mesh", MESH_WORDS),
    ):
        if getattr(conditions, name) != getattr(usual, name):
            lines.append(words[getattr(conditions, name)])
    if conditions.nut_torque is not None:
        lines.append(f"nut at {show(conditions.nut_torque, bolts)} {bolts.symbol}")
    if conditions.turned is not None:
        lines.append(f"nut turned {conditions.turned:g}°")
    if conditions.both is not None:
        lines.append("read both ways")
    return tuple(lines)


def _of_backlash(conditions: BacklashConditions) -> tuple[str, ...]:
    lines = list(conditions.doubts)
    if conditions.pushed:
        lines.append(PUSHED_WORDS[conditions.pushed])
    if conditions.indicator != "plunger":
        lines.append("lever indicator")
    if conditions.lean:
        lines.append(f"indicator {conditions.lean:g}° off")
    if conditions.radius is not None:
        lines.append(f"read {conditions.radius:g} mm from the axis")
    return tuple(lines)
