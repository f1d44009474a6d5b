"""One installation: its database, the settings of its server, and its own programs."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager

from tooling.environment import (
    ROOT,
    STATE,
    VENV,
    CommandFailed,
    secret,
    try_lock,
)
from tooling.mariadb import APP_RIGHTS, OWNER_RIGHTS, MariaDB

DATABASE = "lash"


@contextmanager
def at_database() -> Iterator[MariaDB]:
    """The installation's database: the one that runs, or started for as long as it is needed."""
    database = MariaDB("shop")
    if database.answers():
        database.port = int(database.query("SELECT @@port").strip())
        yield database
        return
    if not (database.data / "mysql").exists():
        raise CommandFailed("There is no database here yet: ./start makes one, or ./lash restore FILE.")
    lock = try_lock("running")
    if lock is None:
        raise CommandFailed("Lash is just starting: try again in a moment.")
    try:
        database.start()
        yield database
    finally:
        database.stop()


def prepare_database(database: MariaDB) -> None:
    """Make the database and its two users: the owner migrates, the server only reads and writes rows."""
    app, owner = secret("LASH_DB_PASSWORD"), secret("LASH_DB_OWNER_PASSWORD")
    database.prepare(
        DATABASE,
        {
            "lash": (app, f"{APP_RIGHTS} ON `{DATABASE}`.*"),
            "lash_owner": (owner, f"{OWNER_RIGHTS} ON `{DATABASE}`.*"),
        },
    )


def server_settings(database: MariaDB) -> dict[str, str]:
    """What the server needs to know, beside what the environment says."""
    return {
        "LASH_SECRET_KEY": secret("LASH_SECRET_KEY"),
        "LASH_RECORD_KEY": secret("LASH_RECORD_KEY"),
        "LASH_DB_PASSWORD": secret("LASH_DB_PASSWORD"),
        "LASH_DB_PORT": str(database.port),
        "LASH_DB_NAME": DATABASE,
        "LASH_DB_USER": "lash",
        "LASH_STATIC_ROOT": str(STATE / "static"),
        "LASH_MEDIA_ROOT": str(STATE / "media"),
    }


def owner_settings(database: MariaDB) -> dict[str, str]:
    """The same for whoever changes tables."""
    return server_settings(database) | {
        "LASH_DB_USER": "lash_owner",
        "LASH_DB_PASSWORD": secret("LASH_DB_OWNER_PASSWORD"),
    }


def run_python(module: str, database: MariaDB, *arguments: str) -> int:
    """Run one of the installation's programs with the owner's rights; its exit code."""
    env = {**os.environ, "DJANGO_SETTINGS_MODULE": "shop.config.settings.loopback"}
    command = [VENV / "bin" / "python", "-m", module, *arguments]
    return subprocess.run(command, cwd=ROOT, env=env | owner_settings(database)).returncode
