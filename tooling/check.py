"""`./test`: install, a database of its own, and every gate. Arguments go to pytest alone."""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from tooling.ground import ROOT, STATE, VENV, alone, install, say, secret
from tooling.mariadb import RELAXED, MariaDB

_PYTHON = str(VENV / "bin" / "python")
_SETTINGS = "DJANGO_SETTINGS_MODULE"
_MARK = STATE / "test" / "made-of"


def main(arguments: list[str]) -> int:
    """Run every gate, or only the tests that the arguments name."""
    install(for_tests=True)
    with alone("test", "Another ./test of this project is running; waiting for it …"):
        database = MariaDB("test", options=RELAXED)
        try:
            database.start()
            password = secret("LASH_TEST_DB_PASSWORD")
            database.prepare("lash", {"lash_test": (password, "ALL ON `test\\_lash%`.*")})
            return _gates(_environment(database, password), arguments)
        except KeyboardInterrupt:
            return 130
        finally:
            database.stop()


def _environment(database: MariaDB, password: str) -> dict[str, str]:
    return {
        **os.environ,
        "PATH": f"{VENV / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}",
        _SETTINGS: "shop.config.settings.test",
        "LASH_SECRET_KEY": "only-for-tests-and-long-enough-to-pass-the-deployment-check-0123456789",
        "LASH_DB_USER": "lash_test",
        "LASH_DB_PASSWORD": password,
        "LASH_DB_PORT": str(database.port),
        "LASH_DB_NAME": "lash",
    }


def _gates(env: dict[str, str], arguments: list[str]) -> int:
    fresh = _fresh()
    pytest = [_PYTHON, "-m", "pytest", *arguments, *fresh]
    # Playwright runs an event loop beside the tests' own database access.
    testing = {**env, "DJANGO_ALLOW_ASYNC_UNSAFE": "true"}
    if arguments:
        code = subprocess.run(pytest, cwd=ROOT, env=testing).returncode
        _MARK.write_text(_made_of())
        return code
    production = {**env, _SETTINGS: "shop.config.settings.production"}
    gates = [
        ("lint", ["ruff", "check", "."], env),
        ("format", ["ruff", "format", "--check", "."], env),
        ("contracts", ["lint-imports"], env),
        ("templates", ["djlint", "shop", "--lint", "--quiet"], env),
        ("migrations", [_PYTHON, "manage.py", "makemigrations", "--check", "--dry-run"], env),
        ("deployment", [_PYTHON, "manage.py", "check", "--deploy", "--fail-level", "WARNING"], production),
        ("types", ["mypy", "axle", "shop", "demo"], env),
        # The core's tests ask for no database: they run beside the others.
        ("core tests", [_PYTHON, "-m", "pytest", "axle", "tests/axle"], env),
        # The shop's have a database of their own, so that the browser's can empty theirs.
        (
            "shop tests",
            [_PYTHON, "-m", "pytest", "tests/shop", *fresh],
            {**testing, "LASH_DB_NAME": "lash_b"},
        ),
    ]
    pytest += ["tests", "--ignore=tests/axle", "--ignore=tests/shop"]
    # The first gates run beside the last: two cores, and its tests mostly wait for a browser.
    with ThreadPoolExecutor(1) as beside:
        waiting = beside.submit(_run_all, gates)
        began = time.monotonic()
        tests = subprocess.run(pytest, cwd=ROOT, env=testing).returncode
        _MARK.write_text(_made_of())
        say(f"tests {'passed' if tests == 0 else 'FAILED'} in {time.monotonic() - began:.0f} s")
        failed = waiting.result()
    if tests:
        failed.append("tests")
    say(f"FAILED: {', '.join(failed)}" if failed else "All gates passed.")
    return 1 if failed else 0


def _made_of() -> str:
    """What the test database is made of: the demo shop, its sheets, and the tables."""
    parts = [ROOT / "demo" / "load.py", ROOT / "axle" / "starter_specs.toml"]
    parts += sorted(ROOT.glob("shop/*/migrations/0*.py"))
    return hashlib.sha256(b"".join(part.read_bytes() for part in parts)).hexdigest()


def _fresh() -> list[str]:
    """Make the test database anew when it is of another demo shop, or a run was killed half-way."""
    known = _MARK.read_text() if _MARK.exists() else ""
    _MARK.unlink(missing_ok=True)
    return [] if known == _made_of() else ["--create-db"]


def _run_all(gates: list[tuple[str, list[str], dict[str, str]]]) -> list[str]:
    failed = []
    for name, command, env in gates:
        began = time.monotonic()
        done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True)
        verdict = "passed" if done.returncode == 0 else "FAILED"
        say(f"{name} {verdict} in {time.monotonic() - began:.0f} s")
        if done.returncode:
            failed.append(name)
            say(done.stdout + done.stderr)
    return failed


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
