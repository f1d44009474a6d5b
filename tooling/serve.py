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
    python,
    secret,
    state_folder,
    try_lock,
)
from tooling.mariadb import APP_RIGHTS, OWNER_RIGHTS, MariaDB

DEFAULT_PORT = 8417
DATABASE = "lash"


def main() -> int:
    """Start everything and stay until Ctrl-C."""
    port = _port()
    state_folder()
    install(for_tests=False)
    running = try_lock("running")
    if running is None:
        return _already_running()
    if not port_is_free(port):
        raise CommandFailed(
            f"Port {port} on 127.0.0.1 is in use by another program. Choose another: "
            f"LASH_PORT={port + 1} ./start"
        )
    # Also SIGINT: a shell starts a job in the background with it ignored.
    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, _as_interrupt)
    database = MariaDB("shop", port=int(os.environ.get("LASH_DB_PORT", "0")))
    server = instruments = None
    try:
        database.start()
        env = _environment(database)
        server_env = {**os.environ, **env, "DJANGO_SETTINGS_MODULE": "shop.config.settings.loopback"}
        _prepare(env)
        instruments = _instruments(server_env)
        server = _gunicorn(port, server_env)
        _wait_for(port, server)
        address = f"http://127.0.0.1:{port}"
        (STATE / "running.json").write_text(json.dumps({"address": address, "pid": os.getpid()}))
        print_status(f"\nLash is at {address}\n{_sign_in()}\nCtrl-C stops it.")
        return _watch(server, database)
    except KeyboardInterrupt:
        print_status("\nStopping …")
        return 0
    finally:
        for child in (server, instruments):
            if child and child.poll() is None:
                child.terminate()
                child.wait()
        database.stop()
        (STATE / "running.json").unlink(missing_ok=True)


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


def _environment(database: MariaDB) -> dict[str, str]:
    """Two database users: the owner migrates, the server only reads and writes rows."""
    app, owner = secret("LASH_DB_PASSWORD"), secret("LASH_DB_OWNER_PASSWORD")
    database.prepare(
        DATABASE,
        {
            "lash": (app, f"{APP_RIGHTS} ON `{DATABASE}`.*"),
            "lash_owner": (owner, f"{OWNER_RIGHTS} ON `{DATABASE}`.*"),
        },
    )
    return {
        "LASH_SECRET_KEY": secret("LASH_SECRET_KEY"),
        "LASH_RECORD_KEY": secret("LASH_RECORD_KEY"),
        "LASH_DB_PASSWORD": app,
        "LASH_DB_PORT": str(database.port),
        "LASH_DB_NAME": DATABASE,
        "LASH_DB_USER": "lash",
        "LASH_STATIC_ROOT": str(STATE / "static"),
        "LASH_MEDIA_ROOT": str(STATE / "media"),
    }


def _prepare(env: dict[str, str]) -> None:
    owner = {**env, "LASH_DB_USER": "lash_owner", "LASH_DB_PASSWORD": secret("LASH_DB_OWNER_PASSWORD")}
    python("-m", "tooling.prepare", settings="loopback", **owner)


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


def _watch(server: subprocess.Popen, database: MariaDB) -> int:
    while True:
        time.sleep(0.5)
        if server.poll() is not None:
            raise CommandFailed(f"The web server ended: see {STATE / 'server.log'}.")
        if database.process and database.process.poll() is not None:
            print_status("The database ended; starting it again …")
            database.start()


def _sign_in() -> str:
    path = Path(ROOT / "demo" / "sign_in.txt")
    return path.read_text().strip() if path.exists() else ""


def _as_interrupt(*_: object) -> None:
    raise KeyboardInterrupt


if __name__ == "__main__":
    sys.exit(main())
