"""Moves, and the figures behind them, as they were when this was written: frozen from the project's own run, right or wrong.

Nothing here says that a move is good: that is for the other tests. It says that nothing changed unseen. Where
a change is meant, ``python -m tests.axle.test_frozen`` writes the files afresh, and their diff is the
explanation that goes with it.
"""

from __future__ import annotations

import random
import re
from collections.abc import Iterator
from dataclasses import replace
from itertools import zip_longest
from pathlib import Path

import pytest

from axle.decision.next_move import next_move
from axle.errors import AxleError
from axle.measure.units import IMPERIAL, METRIC
from axle.simulator.fault import Fault
from axle.state.axle_state import AxleState
from axle.stations.station_state import stand
from benchmarks.behaviour.loops import follow, words_of
from benchmarks.random_axles import random_axle
from tests.axle.figures import figures_of

NUMBER = r"\d+(?:\.\d+)?"
FOLDER = Path(__file__).parent / "frozen"
# (number, both preloads judged, fault): every way of shimming a pinion and a carrier, with a gauge and without.
WALKS = [
    (0, True, None),
    (7, True, None),
    (13, True, None),
    (26, True, None),
    (39, True, None),
    (52, True, None),
    (65, True, None),
    (91, True, None),
    (505, False, None),
    (517, True, Fault.SLINGER_OUT),
    (520, True, Fault.UNSEATED_CUP),
]
# Of the axles from here on, words alone: the figures of the first say enough.
MOST_FIGURES = 41_060
RANDOM = {"one": range(41_000, 41_060), "two": range(41_060, 41_120), "three": range(41_120, 41_180)}


def walked(number: int, preloads: bool, fault: Fault | None) -> list[str]:
    last: set[str] = set()

    def figures(state: AxleState) -> list[str]:
        lines = [rounded(line) for line in figures_of(state)]
        new = [line for line in lines if line not in last]
        last.clear()
        last.update(lines)
        return new

    return [rounded(line) for line in follow(number, preloads=preloads, fault=fault, beside=figures)]


def asked(seeds: range) -> list[str]:
    """What is advised, and where every station stands, on axles that nobody has built."""
    lines = []
    for seed in seeds:
        state, display = random_axle(seed), METRIC if seed % 3 == 0 else IMPERIAL
        lines.append(f"axle {seed}")
        for name, standing in stand(state, display).items():
            result = standing.result
            why = " ".join(result.why) if result else ""
            lines.append(f"  {name}: {standing.status.value}, {result.words if result else '-'}; {why}")
        try:
            lines += words_of(next_move(state, display))
        except AxleError as problem:
            lines.append(f"refused: {problem}")
        lines += figures_of(state) if seed < MOST_FIGURES else ()
    return [rounded(line) for line in lines]


def rounded(line: str) -> str:
    """Figures of a binary float to five digits, so that another machine's last digit is none of ours."""
    return re.sub(r"\d+\.\d{6,}(e-?\d+)?", lambda m: f"{float(m[0]):.5g}", line)


@pytest.mark.parametrize(("number", "preloads", "fault"), WALKS)
def test_walks_are_as_they_were(number, preloads, fault):
    assert not differing(walked(number, preloads, fault), kept(f"walk-{number}"))


@pytest.mark.parametrize("name", RANDOM)
def test_advice_is_as_it_was(name):
    assert not differing(asked(RANDOM[name]), kept(f"random-{name}"))


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        ("closes by 2.41", "closes by 2.42", True),
        ("closes by 2.41", "closes by 2.44", False),
        ("closes by 2.41", "opens by 2.41", False),
        ("96 % sure", "97 % sure", True),
        ("3 places", "30 places", False),
    ],
)
def test_only_the_last_place_of_a_figure_may_differ(one, other, same):
    assert alike(one, other) is same


def test_a_copy_of_a_state_is_judged_as_the_state_was():
    # What was worked out is kept with a state; a copy has none of it, and works it out once more.
    state = random_axle(random.Random(5).randrange(41_000, 41_180))
    assert list(words_of(next_move(replace(state)))) == list(words_of(next_move(state)))


def differing(now: list[str], before: list[str]) -> list[tuple[str, str]]:
    """Lines that differ by more than one in a figure's last place: another machine's rounding is no change."""
    return [(a, b) for a, b in zip_longest(now, before, fillvalue="") if not alike(a, b)]


def alike(one: str, other: str) -> bool:
    if one == other:
        return True
    figures = [re.findall(NUMBER, line) for line in (one, other)]
    if re.sub(NUMBER, "#", one) != re.sub(NUMBER, "#", other):
        return False
    return all(
        abs(float(a) - float(b)) <= 1.01 * 10 ** -min(len(n.partition(".")[2]) for n in (a, b))
        for a, b in zip(*figures, strict=True)
    )


def kept(name: str) -> list[str]:
    return (FOLDER / f"{name}.txt").read_text(encoding="utf-8").splitlines()


def written() -> Iterator[tuple[str, list[str]]]:
    for number, preloads, fault in WALKS:
        yield f"walk-{number}", walked(number, preloads, fault)
    for name, seeds in RANDOM.items():
        yield f"random-{name}", asked(seeds)


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, lines in written():
        (FOLDER / f"{name}.txt").write_text("\n".join(lines) + "\n", encoding="utf-8")
