"""Customers who tell of a noise: its cause is known, what they say of it is as good as their ears."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Final

import msgspec
import numpy as np

from axle.data_file import read_table

# Questions with two answers, true or not.
_YES_OR_NO: Final = {"drive": "drive", "coast": "coast", "float": "steady", "neutral": "neutral"}
_OPTIONS: Final[Mapping[str, tuple[str, ...]]] = {
    "bend": ("side", "tight", "same"),
    "speed": ("band", "rising", "creeping", "takes_up"),
    "since": ("tyres", "axle", "slowly", "at_once", "strain"),
    "where": ("wheel", "middle", "floor", "everywhere"),
}


class _Shows(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    part: float
    sound: dict[str, str]
    drive: str
    coast: str
    steady: str = msgspec.field(name="float")
    neutral: str
    surface: str
    speed: dict[str, str]
    since: dict[str, str]
    where: dict[str, str]
    bend: dict[str, str] = {}


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    words: dict[str, tuple[float, float]]
    taken_for: dict[str, tuple[str, ...]]
    causes: dict[str, _Shows]


@cache
def _table() -> _Table:
    return read_table(__file__, "customers.toml", _Table)


@dataclass(frozen=True)
class Customer:
    """Somebody with a noise.

    :param cause: what is truly behind it.
    :param answers: what is said of it, by question; what is not known is left out.
    """

    cause: str
    answers: Mapping[str, str]


class NoisyWorld:
    """One world of customers: how its noises show is drawn once, each customer anew."""

    def __init__(self, seed: int) -> None:
        self._random = np.random.default_rng(seed)
        self._drawn: dict[tuple[str, str, str], float] = {}

    def customer(self) -> Customer:
        """The next customer of this world."""
        table, random = _table(), self._random
        names = list(table.causes)
        parts = np.array([table.causes[name].part for name in names])
        cause = str(random.choice(names, p=parts / parts.sum()))
        shows = table.causes[cause]
        # One ear for all answers: how often it mistakes or does not know, how readily it says yes.
        mistakes, unknown = random.beta(1.6, 12), random.beta(2.0, 9.0)
        yes = random.normal(0, 0.07)
        answers: dict[str, str] = {}
        sound = self._one(cause, "sound", shows.sound, tuple(table.taken_for))
        if random.random() < 2 * mistakes:
            sound = str(random.choice(table.taken_for[sound]))
        answers["sound"] = sound
        for name, field in _YES_OR_NO.items():
            share = np.clip(self._share(cause, name, getattr(shows, field)) + yes, 0.01, 0.99)
            answers[name] = "yes" if random.random() < share else "no"
        changes = random.random() < self._share(cause, "surface", shows.surface)
        answers["surface"] = "changes" if changes else "same"
        for name, options in _OPTIONS.items():
            usual = "same" if name == "bend" else ""
            answers[name] = self._one(cause, name, getattr(shows, name), options, usual)
        for name in list(answers):
            if random.random() < unknown and name != "sound":
                del answers[name]
            elif random.random() < mistakes / 2 and name != "sound":
                answers[name] = self._other(name, answers[name])
        return Customer(cause, answers)

    def _share(self, cause: str, name: str, word: str) -> float:
        """What a word comes to in this world."""
        key = (cause, name, word)
        if key not in self._drawn:
            self._drawn[key] = float(self._random.beta(*_table().words[word]))
        return self._drawn[key]

    def _one(
        self, cause: str, name: str, told: Mapping[str, str], options: tuple[str, ...], usual: str = ""
    ) -> str:
        """One of several answers, each as often as its word says."""
        words = {option: told.get(option, "often" if option == usual else "never") for option in options}
        weights = np.array([self._share(cause, f"{name} {option}", word) for option, word in words.items()])
        return str(self._random.choice(options, p=weights / weights.sum()))

    def _other(self, name: str, answer: str) -> str:
        """A slip: another answer to the same question."""
        if name in _YES_OR_NO:
            return "no" if answer == "yes" else "yes"
        options = _OPTIONS.get(name, ("changes", "same"))
        return str(self._random.choice([option for option in options if option != answer]))
