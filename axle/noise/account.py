"""Causes of a noise ranked by odds from what was told, and the question or check that tells most apart."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError, quoted

# Answers of one customer hang together: he who takes a hum for a growl does so all along. Each counts as so
# much of an independent one; from memory.
_HOLD_TOGETHER: Final = 0.85
# A share of every answer is a slip: misheard, misremembered, mispressed. From memory.
_SLIP: Final = 0.06
# A question costs so many minutes of talk, so that asking is not for nothing either.
_TALK: Final = 1.5
# What nobody knows is an answer too: it is not asked again, and says nothing.
UNKNOWN: Final = "unknown"
# Causes that are under this are not worth a check.
_SURE: Final = 0.9
_LEAST_SHOWN: Final = 0.005


class Cause(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What can make a noise, as in ``data/account.toml``."""

    title: str
    group: str
    often: float
    axle: bool
    cure: str


class Question(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is asked or checked, as in ``data/account.toml``."""

    title: str
    ask: str
    answers: dict[str, str]
    usual: tuple[float, ...]
    by: dict[str, tuple[float, ...]]
    minutes: float = 0.0

    @property
    def is_check(self) -> bool:
        """Whether somebody has to do something for it."""
        return self.minutes > 0


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    causes: dict[str, Cause]
    questions: dict[str, Question]


@cache
def _table() -> _Table:
    table = read_table(__file__, "data/account.toml", _Table)
    for name, question in table.questions.items():
        for cause, shares in {"usual": question.usual, **question.by}.items():
            right = len(shares) == len(question.answers) and math.isclose(sum(shares), 1, abs_tol=0.021)
            if (cause != "usual" and cause not in table.causes) or not right or min(shares) <= 0:
                raise AxleError(
                    f"account.toml, {name}", given=cause, wanted="a cause with a share each, sum 1"
                )
    return table


def causes() -> Mapping[str, Cause]:
    """Everything that can make a noise, by name.

    :raises AxleError: when the file's shares do not fit its answers.
    :source: ``data/account.toml``; common practice, from memory.

    >>> causes()["tyre"].axle
    False
    """
    return _table().causes


def questions() -> Mapping[str, Question]:
    """Everything that is asked or checked, by name, asking first.

    :raises AxleError: when the file's shares do not fit its answers.
    :source: ``data/account.toml``; common practice, from memory.

    >>> questions()["swap"].is_check
    True
    """
    return _table().questions


def check_answers(answers: Mapping[str, str]) -> None:
    """Refuse answers to what is not asked.

    :param answers: name of the answer by question.
    :raises AxleError: naming the question, and its answers.
    :source: ``data/account.toml``.

    >>> check_answers({"drive": "yes"})
    """
    for name, answer in answers.items():
        known = questions().get(name)
        if known is None:
            raise AxleError("account", given=quoted(name), wanted="a question of the list")
        if answer not in known.answers and answer != UNKNOWN:
            raise AxleError(known.title, given=quoted(answer), wanted=", ".join(known.answers.values()))


def odds(answers: Mapping[str, str]) -> dict[str, float]:
    """Chance of each cause after what was told.

    Bayes' rule with shares of answers by cause; each answer counts as less than an independent one, and may
    be a slip.

    :param answers: name of the answer by question; what was not answered is left out, or "unknown".
    :returns: chance [1] by cause, summing to 1.
    :raises AxleError: for an answer that is none.
    :source: Bayes' rule; shares and weights from memory.

    >>> told = odds({"surface": "changes", "neutral": "yes", "sound": "hum"})
    >>> max(told, key=told.get)
    'tyre'
    """
    check_answers(answers)
    logs = {name: math.log(cause.often) for name, cause in causes().items()}
    for name, answer in answers.items():
        if answer == UNKNOWN:
            continue
        for cause in logs:
            logs[cause] += _HOLD_TOGETHER * math.log(_share(name, answer, cause))
    top = max(logs.values())
    weights = {cause: math.exp(value - top) for cause, value in logs.items()}
    total = sum(weights.values())
    return {cause: weight / total for cause, weight in weights.items()}


def _share(question: str, answer: str, cause: str) -> float:
    """How often a cause gives an answer, slips included."""
    known = questions()[question]
    shares = known.by.get(cause, known.usual)
    place = list(known.answers).index(answer)
    return (1 - _SLIP) * shares[place] / sum(shares) + _SLIP / len(shares)


def by_group(chances: Mapping[str, float]) -> dict[str, float]:
    """Chances of the groups of causes, largest first.

    :param chances: by cause.
    :source: sums over each group.

    >>> list(by_group(odds({"surface": "changes"})))[0]
    'tyre'
    """
    found: dict[str, float] = {}
    for name, chance in chances.items():
        found[causes()[name].group] = found.get(causes()[name].group, 0.0) + chance
    return dict(sorted(found.items(), key=lambda row: -row[1]))


@dataclass(frozen=True)
class Ranked:
    """A cause with its odds.

    :param name: of the cause.
    :param cause: what it is.
    :param chance: that it is behind the noise [1].
    """

    name: str
    cause: Cause
    chance: float


@dataclass(frozen=True)
class Next:
    """What is asked or checked next.

    :param name: of the question.
    :param question: what it is.
    :param bits: by how much it is expected to narrow the causes [bit].
    """

    name: str
    question: Question
    bits: float


@dataclass(frozen=True)
class Account:
    """What an account comes to.

    :param ranked: causes, likeliest first.
    :param first: what no axle work cures, where that is likely: it is said first.
    :param next: what is worth asking or checking, most worth first.
    :param silent: a caution where heat speaks of too much preload, which is silent until it burns; or "".
    """

    ranked: tuple[Ranked, ...]
    first: tuple[Ranked, ...]
    next: tuple[Next, ...]
    silent: str

    @property
    def is_settled(self) -> bool:
        """Whether one group of causes is likely enough to stop asking."""
        groups = by_group({one.name: one.chance for one in self.ranked})
        return max(groups.values()) >= _SURE


# Without axle work, from this chance on it is said before all else.
_SAID_FIRST: Final = 0.15


def account(answers: Mapping[str, str]) -> Account:
    """Rank the causes and name what tells most apart for its time.

    :param answers: name of the answer by question.
    :raises AxleError: for an answer that is none.
    :source: Bayes' rule; expected loss of entropy over minutes (Lindley 1956, from memory).

    >>> account({}).next[0].question.is_check
    False
    """
    chances = odds(answers)
    ranked = tuple(
        Ranked(name, causes()[name], chance)
        for name, chance in sorted(chances.items(), key=lambda row: -row[1])
        if chance >= _LEAST_SHOWN
    )
    first = tuple(one for one in ranked if not one.cause.axle and one.chance >= _SAID_FIRST)
    asked = [
        Next(name, question, _bits(chances, name))
        for name, question in questions().items()
        if name not in answers
    ]
    asked.sort(key=lambda one: -one.bits / (_TALK + one.question.minutes))
    silent = ""
    if answers.get("heat") == "hot":
        silent = (
            "Heat at the nose: too much preload is silent until it burns. Read the temperatures and the "
            "rotating torque before anybody drives on."
        )
    return Account(ranked, first, tuple(asked), silent)


def _bits(chances: Mapping[str, float], question: str) -> float:
    """By how much an answer is expected to narrow what would be done about it [bit]."""
    known = questions()[question]
    before, after = _entropy(_by_work(chances)), 0.0
    for answer in known.answers:
        joint = {
            cause: chance * _share(question, answer, cause) ** _HOLD_TOGETHER
            for cause, chance in chances.items()
        }
        total = sum(joint.values())
        weight = sum(chance * _share(question, answer, cause) for cause, chance in chances.items())
        after += weight * _entropy(_by_work({cause: value / total for cause, value in joint.items()}))
    return max(before - after, 0.0)


def _by_work(chances: Mapping[str, float]) -> dict[tuple[str, bool], float]:
    """Chances by group, and by whether axle work cures it: that is what a check decides."""
    found: dict[tuple[str, bool], float] = {}
    for name, chance in chances.items():
        key = (causes()[name].group, causes()[name].axle)
        found[key] = found.get(key, 0.0) + chance
    return found


def _entropy(chances: Mapping[tuple[str, bool], float]) -> float:
    return -sum(chance * math.log2(chance) for chance in chances.values() if chance > 0)
