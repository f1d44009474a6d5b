"""What is written down of a noise: each answer, before the axle comes apart and after the road test."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Final

import msgspec

from axle.data_file import as_shape
from axle.errors import AxleError
from axle.noise.account import Account, account, check_answers

PHASES: Final = {"arrival": "before", "road": "after the road test"}


class Told(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One answer, told or found by a check."""

    phase: str
    question: str
    answer: str


NoiseNote = Told
KINDS: Final[Mapping[str, type[NoiseNote]]] = {"told": Told}


def read_noise_line(kind: str, values: Mapping[str, Any]) -> NoiseNote:
    """A row about a noise, held to what its kind has.

    :param kind: its name.
    :param values: plain data.
    :raises AxleError: for a kind that is none, or a row that its kind cannot have.
    :source: :data:`KINDS`.

    >>> read_noise_line("told", {"phase": "arrival", "question": "drive", "answer": "yes"}).answer
    'yes'
    """
    if kind not in KINDS:
        raise AxleError("noise", given=f"“{kind[:20]}”", wanted=", ".join(KINDS))
    line = as_shape("noise", values, KINDS[kind])
    if line.phase not in PHASES:
        raise AxleError("noise", given=f"“{line.phase[:20]}”", wanted=", ".join(PHASES))
    check_answers({line.question: line.answer})
    return line


def answers_of(lines: Iterable[NoiseNote], phase: str) -> dict[str, str]:
    """The answers that stand, by question; a later one takes the place of an earlier.

    :param lines: that stand, oldest first.
    :param phase: "arrival" or "road".
    :source: the rows in their order.

    >>> answers_of([Told("arrival", "drive", "yes"), Told("arrival", "drive", "no")], "arrival")
    {'drive': 'no'}
    """
    return {line.question: line.answer for line in lines if line.phase == phase}


def standing_account(lines: Iterable[NoiseNote], phase: str) -> Account | None:
    """What an account comes to, or nothing where nobody told anything.

    :param lines: that stand, oldest first.
    :param phase: "arrival" or "road".
    :source: :func:`axle.noise.account.account`.

    >>> standing_account([], "arrival") is None
    True
    """
    answers = answers_of(lines, phase)
    return account(answers) if answers else None
