"""Follow the advice over simulated axles, and write down every move with its words."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from axle.decision.move import Move
from axle.simulator.fault import Fault
from axle.state.axle_state import AxleState
from benchmarks.closed_loop import lash_follower
from benchmarks.closed_loop.shop import LAYOUTS, case

_SEEDS = range(500, 532)


def write_loops(folder: Path) -> None:
    """One file for each axle: seeds 500 to 531 with and without preloads, and every layout once."""
    folder.mkdir(parents=True, exist_ok=True)
    jobs = [
        (f"seed-{n}-{'both' if preloads else 'alone'}", n, preloads)
        for n in _SEEDS
        for preloads in (False, True)
    ]
    jobs += [(f"layout-{n:02}", n, True) for n in range(len(LAYOUTS))]
    with ProcessPoolExecutor(2) as pool:
        for (name, _, _), lines in zip(jobs, pool.map(_followed, jobs, chunksize=4), strict=True):
            (folder / f"{name}.txt").write_text("\n".join(lines) + "\n", encoding="utf-8")


def _followed(job: tuple[str, int, bool]) -> list[str]:
    _, number, preloads = job
    return follow(number, preloads=preloads)


def follow(
    number: int,
    *,
    preloads: bool,
    fault: Fault | None = None,
    beside: Callable[[AxleState], Iterable[str]] | None = None,
) -> list[str]:
    """Every move of the advice on one simulated axle, with its words, and what came of it.

    :param beside: what else is written down of each state, before its move.
    """
    lines: list[str] = []
    advise = lash_follower.next_move

    def written(state: AxleState, *args: Any, **kwargs: Any) -> Move:
        if beside is not None:
            lines.extend(beside(state))
        move = advise(state, *args, **kwargs)
        lines.extend(words_of(move))
        return move

    lash_follower.next_move = written
    try:
        out = lash_follower.build(case(number, preloads=preloads, fault=fault))
    finally:
        lash_follower.next_move = advise
    lines.append(
        f"builds {out.builds}, pinions {out.pinions}, carriers {out.carriers}, "
        f"readings {out.readings}, done {out.done}, right {out.right}, wrong {list(out.wrong)}"
    )
    lines += [f"chance {chance:.9f} held {held}" for chance, held in out.moves]
    return lines


def words_of(move: Move) -> Iterator[str]:
    """A move line by line: what it does, what it expects, how sure it is, and why."""
    yield f"{move.act.value} | {move.station} | {move.title}"
    for swap in move.swaps:
        yield f"  swap {swap.place.value} {swap.before} to {swap.after}"
    for expected in move.expected:
        yield f"  expected {expected.label} {expected.low:.9f} to {expected.high:.9f}"
    asks = [(str(kind), place) for kind, place in move.asks]
    yield f"  asks {asks} again {move.again} turn {move.amount:.6f}"
    yield f"  chance {move.probability if move.probability is None else round(move.probability, 9)}"
    for words in (*move.why, *move.notes, move.runner_up, *move.faults, *move.stales):
        yield f"  {words}"
