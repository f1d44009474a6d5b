"""Tables of the closed loop from the rows of its runs, with intervals by bootstrap over axles."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path
from statistics import median

import numpy as np

from benchmarks.closed_loop.rows import Row, rows_of

_SAMPLES = 2000
_BANDS = ((0.0, 0.5), (0.5, 0.7), (0.7, 0.85), (0.85, 0.95), (0.95, 1.01))
_BUILDERS = {"lash": "Lash", "told": "told everything", "thumb": "rules of thumb"}


def share(rows: Sequence[Row], came: Callable[[Row], bool]) -> str:
    """A share with its 95 % interval by bootstrap over axles."""
    if not rows:
        return "–"
    found = np.array([came(row) for row in rows], dtype=float)
    drawn = np.random.default_rng(1).choice(found, (_SAMPLES, len(found))).mean(axis=1)
    low, high = np.quantile(drawn, (0.025, 0.975))
    return f"{100 * found.mean():.1f} ({100 * low:.0f}–{100 * high:.0f})"


def world_table(folder: Path, worlds: Sequence[str]) -> str:
    """Right at the second and the third assembly, falsely done and stopped, by world and builder."""
    lines = [
        "| world | builder | axles | 2nd, gauge | 2nd, none | at the 3rd | called done, not in range | "
        "said of those | stops |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    for world in worlds:
        for builder, title in _BUILDERS.items():
            rows = list(rows_of(folder / f"{world.replace(' ', '_')}-{builder}.jsonl"))
            if not rows:
                continue
            done = [row for row in rows if row.done]
            said = sum(1 - row.signed for row in done) / max(len(done), 1)
            lines.append(
                f"| {world} | {title} | {len(rows)} | {share([r for r in rows if r.gauge], _second)} | "
                f"{share([r for r in rows if not r.gauge], _second)} | "
                f"{share(rows, lambda r: r.right_at(3))} | "
                f"{share(done, lambda r: not r.right)} | "
                f"{f'{100 * said:.1f}' if builder != 'thumb' else ''} | "
                f"{share(rows, lambda r: not r.done)} |"
            )
    return "\n".join(lines)


def _second(row: Row) -> bool:
    return row.right_at(2)


def cells(folder: Path, worlds: Sequence[str], of: Callable[[Row], str]) -> str:
    """Right at the second assembly by a part of the axle or of the job."""
    lines = [
        "| world | of | axles | right at the 2nd | called done, not in range |",
        "|---|---|---|---|---|",
    ]
    for world in worlds:
        rows = list(rows_of(folder / f"{world.replace(' ', '_')}-lash.jsonl"))
        for name in sorted({of(row) for row in rows}):
            mine = [row for row in rows if of(row) == name]
            done = [row for row in mine if row.done]
            lines.append(
                f"| {world} | {name} | {len(mine)} | {share(mine, _second)} | "
                f"{share(done, lambda r: not r.right)} |"
            )
    return "\n".join(lines)


def band_table(folder: Path, worlds: Sequence[str]) -> str:
    """What was said of moves against what came, in five bands; slope of a logistic line through all."""
    lines = ["| world | said | moves | mean said | came in |", "|---|---|---|---|---|"]
    for world in worlds:
        moves = [m for row in rows_of(folder / f"{world.replace(' ', '_')}-lash.jsonl") for m in row.moves]
        for low, high in _BANDS:
            mine = [(said, came) for said, came in moves if low <= said < high]
            if mine:
                said, came = (sum(x) / len(mine) for x in zip(*mine, strict=True))
                lines.append(
                    f"| {world} | {low:.0%} to {min(high, 1):.0%} | {len(mine)} | {100 * said:.1f} | "
                    f"{100 * came:.1f} |"
                )
        if moves:
            lines.append(f"| {world} | all, slope {slope(moves):.2f} | {len(moves)} | | |")
    return "\n".join(lines)


def slope(moves: Sequence[tuple[float, bool]]) -> float:
    """Calibration slope: logistic regression of what came on the logit of what was said."""
    said = np.clip(np.array([m[0] for m in moves]), 0.01, 0.99)
    x = np.column_stack([np.ones(len(said)), np.log(said / (1 - said))])
    y, beta = np.array([float(m[1]) for m in moves]), np.array([0.0, 1.0])
    for _ in range(30):
        p = 1 / (1 + np.exp(-x @ beta))
        beta = beta + np.linalg.solve(x.T @ (x * (p * (1 - p))[:, None]) + 1e-9 * np.eye(2), x.T @ (y - p))
    return float(beta[1])


def fault_table(folder: Path, worlds: Sequence[str]) -> str:
    """Planted faults that were named, or stopped the work, before the third assembly."""
    lines = ["| world | fault | axles | named or stopped before the third |", "|---|---|---|---|"]
    for world in worlds:
        rows = [r for r in rows_of(folder / f"{world.replace(' ', '_')}-faults.jsonl") if r.planted]
        for fault in ("", *sorted({row.fault for row in rows})):
            mine = [row for row in rows if fault in ("", row.fault)]
            if mine:
                lines.append(f"| {world} | {fault or 'all'} | {len(mine)} | {share(mine, _found)} |")
    return "\n".join(lines)


def _found(row: Row) -> bool:
    named = any(key == row.fault and build < 3 for key, build in row.named)
    return named or (row.stopped and row.builds < 3)


def effort(folder: Path, worlds: Sequence[str]) -> str:
    """What the work took: readings, assemblies of pinion and carrier, and the advice's own time."""
    lines = [
        "| world | builder | readings, median | pinions, mean | carriers, mean | impossible | advice p95, "
        "largest [ms] |",
        "|---|---|---|---|---|---|---|",
    ]
    for world in worlds:
        for builder, title in _BUILDERS.items():
            rows = list(rows_of(folder / f"{world.replace(' ', '_')}-{builder}.jsonl"))
            if not rows:
                continue
            times = sorted(t for row in rows for t in row.times) or [math.nan]
            p95, most = times[int(0.95 * (len(times) - 1))], times[-1]
            lines.append(
                f"| {world} | {title} | {median(r.readings for r in rows):.0f} | "
                f"{sum(r.pinions for r in rows) / len(rows):.1f} | "
                f"{sum(r.carriers for r in rows) / len(rows):.1f} | "
                f"{sum(r.impossible for r in rows)} | {1000 * p95:.0f}, {1000 * most:.0f} |"
            )
    return "\n".join(lines)


def measured(folder: Path, worlds: Sequence[str]) -> str:
    """The figures that the program shows, as its data file has them."""
    lines = [
        "# What the closed loop measured on simulated axles, by world: written by",
        "# ``python -m benchmarks.closed_loop tables``.",
    ]
    for world in worlds:
        rows = list(rows_of(folder / f"{world.replace(' ', '_')}-lash.jsonl"))
        if not rows:
            continue
        done = [row for row in rows if row.done]
        second, third = (sum(r.right_at(n) for r in rows) / len(rows) for n in (2, 3))
        lines += [
            "",
            f"[{world.replace(' ', '_')}]",
            f'title = "{world.replace("_", " ")}"',
            f"axles = {len(rows)}",
            f"second = {second:.3f}",
            f"third = {third:.3f}",
            f"falsely = {sum(not r.right for r in done) / max(len(done), 1):.3f}",
            f"stops = {sum(not r.done for r in rows) / len(rows):.3f}",
        ]
    return "\n".join(lines) + "\n"
