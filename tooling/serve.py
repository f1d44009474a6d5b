"""`./start`: install, database, migrate, demo shop, serve; Ctrl-C stops all of it."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from tooling import backups
from tooling.environment import (
    ROOT,
    STATE,
    VENV,
    CommandFailed,
    dies_with_parent,
    free_port,
    install,
    port_is_free,
    print_status,
    state_folder,
    try_lock,
)
from tooling.installation import prepare_database, run_python, server_settings
from tooling.mariadb import MariaDB

DEFAULT_PORT = 8417
# A web server that ends sooner than this after its start, so many times in a row, is given up [s].
_TOO_SOON, _MOST_SOON = 5, 6
# So long after the start the first backup is made, if one is due [s].
_QUIET = 300


def main(arguments: list[str] | None = None) -> int:
    """Start everything and stay until Ctrl-C; with ``--empty`` without a demo shop."""
    _read(arguments or [])
    port = _port()
    state_folder()
    install(for_tests=False)
    running = try_lock("running")
    if running is None:
        return _already_running()
    if not _freed(port):
        raise CommandFailed(
            f"Port {port} on 127.0.0.1 is in use by another program. Choose another: "
            f"LASH_PORT={port + 1} ./start"
        )
    # Also SIGINT: a shell starts a job in the background with it ignored.
    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, _as_interrupt)
    database = MariaDB("shop", port=int(os.environ.get("LASH_DB_PORT", "0")))
    server = instruments = listener = None
    try:
        database.start()
        prepare_database(database)
        env = server_settings(database)
        server_env = {**os.environ, **env, "DJANGO_SETTINGS_MODULE": "shop.config.settings.loopback"}
        kept = backups.before_upgrade(database)
        if kept is not None:
            print_status(f"The tables change with this version; as they were: {kept}")
        if run_python("tooling.prepare", database):
            raise CommandFailed("“tooling.prepare” failed: what it said stands above.")
        instruments = _instruments(server_env)
        server = _gunicorn(port, server_env)
        listener = _listener(server_env)
        _wait_for(port, server)
        address = f"http://127.0.0.1:{port}"
        (STATE / "running.json").write_text(json.dumps({"address": address, "pid": os.getpid()}))
        print_status(f"\nLash is at {address}\n{_sign_in()}\nCtrl-C stops it.")
        soon = 0
        while True:
            soon = _next_try(soon, _watch(server, database, listener, server_env))
            server = _gunicorn(port, server_env)
    except KeyboardInterrupt:
        print_status("\nStopping …")
        return 0
    finally:
        for child in (server, instruments, *(listener or ())):
            if child and child.poll() is None:
                child.terminate()
                child.wait()
        database.stop()
        (STATE / "running.json").unlink(missing_ok=True)


def _read(arguments: list[str]) -> None:
    unknown = [argument for argument in arguments if argument != "--empty"]
    if unknown:
        raise CommandFailed(f"./start knows “--empty” alone, not “{unknown[0]}”.")
    if arguments:
        os.environ["LASH_EMPTY"] = "1"


def _port() -> int:
    text = os.environ.get("LASH_PORT", str(DEFAULT_PORT))
    if not text.isdigit() or not 1024 <= int(text) <= 65535:
        raise CommandFailed(f"LASH_PORT is “{text}”; a number from 1024 to 65535 is wanted.")
    return int(text)


def _already_running() -> int:
    for _ in range(100):
        try:
            known = json.loads((STATE / "running.json").read_text())
            print_status(
                f"Lash is already running at {known['address']} (pid {known['pid']}).\n{_sign_in()}"
            )
            return 0
        except (OSError, ValueError):
            time.sleep(0.2)
    print_status(
        "Another ./start of this project is still starting; its address will be in its own terminal."
    )
    return 0


def _instruments(env: dict[str, str]) -> subprocess.Popen | None:
    """Start the simulated instruments, unless LASH_INSTRUMENT names others or is "off"."""
    named = os.environ.get("LASH_INSTRUMENT", "")
    if named:
        env["LASH_INSTRUMENT"] = "" if named == "off" else named
        return None
    port = free_port()
    env["LASH_INSTRUMENT"] = f"127.0.0.1:{port}"
    return subprocess.Popen(
        [VENV / "bin" / "python", "-m", "instruments.simulated", str(port)],
        cwd=ROOT,
        env=env,
        preexec_fn=dies_with_parent,
        start_new_session=True,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


def _gunicorn(port: int, env: dict[str, str]) -> subprocess.Popen:
    log = (STATE / "server.log").open("a")
    return subprocess.Popen(
        [
            VENV / "bin" / "gunicorn",
            "shop.config.wsgi",
            "--bind",
            f"127.0.0.1:{port}",
            "--workers",
            "2",
            "--threads",
            "4",
            "--preload",
            "--timeout",
            "60",
            "--limit-request-line",
            "8190",
            "--access-logfile",
            "-",
            "--no-control-socket",
        ],
        cwd=ROOT,
        env=env,
        stdout=log,
        stderr=log,
        preexec_fn=dies_with_parent,
        start_new_session=True,
    )


def _listener(env: dict[str, str]) -> list[subprocess.Popen]:
    """The worker that listens to recordings, in a list: one that ended is replaced in it."""
    log = (STATE / "listener.log").open("a")
    return [
        subprocess.Popen(
            [VENV / "bin" / "python", "manage.py", "listen"],
            cwd=ROOT,
            env={**env, "OMP_NUM_THREADS": "1"},
            stdout=log,
            stderr=log,
            preexec_fn=dies_with_parent,
            start_new_session=True,
        )
    ]


def _wait_for(port: int, server: subprocess.Popen) -> None:
    for _ in range(200):
        if server.poll() is not None:
            raise CommandFailed(f"The web server did not start: see {STATE / 'server.log'}.")
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/healthy", timeout=2)
            return
        except urllib.error.HTTPError:
            return
        except OSError:
            time.sleep(0.1)
    raise CommandFailed(f"The web server did not answer within 20 s: see {STATE / 'server.log'}.")


def _watch(
    server: subprocess.Popen, database: MariaDB, listener: list[subprocess.Popen], env: dict[str, str]
) -> float:
    """Look after all of them until the web server ends; gives how long it ran."""
    began = heard = time.monotonic()
    while True:
        time.sleep(0.5)
        if listener[0].poll() is not None and time.monotonic() - heard > _TOO_SOON:
            heard = time.monotonic()
            listener[:] = _listener(env)
        if database.process and database.process.poll() is not None:
            print_status("The database ended; starting it again …")
            database.start()
        if server.poll() is not None:
            return time.monotonic() - began
        if time.monotonic() - began > _QUIET and backups.is_due():
            _nightly()


def _next_try(soon: int, ran: float) -> int:
    """Wait before the web server is started again; gives how many times in a row it ended at once.

    :raises CommandFailed: for one that ends at once, time and again: it does not come back by itself.
    """
    soon = soon + 1 if ran < _TOO_SOON else 0
    if soon > _MOST_SOON:
        raise CommandFailed(f"The web server ends at once: see {STATE / 'server.log'}.")
    print_status("The web server ended; starting it again …")
    time.sleep(soon)
    return soon


def _nightly() -> None:
    """Make the backup that is due; what goes wrong is said, and tried again in an hour."""
    try:
        print_status(f"Backup made: {backups.nightly(int(os.environ.get('LASH_BACKUP_DAYS', '14')))}")
    except (OSError, ValueError, SystemExit) as problem:
        print_status(f"No backup could be made: {problem}. ./lash check says more.")


def _freed(port: int) -> bool:
    """Whether the port can be had; a server whose ./start was killed lets go of it within seconds."""
    for _ in range(80):
        if port_is_free(port):
            return True
        if not (STATE / "running.json").exists():
            return False
        time.sleep(0.5)
    return False


def _sign_in() -> str:
    if os.environ.get("LASH_EMPTY"):
        return "Open it in a browser: the first page makes your shop."
    path = Path(ROOT / "demo" / "sign_in.txt")
    return path.read_text().strip() if path.exists() else ""


def _as_interrupt(*_: object) -> None:
    raise KeyboardInterrupt


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
