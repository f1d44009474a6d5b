"""Backups: one file with the database, the pictures and the key of the records."""

from __future__ import annotations

import json
import os
import shutil
import tarfile
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from tooling.environment import STATE, CommandFailed, file_lock, keep_secret, secret, try_lock
from tooling.installation import DATABASE, at_database, prepare_database, run_python
from tooling.mariadb import MariaDB

FOLDER = STATE / "backups"
_FORMAT = "lash-backup/1"
_DAY = 24 * 3600
# A backup that failed is tried again after so long [s].
_AGAIN = 3600


def make_backup(file: Path) -> int:
    """Write a backup while people work; gives its size.

    The database is read as it is at one moment. Pictures are never changed or removed, and are kept before
    their rows are: every row of that moment has its picture when the pictures are read after it.
    """
    file.parent.mkdir(parents=True, exist_ok=True)
    part = file.with_name(f"{file.name}.part")
    with at_database() as database, file_lock("backup"), tempfile.TemporaryDirectory(dir=STATE) as folder:
        sql = Path(folder) / "database.sql"
        database.dump(DATABASE, sql)
        about = {"format": _FORMAT, "made_at": datetime.now(UTC).isoformat(timespec="seconds")}
        (Path(folder) / "about.json").write_text(json.dumps(about, indent=1))
        (Path(folder) / "record.key").write_text(secret("LASH_RECORD_KEY"))
        os.close(os.open(part, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600))
        with tarfile.open(part, "w:gz", compresslevel=5) as pack:
            for name in ("about.json", "record.key", "database.sql"):
                pack.add(Path(folder) / name, name)
            media = STATE / "media"
            if media.is_dir():
                pack.add(media, "media")
        part.replace(file)
        size = file.stat().st_size
        database.query(
            f"INSERT INTO `{DATABASE}`.people_backupmade (at, name, size) "
            f"VALUES (UTC_TIMESTAMP(6), '{_plain(file.name)}', {size})"
        )
    return size


def _plain(name: str) -> str:
    return "".join(c for c in name if c.isalnum() or c in "-_. ")[:200]


def restore_backup(file: Path) -> str:
    """Bring a backup back into an empty place; says what was in it.

    :raises CommandFailed: where there are shops already, or the file is no backup.
    """
    lock = try_lock("running")
    if lock is None:
        raise CommandFailed("Lash is running here: stop it first, with Ctrl-C.")
    with tempfile.TemporaryDirectory(dir=STATE) as folder:
        about = _unpacked(file, Path(folder))
        database = MariaDB("shop")
        database.start()
        try:
            prepare_database(database)
            _must_be_empty(database)
            keep_secret("LASH_RECORD_KEY", (Path(folder) / "record.key").read_text())
            database.load(DATABASE, Path(folder) / "database.sql")
            media = Path(folder) / "media"
            if media.is_dir():
                shutil.copytree(media, STATE / "media", dirs_exist_ok=True)
            if run_python("tooling.prepare", database):
                raise CommandFailed("The tables could not be brought up to date: see above.")
        finally:
            database.stop()
    return f"Restored: the backup of {about['made_at']}."


def _unpacked(file: Path, folder: Path) -> dict[str, str]:
    try:
        with tarfile.open(file, "r:gz") as pack:
            pack.extractall(folder, filter="data")
        about = json.loads((folder / "about.json").read_text())
    except (OSError, ValueError, tarfile.TarError, EOFError):
        raise CommandFailed(f"{file} is no whole backup. Copy it again, or take another one.") from None
    if about.get("format") != _FORMAT:
        raise CommandFailed(f"{file} is a backup of another kind: {str(about.get('format'))[:40]}.")
    return dict(about)


def _must_be_empty(database: MariaDB) -> None:
    tables = database.query(
        f"SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = '{DATABASE}' "
        "AND table_name = 'people_shop'"
    )
    if int(tables) and int(database.query(f"SELECT COUNT(*) FROM `{DATABASE}`.people_shop")):
        raise CommandFailed(
            "There are shops here already, and a restore writes over nothing. Restore into an empty place: "
            "LASH_STATE=/another/folder ./lash restore FILE"
        )


def newest() -> float | None:
    """When the newest of the nightly backups was made, in seconds since 1970."""
    made = [path.stat().st_mtime for path in FOLDER.glob("lash-*.tar.gz")]
    return max(made, default=None)


def is_due() -> bool:
    """Whether the newest backup is a day old, or there is none."""
    made = newest()
    tried = FOLDER / ".tried"
    if tried.exists() and time.time() - tried.stat().st_mtime < _AGAIN:
        return False
    return made is None or time.time() - made > _DAY


def nightly(keep_days: int) -> Path:
    """Make the night's backup, and let go of those that are older than wanted."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    (FOLDER / ".tried").touch()
    file = FOLDER / f"lash-{datetime.now():%Y-%m-%d-%H%M}.tar.gz"  # noqa: DTZ005 - the machine's own night
    make_backup(file)
    for old in FOLDER.glob("lash-*.tar.gz"):
        if old != file and time.time() - old.stat().st_mtime > keep_days * _DAY:
            old.unlink()
    return file


def before_upgrade(database: MariaDB) -> Path | None:
    """A backup before tables are changed, where there is something to lose and something to change."""
    tables = database.query(
        f"SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = '{DATABASE}'"
    )
    if not int(tables) or not run_python("tooling.pending", database):
        return None
    file = FOLDER / f"before-upgrade-{datetime.now():%Y-%m-%d-%H%M%S}.sql"  # noqa: DTZ005
    FOLDER.mkdir(parents=True, exist_ok=True)
    database.dump(DATABASE, file)
    return file
