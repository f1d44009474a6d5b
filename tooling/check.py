"""`./test`: install, a database of its own, and every gate. Arguments go to pytest alone."""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from tooling.environment import ROOT, STATE, VENV, file_lock, install, print_status, secret
from tooling.mariadb import APP_RIGHTS, RELAXED, MariaDB

_PYTHON = str(VENV / "bin" / "python")
_SETTINGS = "DJANGO_SETTINGS_MODULE"
# What each test database was made of, by its name.
_MARKS = STATE / "test" / "made-of"
_FIRST, _SECOND = "lash", "lash_b"


def main(arguments: list[str]) -> int:
    """Run every gate, or only the tests that the arguments name; ``--all`` runs long tests whole."""
    install(for_tests=True)
    if "--all" in arguments:
        arguments = [argument for argument in arguments if argument != "--all"]
        os.environ["LASH_ALL"] = "1"
    with file_lock("test", "Another ./test of this project is running; waiting for it …"):
        database = MariaDB("test", options=RELAXED)
        try:
            database.start()
            password = secret("LASH_TEST_DB_PASSWORD")
            # Tests try what the server's own database user could do behind the program's back.
            users = {
                "lash_test": (password, "ALL ON `test\\_lash%`.*"),
                "lash_app": (password, f"{APP_RIGHTS} ON `test\\_lash%`.*"),
            }
            database.prepare("lash", users)
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
        "LASH_RECORD_KEY": "only-for-tests-too-0123456789",
        "LASH_DB_USER": "lash_test",
        "LASH_DB_PASSWORD": password,
        "LASH_DB_PORT": str(database.port),
        "LASH_DB_NAME": _FIRST,
    }


def _gates(env: dict[str, str], arguments: list[str]) -> int:
    pytest = [_PYTHON, "-m", "pytest"]
    # Playwright runs an event loop beside the tests' own database access.
    testing = {**env, "DJANGO_ALLOW_ASYNC_UNSAFE": "true"}
    if arguments:
        fresh = _fresh(_FIRST)
        code = subprocess.run([*pytest, *arguments, *fresh], cwd=ROOT, env=testing).returncode
        _mark(_FIRST)
        return code
    production = {**env, _SETTINGS: "shop.config.settings.production"}
    # The shop's tests have a database of their own, so that the browser's can empty theirs.
    other = {**testing, "LASH_DB_NAME": _SECOND}
    fresh, fresh_too = _fresh(_FIRST), _fresh(_SECOND)
    runs = [
        [
            (
                "browser tests",
                [*pytest, *fresh, "tests", "--ignore=tests/axle", "--ignore=tests/shop"],
                testing,
            )
        ],
        [("shop tests", [*pytest, *fresh_too, "tests/shop"], other)],
        # The core's tests ask for no database, and take what the others leave of both cores.
        *([(f"core tests, {part}", ["nice", *pytest, *paths], env)] for part, paths in _core_parts()),
        [
            ("lint", ["ruff", "check", "."], env),
            ("format", ["ruff", "format", "--check", "."], env),
            ("contracts", ["lint-imports"], env),
            ("templates", ["djlint", "shop", "--lint", "--quiet"], env),
            ("scripts", ["node", "node_modules/eslint/bin/eslint.js", "."], env),
            ("script tests", ["node", "--test", *_script_tests()], env),
            ("migrations", [_PYTHON, "manage.py", "makemigrations", "--check", "--dry-run"], env),
            (
                "deployment",
                [_PYTHON, "manage.py", "check", "--deploy", "--fail-level", "WARNING"],
                production,
            ),
            ("types", ["mypy", "axle", "shop", "demo"], env),
        ],
    ]
    # The longest first, three at a time on two cores: the browser's tests wait for half of their time.
    with ThreadPoolExecutor(3) as pool:
        failed = [name for names in pool.map(_run_all, runs) for name in names]
    _mark(_FIRST, _SECOND)
    print_status(f"FAILED: {', '.join(failed)}" if failed else "All gates passed.")
    return 1 if failed else 0


def _script_tests() -> list[str]:
    return sorted(str(path.relative_to(ROOT)) for path in (ROOT / "tests" / "scripts").glob("*.test.mjs"))


def _core_parts() -> tuple[tuple[str, list[str]], ...]:
    """The core's tests as two runs of about the same length."""
    files = sorted(str(path.relative_to(ROOT)) for path in (ROOT / "tests" / "axle").glob("test_*.py"))
    return ("one", files[::2]), ("two", ["axle", *files[1::2]])


def _made_of() -> str:
    """What the test database is made of: the demo shop, its sheets, the advice it follows, the tables."""
    parts = [
        *sorted([*ROOT.glob("demo/*.py"), *ROOT.glob("demo/jobs/*.toml")]),
        ROOT / "axle" / "spec" / "data" / "starter_specs.toml",
    ]
    parts += sorted(ROOT.glob("shop/*/migrations/0*.py"))
    # The demo's jobs do what the advice says: another advice makes other jobs.
    for room in ("decision", "stations", "state", "preload", "contact", "measure"):
        parts += sorted(ROOT.glob(f"axle/{room}/**/*.py"))
    return hashlib.sha256(b"".join(part.read_bytes() for part in parts)).hexdigest()


def _fresh(database: str) -> list[str]:
    """Make a test database anew when it is of another demo shop, or a run was killed half-way."""
    mark = _MARKS / database
    known = mark.read_text() if mark.is_file() else ""
    mark.unlink(missing_ok=True)
    return [] if known == _made_of() else ["--create-db"]


def _mark(*databases: str) -> None:
    if _MARKS.is_file():
        _MARKS.unlink()
    _MARKS.mkdir(parents=True, exist_ok=True)
    for database in databases:
        (_MARKS / database).write_text(_made_of())


def _run_all(gates: list[tuple[str, list[str], dict[str, str]]]) -> list[str]:
    failed = []
    for name, command, env in gates:
        began = time.monotonic()
        done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True)
        verdict = "passed" if done.returncode == 0 else "FAILED"
        print_status(f"{name} {verdict} in {time.monotonic() - began:.0f} s")
        if done.returncode:
            failed.append(name)
            print_status(done.stdout + done.stderr)
    return failed


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
