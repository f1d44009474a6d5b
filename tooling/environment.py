"""What both commands stand on: where things lie, what must be installed, and locks.

Locks are kernel locks on open files: a killed process lets go of them by itself, so there is no
stale lock to clear.
"""

from __future__ import annotations

import ctypes
import fcntl
import hashlib
import json
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import sysconfig
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
STATE = Path(os.environ.get("LASH_STATE", ROOT / ".lash"))
VENV = ROOT / ".venv"
REQUIREMENTS = ROOT / "requirements.txt"

# What each Debian package is for, and how to tell that it is there without asking dpkg, so that a
# machine that has the thing by another road is not asked for the package.
PACKAGES = {
    "mariadb-server-core": lambda: _program("mariadbd", "/usr/sbin"),
    "mariadb-client": lambda: _program("mariadb"),
    "libmariadb-dev": lambda: _program("mariadb_config"),
    "pkg-config": lambda: _program("pkg-config"),
    "gcc": lambda: _program("gcc") or _program("cc"),
    "libc6-dev": lambda: Path("/usr/include/stdlib.h").exists(),
    "libpango-1.0-0": lambda: _library("libpango-1.0.so.0"),
    "libpangoft2-1.0-0": lambda: _library("libpangoft2-1.0.so.0"),
    "libharfbuzz-subset0": lambda: _library("libharfbuzz-subset.so.0"),
    "python3-dev": lambda: Path(sysconfig.get_path("include"), "Python.h").exists(),
    "python3-venv": lambda: _module("ensurepip"),
}
TEST_PACKAGES = {
    "chromium": lambda: _program("chromium"),
    "poppler-utils": lambda: _program("pdftoppm"),
}


# Compiled modules make every start quicker by seconds; a machine that forbids them by this variable
# means its own programs, and .venv and this project are ours.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)


class CommandFailed(SystemExit):
    """Something that stops a command, said in words; exits with 1."""

    def __init__(self, words: str) -> None:
        print(f"\n{words}", file=sys.stderr)
        super().__init__(1)


def print_status(words: str) -> None:
    """Tell the person at the terminal what is being done."""
    print(words, flush=True)


def state_folder() -> Path:
    """Make the folder for data, secrets and logs, or say why it cannot be made."""
    try:
        STATE.mkdir(mode=0o700, parents=True, exist_ok=True)
        (STATE / ".writable").touch()
    except OSError as error:
        raise CommandFailed(
            f"{STATE} cannot be written ({error.strerror}). Run as the user who owns it, or set "
            "LASH_STATE to a folder of your own."
        ) from None
    return STATE


@contextmanager
def file_lock(name: str, waiting: str = "") -> Iterator[None]:
    """Hold a lock; wait for whoever holds it, after saying so once."""
    with (state_folder() / f"{name}.lock").open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            print_status(waiting or f"Waiting for another {name} to finish …")
            fcntl.flock(file, fcntl.LOCK_EX)
        yield


def try_lock(name: str) -> object | None:
    """Take a lock for as long as the process lives, or return nothing when it is taken."""
    file = (state_folder() / f"{name}.lock").open("a+")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        file.close()
        return None
    return file


def install(*, for_tests: bool) -> None:
    """Install what is missing; do nothing, quickly, when nothing is."""
    if sys.version_info[:2] != (3, 11):
        raise CommandFailed(f"Lash runs on Python 3.11; this is {sys.version.split()[0]}.")
    with file_lock("install", "Another set-up is running; waiting for it …"):
        _debian(PACKAGES | (TEST_PACKAGES if for_tests else {}))
        _python()
        if for_tests:
            _scripts()


def _debian(packages: dict) -> None:
    missing = [name for name, there in packages.items() if not there()]
    if not missing:
        return
    command = f"apt-get install -y --no-install-recommends {' '.join(missing)}"
    if os.geteuid() != 0:
        raise CommandFailed(
            "These Debian packages are missing and only root can install them:\n"
            f"  {' '.join(missing)}\nAsk for:\n  sudo {command}\nand run the command again."
        )
    print_status(f"Installing Debian packages: {' '.join(missing)}")
    quiet = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    log = state_folder() / "debian.log"
    with log.open("w") as out:
        for step in ("apt-get update", command):
            done = subprocess.run(step.split(), env=quiet, stdout=out, stderr=subprocess.STDOUT)
    still = [name for name, there in packages.items() if not there()]
    if done.returncode or still:
        raise CommandFailed(
            f"Could not install {' '.join(still or missing)}: see {log}. Is a package mirror reachable?"
        )


def _python() -> None:
    wanted = hashlib.sha256(REQUIREMENTS.read_bytes()).hexdigest()
    stamp = VENV / "lash-installed"
    if stamp.exists() and stamp.read_text() == wanted:
        return
    print_status("Installing Python packages into .venv (once) …")
    stamp.unlink(missing_ok=True)
    if not (VENV / "bin" / "python").exists():
        subprocess.run([sys.executable, "-m", "venv", str(VENV)], check=True)
    log = state_folder() / "python.log"
    with log.open("w") as out:
        done = subprocess.run(
            [
                VENV / "bin" / "python",
                "-m",
                "pip",
                "install",
                "--require-hashes",
                "--no-input",
                "--disable-pip-version-check",
                "-r",
                str(REQUIREMENTS),
            ],
            stdout=out,
            stderr=subprocess.STDOUT,
        )
    if done.returncode:
        raise CommandFailed(f"Could not install the Python packages: see {log}.")
    stamp.write_text(wanted)


def _scripts() -> None:
    """What checks the scripts: eslint, by the npm that came with the Python packages."""
    lock = ROOT / "package-lock.json"
    wanted = hashlib.sha256(lock.read_bytes()).hexdigest()
    stamp = ROOT / "node_modules" / "lash-installed"
    if stamp.exists() and stamp.read_text() == wanted:
        return
    print_status("Installing what checks the scripts into node_modules (once) …")
    log = state_folder() / "npm.log"
    path = f"{VENV / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}"
    with log.open("w") as out:
        done = subprocess.run(
            ["npm", "ci", "--ignore-scripts", "--no-audit", "--no-fund"],
            cwd=ROOT,
            env={**os.environ, "PATH": path},
            stdout=out,
            stderr=subprocess.STDOUT,
        )
    if done.returncode:
        raise CommandFailed(f"Could not install what checks the scripts: see {log}.")
    stamp.write_text(wanted)


def secret(name: str) -> str:
    """A secret from the environment, or from the generated file, made at first use."""
    if os.environ.get(name):
        return os.environ[name]
    path = state_folder() / "secrets.json"
    with file_lock("secrets"):
        known = json.loads(path.read_text()) if path.exists() else {}
        if name not in known:
            known[name] = secrets.token_urlsafe(48)
            part = path.with_suffix(".part")
            part.touch(mode=0o600)
            part.write_text(json.dumps(known, indent=1))
            part.replace(path)
    return known[name]


def keep_secret(name: str, value: str) -> None:
    """Put a secret that comes from elsewhere, as a backup's, into the generated file."""
    path = state_folder() / "secrets.json"
    with file_lock("secrets"):
        known = json.loads(path.read_text()) if path.exists() else {}
        known[name] = value
        part = path.with_suffix(".part")
        part.touch(mode=0o600)
        part.write_text(json.dumps(known, indent=1))
        part.replace(path)


def free_port() -> int:
    """A TCP port on loopback that nobody listens on now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def port_is_free(port: int) -> bool:
    """Say whether a port on loopback can be listened on."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def dies_with_parent() -> None:
    """Run in a child before exec: end it when its parent is killed, even by kill -9."""
    pr_set_pdeathsig = 1
    ctypes.CDLL(None).prctl(pr_set_pdeathsig, signal.SIGTERM)


def _program(name: str, *folders: str) -> bool:
    path = os.pathsep.join([os.environ.get("PATH", ""), *folders])
    return shutil.which(name, path=path) is not None


def _library(name: str) -> bool:
    try:
        ctypes.CDLL(name)
    except OSError:
        return False
    return True


def _module(name: str) -> bool:
    import importlib.util

    return importlib.util.find_spec(name) is not None
