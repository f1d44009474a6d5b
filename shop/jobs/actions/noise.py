"""What was told of a noise, by the customer or by a check."""

from __future__ import annotations

import uuid

import msgspec

from axle.noise.lines import Told, read_noise_line
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
