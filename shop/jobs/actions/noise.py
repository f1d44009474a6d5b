"""What was told of a noise, by the customer or by a check, and what the hand felt."""

from __future__ import annotations

import uuid

import msgspec

from axle.noise.lines import Count, HandFelt, Told, read_noise_line
from shop.jobs.actions import noting
from shop.jobs.actions.noting import Note, note
from shop.jobs.models import Job, NoiseLine
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right


def tell(user: User, job: Job, version: int, told: Told, entry: uuid.UUID) -> None:
    """Note an answer; a later one to the same question takes its place."""
    rules.require_right(user, Right.MEASURE)
    values = msgspec.to_builtins(told)
    read_noise_line("told", values)
    note(NoiseLine, user, job, version, [Note("told", values, "told of the noise")], entry, signed=True)


def feel(user: User, job: Job, version: int, felt: HandFelt, entry: uuid.UUID) -> None:
    """Note what the hand felt of the assembly in hand: a reading of it."""
    _measured(user, job, version, "felt", felt, entry)


def count(user: User, job: Job, version: int, counted: Count, entry: uuid.UUID) -> None:
    """Note how often something came by."""
    _measured(user, job, version, "count", counted, entry)


def _measured(
    user: User, job: Job, version: int, kind: str, line: HandFelt | Count, entry: uuid.UUID
) -> None:
    rules.require_right(user, Right.MEASURE)
    values = msgspec.to_builtins(line)
    read_noise_line(kind, values)
    note(NoiseLine, user, job, version, [Note(kind, values, "turned it by hand")], entry)


def strike(user: User, job: Job, version: int, number: int, reason: str, entry: uuid.UUID) -> None:
    """Strike a line about the noise: it stays to be seen, and counts no more."""
    noting.strike(NoiseLine, user, job, version, number, reason, entry)
