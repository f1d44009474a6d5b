"""What is wrong with an installation, in words."""

from __future__ import annotations

import contextlib
import io
import json
import shutil
import urllib.request
from collections.abc import Callable
from datetime import UTC, datetime

from tooling import backups
from tooling.environment import PACKAGES, STATE, VENV, CommandFailed
from tooling.installation import DATABASE, at_database, run_python
from tooling.mariadb import MariaDB

_LEAST_FREE = 2 * 1024**3
_OLD_BACKUP_DAYS = 2


def check_installation() -> list[str]:
    """Every line begins with ✓ where it is well, or ▲ and what to do."""
    lines = [_folder(), *_secrets(), _packages(), _space(), _backup()]
    try:
        with contextlib.redirect_stderr(io.StringIO()), at_database() as database:
            lines += [_tables(database), *_people(database), _server()]
            lines.append(_said("Records and pictures hold", lambda: run_python("tooling.verify", database)))
    except CommandFailed:
        lines.append("▲ The database does not start: see its log in the state folder, or restore.")
    return lines


def _said(good: str, probe: Callable[[], int], bad: str = "") -> str:
    return f"▲ {bad or good + ': no, see above'}." if probe() else f"✓ {good}."


def _folder() -> str:
    mode = STATE.stat().st_mode & 0o077
    if mode:
        return f"▲ Others can look into {STATE}: chmod 700 {STATE}."
    return "✓ The state folder is its owner's alone."


def _secrets() -> list[str]:
    path = STATE / "secrets.json"
    if not path.exists():
        return ["▲ There are no secrets yet: ./start makes them."]
    try:
        known = json.loads(path.read_text())
    except ValueError:
        return [f"▲ {path} cannot be read: bring it back, or restore a backup."]
    if path.stat().st_mode & 0o077:
        return [f"▲ Others can read {path}: chmod 600 {path}."]
    if "LASH_RECORD_KEY" not in known:
        return ["▲ The key of the records is gone: without its backup no record can be checked."]
    return ["✓ The secrets are there, and their owner's alone."]


def _packages() -> str:
    missing = [name for name, there in PACKAGES.items() if not there()]
    if missing or not (VENV / "lash-installed").exists():
        return f"▲ Packages are missing ({', '.join(missing) or 'Python packages'}): ./start installs them."
    return "✓ Every package is there."


def _space() -> str:
    free = shutil.disk_usage(STATE).free
    if free < _LEAST_FREE:
        return f"▲ Only {free / 1e9:.1f} GB are free: make room before the database stops."
    return f"✓ {free / 1e9:.0f} GB are free."


def _backup() -> str:
    made = backups.newest()
    if made is None:
        return "▲ No backup is there yet: ./lash backup FILE."
    days = (datetime.now(UTC) - datetime.fromtimestamp(made, UTC)).days
    if days >= _OLD_BACKUP_DAYS:
        return f"▲ The newest backup is {days} days old. Does Lash run every day? ./lash backup FILE."
    return f"✓ The newest nightly backup is {days} days old."


def _tables(database: MariaDB) -> str:
    return _said(
        "The tables are those of this program",
        lambda: run_python("tooling.pending", database),
        "The tables are behind the program: ./start brings them up to date, after a backup",
    )


def _people(database: MariaDB) -> list[str]:
    owned = f"SELECT shop_id FROM `{DATABASE}`.people_user WHERE role = 'owner' AND is_active"
    owners = database.query(
        f"SELECT name FROM `{DATABASE}`.people_shop WHERE removed_at IS NULL "
        f"AND id NOT IN ({owned} AND shop_id IS NOT NULL)"
    ).strip()
    if owners:
        return [f"▲ No owner can sign in to: {', '.join(owners.splitlines())}."]
    return ["✓ Every shop has an owner who can sign in."]


def _server() -> str:
    try:
        address = json.loads((STATE / "running.json").read_text())["address"]
    except (OSError, ValueError):
        return "✓ Lash is not running, so nothing answers."
    try:
        urllib.request.urlopen(f"{address}/healthy", timeout=5)
    except OSError:
        return f"▲ Lash should run at {address} and does not answer: stop it, and ./start."
    return f"✓ Lash answers at {address}."
