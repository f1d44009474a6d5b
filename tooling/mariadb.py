"""A private MariaDB: its own data folder, loopback only, started and stopped by its own pid."""

from __future__ import annotations

import getpass
import hashlib
import os
import shutil
import signal
import subprocess
import tempfile
import time
from pathlib import Path

from tooling.environment import (
    STATE,
    CommandFailed,
    dies_with_parent,
    free_port,
    port_is_free,
    print_status,
)

# A socket's path may hold about 100 characters; deeper projects keep theirs in the temp folder.
_LONGEST_SOCKET = 90
RELAXED = (
    "--innodb-flush-log-at-trx-commit=0",
    "--skip-innodb-doublewrite",
    "--innodb-flush-method=nosync",
    "--innodb-buffer-pool-size=128M",
)

# The server only reads and writes rows; whoever migrates makes tables and triggers.
APP_RIGHTS = "SELECT, INSERT, UPDATE, DELETE"
OWNER_RIGHTS = (
    f"{APP_RIGHTS}, CREATE, ALTER, DROP, INDEX, REFERENCES, TRIGGER, "
    "CREATE TEMPORARY TABLES, LOCK TABLES, CREATE ROUTINE, ALTER ROUTINE, EXECUTE"
)


class MariaDB:
    """One server on one data folder.

    :param name: tells the servers of a project apart ("shop", "test").
    :param port: TCP port on loopback; any free one when 0.
    :param options: more server options.
    """

    def __init__(self, name: str, *, port: int = 0, options: tuple[str, ...] = ()) -> None:
        self.home = STATE / name
        self.data = self.home / "data"
        self.pid_file = self.home / "server.pid"
        self.log = self.home / "server.log"
        self.options = options
        if port and not port_is_free(port):
            raise CommandFailed(f"Port {port} (LASH_DB_PORT) is in use; choose another, or leave it unset.")
        self.port = port or free_port()
        self.process: subprocess.Popen | None = None

    @property
    def socket(self) -> Path:
        """Path of the server's socket."""
        inside = self.home / "server.sock"
        if len(str(inside)) < _LONGEST_SOCKET:
            return inside
        name = hashlib.sha256(str(self.home).encode()).hexdigest()[:12]
        return Path(tempfile.gettempdir()) / f"lash-{os.getuid()}-{name}.sock"

    def _own_place(self) -> dict[str, str]:
        """Environment with a folder of its own for temporary tables.

        A server that starts clears away what looks left over in its folder: in a shared one that is
        another server's work.
        """
        place = self.home / "tmp"
        place.mkdir(mode=0o700, parents=True, exist_ok=True)
        return {**os.environ, "TMPDIR": str(place)}

    def start(self) -> None:
        """Start the server; a left-over one on the same data is stopped first."""
        self.home.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._stop_left_over()
        if not (self.data / "mysql").exists():
            self._create()
        user = getpass.getuser()
        self.process = subprocess.Popen(
            [
                _server(),
                "--no-defaults",
                f"--user={user}",
                f"--datadir={self.data}",
                f"--socket={self.socket}",
                f"--pid-file={self.pid_file}",
                f"--log-error={self.log}",
                "--bind-address=127.0.0.1",
                f"--port={self.port}",
                "--skip-name-resolve",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_unicode_ci",
                "--transaction-isolation=READ-COMMITTED",
                "--default-time-zone=+00:00",
                "--sql-mode=STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION",
                "--innodb-buffer-pool-size=256M",
                "--max-connections=60",
                "--log-bin-trust-function-creators=1",
                *self.options,
            ],
            preexec_fn=dies_with_parent,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
            env=self._own_place(),
        )
        for _ in range(300):
            if self.process.poll() is not None:
                raise CommandFailed(f"The database did not start: see {self.log}.")
            if self._answers():
                return
            time.sleep(0.05)
        raise CommandFailed(f"The database did not answer within 15 s: see {self.log}.")

    def prepare(self, database: str, users: dict[str, tuple[str, str]]) -> None:
        """Make a database and its users: name → (password, privileges), privileges as in GRANT."""
        statements = [f"CREATE DATABASE IF NOT EXISTS `{database}` CHARACTER SET utf8mb4"]
        for user, (password, privileges) in users.items():
            who = f"'{user}'@'127.0.0.1'"
            statements += [
                f"CREATE USER IF NOT EXISTS {who}",
                f"ALTER USER {who} IDENTIFIED BY '{password}'",
                f"GRANT {privileges} TO {who}",
            ]
        self._sql(";\n".join(statements) + ";")

    def answers(self) -> bool:
        """Whether a server runs on this data folder now."""
        return self._answers()

    def query(self, text: str) -> str:
        """What a statement gives, a line a row, columns apart by tabs."""
        done = self._client(text)
        if done.returncode:
            raise CommandFailed(f"The database refused a question: {done.stderr.strip()}")
        return done.stdout

    def dump(self, database: str, file: Path) -> None:
        """Write a database as statements, as it is at one moment, while others work."""
        command = [
            "mariadb-dump",
            "--no-defaults",
            f"--socket={self.socket}",
            f"--user={getpass.getuser()}",
            "--single-transaction",
            "--quick",
            "--triggers",
            "--hex-blob",
            "--default-character-set=utf8mb4",
            f"--result-file={file}",
            database,
        ]
        done = subprocess.run(command, capture_output=True, text=True)
        if done.returncode:
            raise CommandFailed(f"The database could not be written out: {done.stderr.strip()[-400:]}")

    def load(self, database: str, file: Path) -> None:
        """Run a file of statements that :meth:`dump` wrote."""
        with file.open("rb") as statements:
            done = subprocess.run(
                [
                    "mariadb",
                    "--no-defaults",
                    f"--socket={self.socket}",
                    f"--user={getpass.getuser()}",
                    "--default-character-set=utf8mb4",
                    database,
                ],
                stdin=statements,
                capture_output=True,
            )
        if done.returncode:
            words = done.stderr.decode(errors="replace").strip()[-400:]
            raise CommandFailed(f"The backup could not be read into the database: {words}")

    def stop(self) -> None:
        """Stop the server cleanly by its own pid."""
        if self.process and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(20)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()

    def _create(self) -> None:
        print_status("Making the database's data folder (once) …")
        part = self.home / "data.part"
        shutil.rmtree(part, ignore_errors=True)
        user = getpass.getuser()
        made = subprocess.run(
            [
                "mariadb-install-db",
                "--no-defaults",
                f"--user={user}",
                f"--datadir={part}",
                "--auth-root-authentication-method=socket",
                f"--auth-root-socket-user={user}",
                "--skip-test-db",
            ],
            capture_output=True,
            text=True,
            env=self._own_place(),
        )
        if made.returncode:
            raise CommandFailed(f"The database's data folder could not be made:\n{made.stdout[-800:]}")
        # Renamed only when whole, so that a kill half-way leaves nothing that looks finished.
        part.rename(self.data)

    def _stop_left_over(self) -> None:
        """End a server that still runs on this data folder after its parent was killed."""
        try:
            pid = int(self.pid_file.read_text())
            command = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace")
        except (OSError, ValueError):
            pid, command = 0, ""
        if pid and f"--datadir={self.data}" in command:
            print_status(f"Stopping a database server left over from a killed run (pid {pid}) …")
            os.kill(pid, signal.SIGTERM)
            for _ in range(400):
                if not Path(f"/proc/{pid}").exists():
                    break
                time.sleep(0.05)
            else:
                os.kill(pid, signal.SIGKILL)
        self.pid_file.unlink(missing_ok=True)
        self.socket.unlink(missing_ok=True)

    def _answers(self) -> bool:
        return self.socket.exists() and self._client("SELECT 1").returncode == 0

    def _sql(self, text: str) -> None:
        done = self._client(text)
        if done.returncode:
            raise CommandFailed(f"The database refused its set-up: {done.stderr.strip()}")

    def _client(self, text: str) -> subprocess.CompletedProcess:
        return subprocess.run(
            [
                "mariadb",
                "--no-defaults",
                "--batch",
                "--skip-column-names",
                f"--socket={self.socket}",
                f"--user={getpass.getuser()}",
            ],
            input=text,
            capture_output=True,
            text=True,
        )


def _server() -> str:
    return shutil.which("mariadbd", path=f"{os.environ.get('PATH', '')}:/usr/sbin") or "mariadbd"
