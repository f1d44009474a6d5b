"""Write down which test runs which line, or try mutants and say which of them no test notices."""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from importlib import machinery
from pathlib import Path

import coverage

from benchmarks.mutants.mutations import Mutant, count_of, mutant_at

ROOT = Path(__file__).resolve().parents[2]
STATE = ROOT / ".lash" / "mutants"
DECIDING = ("axle/decision", "axle/stations")
_LONGEST, _MOST_TESTS = 240, 60
# Walks that were frozen run nearly every line of the core, so they are asked last of every mutant.
_FROZEN = "tests/axle/test_frozen.py"
# What pytest comes back with: all passed, not even collected, nothing to run.
_RESULTS = {0: "survived", 4: "no such test", 5: "no test"}
# Simulated axles and their instruments are what tests are made with; the practice bench is not the core.
_LEFT_OUT = ("axle/simulator", "axle/practice", "axle/data_file.py", "axle/errors.py")


def cover() -> None:
    """Run the core's tests once, and keep which test function ran which line."""
    STATE.mkdir(parents=True, exist_ok=True)
    rc = STATE / "coveragerc"
    about = {"source": ROOT / "axle", "data_file": STATE / "coverage", "dynamic_context": "test_function"}
    rc.write_text("[run]\n" + "".join(f"{name} = {value}\n" for name, value in about.items()))
    subprocess.run(
        [
            sys.executable,
            "-m",
            "coverage",
            "run",
            f"--rcfile={rc}",
            "-m",
            "pytest",
            "-q",
            "-p",
            "no:cacheprovider",
            "tests/axle",
            # Walks that other tests stand in for: with a tracer they take minutes.
            "--deselect=tests/axle/test_closed_loop.py",
            "--deselect=tests/axle/test_simulated.py",
        ],
        cwd=ROOT,
        check=False,
    )
    data = coverage.CoverageData(str(STATE / "coverage"))
    data.read()
    lines = {
        str(Path(file).relative_to(ROOT)): {
            line: sorted(name for name in names if name)
            for line, names in data.contexts_by_lineno(file).items()
        }
        for file in data.measured_files()
    }
    (STATE / "lines.json").write_text(json.dumps(lines))


def sample(count: int, seed: int, only: tuple[str, ...] = ()) -> list[Mutant]:
    """A seeded sample of mutants, every place of the core as likely."""
    places = []
    for file in sorted((ROOT / "axle").rglob("*.py")):
        name = str(file.relative_to(ROOT))
        if name.startswith(_LEFT_OUT) or (only and not name.startswith(only)):
            continue
        places += [(file, index, number) for index, number in count_of(file)]
    chosen = random.Random(seed).sample(places, min(count, len(places)))
    return [mutant_at(file, ROOT, index, number) for file, index, number in chosen]


def run(count: int, seed: int, only: tuple[str, ...]) -> None:
    """Try mutants, two at a time; name those that no test notices."""
    lines = json.loads((STATE / "lines.json").read_text())
    results: list[tuple[Mutant, str]] = []
    with ThreadPoolExecutor(2) as pool:
        mutants = sample(count, seed, only)
        for mutant, result in zip(mutants, pool.map(lambda m: _try(m, lines), mutants), strict=True):
            results.append((mutant, result))
            if result != "killed":
                print(f"{result}: {mutant.path}:{mutant.line}: {mutant.words}", flush=True)
    for name, of in (("all", ()), ("deciding", DECIDING)):
        tally = Counter(result for mutant, result in results if mutant.path.startswith(of or ("axle",)))
        total = sum(tally.values())
        noticed = tally["killed"] + tally["too long"]
        print(f"{name}: {noticed} of {total} killed ({noticed / max(total, 1):.0%}) {dict(tally)}")


def _try(mutant: Mutant, lines: dict[str, dict[str, list[str]]]) -> str:
    """Run the tests of a mutant's line in a process of its own."""
    names = _tests_of(mutant, lines)
    work = json.dumps({"path": str(ROOT / mutant.path), "source": mutant.source, "tests": names})
    child = subprocess.Popen(
        [sys.executable, "-m", "benchmarks.mutants", "child"],
        cwd=ROOT,
        stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )
    try:
        child.communicate(work.encode(), timeout=_LONGEST)
    except subprocess.TimeoutExpired:
        os.killpg(child.pid, signal.SIGKILL)
        child.wait()
        return "too long"  # it runs on and on: a gate would notice
    return _RESULTS.get(child.returncode, "killed")


def _tests_of(mutant: Mutant, lines: dict[str, dict[str, list[str]]]) -> list[str]:
    """Doctests of the module, then the tests that run the line, those of few lines first."""
    by_line = lines.get(mutant.path, {})
    contexts = by_line.get(str(mutant.line), [])
    if not contexts:
        contexts = sorted({name for names in by_line.values() for name in names})
    weight = Counter(name for names in by_line.values() for name in names)
    contexts = [name for name in contexts if "frozen" not in name]
    ranked = sorted((name for name in contexts if not _is_walk(name)), key=lambda name: weight[name])
    last = sorted(name for name in contexts if _is_walk(name))
    return [mutant.path, *_addresses(ranked)[:_MOST_TESTS], *_addresses(last), _FROZEN]


def _addresses(names: list[str]) -> list[str]:
    """Test functions as pytest takes them, each once."""
    lines = []
    for name in names:
        module, _, function = name.rpartition(".")
        file = f"{module.replace('.', '/')}.py"
        if (ROOT / file).exists() and f"{file}::{function}" not in lines:
            lines.append(f"{file}::{function}")
    return lines


def _is_walk(name: str) -> bool:
    return any(
        word in name for word in ("closed_loop", "no_advice_crashes", "on_every_layout", "last_word")
    )


def child() -> None:
    """Import the changed module in place of its file, and run its tests."""
    work = json.loads(sys.stdin.read())
    plain = machinery.SourceFileLoader.get_code

    def changed(self, name):
        if self.path == work["path"]:
            return compile(work["source"], self.path, "exec")
        return plain(self, name)

    machinery.SourceFileLoader.get_code = changed  # type: ignore[method-assign]
    import pytest

    sys.exit(
        pytest.main(["-x", "-q", "--assert=plain", "-p", "no:cacheprovider", "--no-header", *work["tests"]])
    )


if __name__ == "__main__":
    began = time.monotonic()
    what, *arguments = sys.argv[1:]
    if what == "cover":
        cover()
    elif what == "run":
        run(int(arguments[0]), int(arguments[1]), tuple(arguments[2:]))
    else:
        child()
    if what != "child":
        print(f"{(time.monotonic() - began) / 60:.1f} min")
