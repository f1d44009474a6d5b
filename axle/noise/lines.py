"""What is written down of a noise: answers, what the hand felt, recordings and what they said."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Annotated, Any, Final

import msgspec

from axle.data_file import as_shape
from axle.errors import AxleError, quoted
from axle.gearset import GearSet
from axle.noise.account import Account, account, check_answers
from axle.noise.by_hand import told_by_count
from axle.noise.hearing import recorder_named
from axle.noise.verdict import heard_causes
from axle.state.felt import Felt
from axle.state.settings import Settings

PHASES: Final = {"arrival": "before", "road": "after the road test"}


class Told(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One answer, told or found by a check."""

    phase: str
    question: str
    answer: str


class HandFelt(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The gears turned by hand, one way, on one assembly."""

    assembly: int
    flank: str
    feel: str


class Count(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How often something came by while a shaft was turned."""

    assembly: int
    feel: str
    shaft: str
    turns: float
    count: float


class Recorded(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A recording: its file is kept beside it, its digest here."""

    phase: str
    name: Annotated[str, msgspec.Meta(max_length=120)]
    recorder: str
    rate: int
    seconds: float
    sha256: Annotated[str, msgspec.Meta(pattern="^[0-9a-f]{64}$")]
    simulated: bool = False


class KeptVerdict(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a recording said, once somebody kept it: by the recording's entry."""

    phase: str
    recording: Annotated[str, msgspec.Meta(max_length=36)]
    title: Annotated[str, msgspec.Meta(max_length=120)]
    names: tuple[Annotated[str, msgspec.Meta(max_length=30)], ...]
    chance: float
    reasons: tuple[Annotated[str, msgspec.Meta(max_length=300)], ...]
    levels: dict[str, tuple[float, float]]
    speed: float


NoiseNote = Told | HandFelt | Count | Recorded | KeptVerdict
KINDS: Final[Mapping[str, type[NoiseNote]]] = {
    "told": Told,
    "felt": HandFelt,
    "count": Count,
    "recorded": Recorded,
    "heard": KeptVerdict,
}


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
        raise AxleError("noise", given=quoted(kind, 20), wanted=", ".join(KINDS))
    line = as_shape("noise", values, KINDS[kind])
    match line:
        case Told():
            if line.phase not in PHASES:
                raise AxleError("noise", given=quoted(line.phase, 20), wanted=", ".join(PHASES))
            check_answers({line.question: line.answer})
        case HandFelt():
            reading_of(line, Settings(), 1)
        case Recorded() | KeptVerdict():
            if line.phase not in PHASES:
                raise AxleError("noise", given=quoted(line.phase, 20), wanted=", ".join(PHASES))
            _check_recorded(line)
        case Count():
            reading_of(HandFelt(line.assembly, "drive", line.feel), Settings(), 1)
            told_by_count(line.count, line.turns, line.shaft, _ANY)
    return line


def _check_recorded(line: Recorded | KeptVerdict) -> None:
    if isinstance(line, Recorded):
        recorder_named(line.recorder)
        if not 1 <= line.rate <= 192_000 or not 0 < line.seconds <= 1000:
            raise AxleError("recording", given=f"{line.rate} Hz, {line.seconds:g} s", wanted="a recording")
        return
    unknown = set(line.names) - set(heard_causes())
    if unknown or not line.names:
        raise AxleError("recording says", given=quoted(min(unknown, default="")), wanted="causes it knows")
    if not 0 <= line.chance <= 1.001:
        raise AxleError("chance", given=f"{line.chance:g}", wanted="0 to 1")


# A count is held to what can be counted, whatever the gears.
_ANY: Final = GearSet(11, 41)


def reading_of(line: HandFelt, settings: Settings, order: int) -> Felt:
    """What the hand felt, as a reading of its assembly.

    :param line: as it was written down.
    :param settings: what was in the axle then.
    :param order: rises with time.
    :raises AxleError: for a word or an assembly that is none.
    :source: the row.

    >>> reading_of(HandFelt(1, "drive", "click"), Settings(), 1).feel
    'click'
    """
    if not 1 <= line.assembly <= 200:
        raise AxleError("assembly", given=f"{line.assembly}", wanted="1 to 200")
    return Felt(line.feel, line.flank, line.assembly, settings, order)


def answers_of(lines: Iterable[NoiseNote], phase: str) -> dict[str, str]:
    """The answers that stand, by question; a later one takes the place of an earlier.

    :param lines: that stand, oldest first.
    :param phase: "arrival" or "road".
    :source: the rows in their order.

    >>> answers_of([Told("arrival", "drive", "yes"), Told("arrival", "drive", "no")], "arrival")
    {'drive': 'no'}
    """
    told = (line for line in lines if isinstance(line, Told))
    return {line.question: line.answer for line in told if line.phase == phase}


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
