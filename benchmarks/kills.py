"""Readings posted while the database, a worker, the master or ./start itself is killed with kill -9.

``python -m benchmarks.kills ROUNDS`` starts an installation in a new folder, posts readings without
pause, and kills one process a round. After each round everything answers again by itself, or by a second
./start; and nothing that was acknowledged is missing, altered or doubled. The last line is for docs.
"""

from __future__ import annotations

import html
import http.cookiejar
import json
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
import uuid
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
_VICTIMS = ("database", "worker", "master", "worker", "database", "start")
_JOB = 415


class Installation:
    """A ./start of its own."""

    def __init__(self, folder: Path, port: int) -> None:
        self.folder, self.address = folder, f"http://127.0.0.1:{port}"
        self.env = {
            **os.environ,
            "LASH_STATE": str(folder),
            "LASH_PORT": str(port),
            "LASH_INSTRUMENT": "off",
        }
        self.process: subprocess.Popen | None = None

    def start(self) -> None:
        """Start it, and wait until it answers."""
        log = (self.folder / "start.log").open("a")
        self.process = subprocess.Popen(
            [str(ROOT / "start")], cwd=ROOT, env=self.env, stdout=log, stderr=log, start_new_session=True
        )
        self.wait(180)

    def wait(self, seconds: float) -> float:
        """Wait until it answers; gives how long that took."""
        began = time.monotonic()
        while time.monotonic() - began < seconds:
            try:
                urllib.request.urlopen(f"{self.address}/healthy", timeout=3)
                return time.monotonic() - began
            except (OSError, urllib.error.URLError):
                time.sleep(0.2)
        raise SystemExit(f"No answer within {seconds} s.")

    def pid_of(self, victim: str) -> int:
        """The process to be killed."""
        assert self.process is not None
        if victim == "start":
            return self.process.pid
        wanted = {"database": "mariadbd", "master": "gunicorn", "worker": "gunicorn"}[victim]
        for _ in range(200):
            children = _children(self.process.pid, wanted)
            found = (
                [p for child in children for p in _children(child, wanted)]
                if victim == "worker"
                else children
            )
            if found:
                return random.choice(found)
            time.sleep(0.1)
        raise SystemExit(f"There is no {victim}.")


def _children(parent: int, name: str) -> list[int]:
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            stat = (folder / "stat").read_text()
            command = (folder / "cmdline").read_bytes().decode(errors="replace")
        except OSError:
            continue
        if int(stat.rsplit(")", 1)[1].split()[1]) == parent and name in command:
            found.append(int(folder.name))
    return found


class Poster:
    """Somebody who reads backlash without pause, and remembers what was acknowledged."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.acknowledged: dict[str, str] = {}
        self.unsure: set[str] = set()
        self.running = True
        jar = http.cookiejar.CookieJar()
        self.web = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
        page = self._page("/sign-in")
        token = re.search(r'csrfmiddlewaretoken" value="([^"]+)', page)[1]
        form = {"username": "ines", "password": "snow-on-the-pass", "csrfmiddlewaretoken": token}
        self.web.open(f"{address}/sign-in", urllib.parse.urlencode(form).encode())

    def _page(self, path: str) -> str:
        return self.web.open(f"{self.address}{path}", timeout=10).read().decode()

    def run(self) -> None:
        """Post until told to stop."""
        while self.running:
            try:
                self._post()
            except (OSError, TypeError, urllib.error.URLError):
                time.sleep(0.1)

    def _post(self) -> None:
        page = self._page(f"/jobs/{_JOB}/?station=arrival&kind=arrival_runout")
        token = re.search(r'X-CSRFToken&quot;: &quot;([^&]+)|X-CSRFToken": "([^"]+)', page)
        version = re.search(r'name="version" value="(\d+)"', page)[1]
        entry, value = str(uuid.uuid4()), f"{random.uniform(1, 9):.1f}"
        form = {
            "version": version,
            "station": "arrival",
            "kind": "arrival_runout",
            "place": "1",
            "value": value,
            "questioned": value,
            "entry": entry,
        }
        head = {"X-CSRFToken": token[1] or token[2], "HX-Request": "true", "Referer": self.address}
        request = urllib.request.Request(
            f"{self.address}/jobs/{_JOB}/reading", urllib.parse.urlencode(form).encode(), head
        )
        self.unsure.add(entry)
        answer = self.web.open(request, timeout=15)
        text = html.unescape(answer.read().decode())
        if answer.status == 200 and "entry-error" not in text:
            self.acknowledged[entry] = value


def _stored(folder: Path) -> dict[str, list[str]]:
    """What the records hold, by entry."""
    from tooling.mariadb import MariaDB

    database = MariaDB("shop")
    rows = database.query(
        "SELECT entry, typed FROM lash.jobs_reading WHERE kind = 'arrival_runout' AND value IS NOT NULL"
    )
    found: dict[str, list[str]] = {}
    for line in rows.splitlines():
        entry, typed = line.split("\t")
        found.setdefault(str(uuid.UUID(entry)), []).append(typed)
    return found


def main(rounds: int) -> int:
    """Kill, wait, look; as often as wanted."""
    folder = Path(tempfile.mkdtemp(prefix="lash-kills-"))
    os.environ["LASH_STATE"] = str(folder)
    here = Installation(folder, 8497)
    here.start()
    poster = Poster(here.address)
    thread = threading.Thread(target=poster.run, daemon=True)
    thread.start()
    waits: dict[str, list[float]] = {}
    try:
        for number in range(rounds):
            victim = _VICTIMS[number % len(_VICTIMS)]
            time.sleep(random.uniform(0.3, 1.5))
            os.kill(here.pid_of(victim), signal.SIGKILL)
            began = time.monotonic()
            if victim == "start":
                here.process.wait()
                here.start()
            else:
                time.sleep(0.3)
                here.wait(120)
            waits.setdefault(victim, []).append(time.monotonic() - began)
            kept = len(poster.acknowledged)
            print(f"{number + 1}: {victim}, back after {waits[victim][-1]:.1f} s, {kept} kept", flush=True)
        time.sleep(1)
        poster.running = False
        thread.join(30)
        stored = _stored(folder)
        missing = [e for e in poster.acknowledged if e not in stored]
        altered = [e for e, value in poster.acknowledged.items() if stored.get(e, [value])[0] != value]
        doubled = [e for e, values in stored.items() if len(values) > 1]
        code = subprocess.run([str(ROOT / "lash"), "verify"], cwd=ROOT, env=here.env).returncode
        spent = {name: f"{max(found):.1f} s at most" for name, found in waits.items()}
        print(
            json.dumps(
                {
                    "rounds": rounds,
                    "acknowledged": len(poster.acknowledged),
                    "missing": len(missing),
                    "altered": len(altered),
                    "doubled": len(doubled),
                    "records hold": code == 0,
                    "back after": spent,
                }
            )
        )
        return int(bool(missing or altered or doubled or code))
    finally:
        here.process.terminate()
        here.process.wait(60)
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 60))
