"""The house itself: documented commands, settings, templates, set-up tools."""

from __future__ import annotations

import json
import re
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from tooling import environment, serve
from tooling.mariadb import MariaDB

ROOT = Path(__file__).resolve().parents[2]
TRACKED = subprocess.run(
    ["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=False
).stdout.split()
DOCUMENTS = [ROOT / name for name in TRACKED if name.endswith(".md")]


@pytest.mark.parametrize("path", DOCUMENTS, ids=lambda path: path.name)
def test_documents_name_only_what_exists(path):
    text = path.read_text(encoding="utf-8")
    for link in re.findall(r"\]\((?!https?:|#)([^)#]+)", text):
        assert (path.parent / link).exists(), f"{path.name} links {link}"
    for name in re.findall(r"`(\./\w+|LASH_[A-Z_]+)`", text):
        if name.startswith("./"):
            assert (ROOT / name).exists(), f"{path.name} names {name}"
        else:
            code = "".join((ROOT / f).read_text() for f in TRACKED if f.endswith(".py"))
            assert name in code, f"{path.name} names {name}"


def test_the_main_views_have_their_pictures_in_the_readme():
    pictures = [name for name in TRACKED if name.startswith("docs/screenshots/")]
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    assert 0 < len(pictures) < 20
    for name in pictures:
        assert name in text, name


def test_no_registry_host_is_committed():
    # Spelled apart so that this file names none either.
    hosts = ["pypi" + ".org", "npmjs" + ".org", "pythonhosted" + ".org", "debian" + ".org"]
    for name in TRACKED:
        if name.endswith((".png", ".woff2", ".css", ".js", ".svg")) and "vendor" in name:
            continue
        text = (ROOT / name).read_bytes()
        assert not [host for host in hosts if host.encode() in text], name


def test_every_python_package_is_pinned_with_a_hash():
    lines = (ROOT / "requirements.txt").read_text().splitlines()
    pins = [line for line in lines if re.match(r"[a-z]", line)]
    assert len(pins) > 40
    assert all(re.match(r"[a-z0-9._-]+(\[[a-z,]+\])?==[\w.]+ \\$", line) for line in pins)
    assert sum("--hash=sha256:" in line for line in lines) >= len(pins)


def test_what_is_vendored_is_recorded_with_version_and_licence():
    folder = ROOT / "shop" / "static" / "vendor"
    record = json.loads((folder / "VENDORED.json").read_text())
    recorded = {name for row in record for name in row["files"]}
    shipped = {str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file()} - {"VENDORED.json"}
    assert recorded == shipped
    assert all(row["version"] and row["licence"] for row in record)


@pytest.mark.parametrize("path", sorted(ROOT.glob("shop/**/templates/**/*.html")), ids=lambda p: p.name)
def test_templates_keep_to_the_policy(path):
    text = path.read_text(encoding="utf-8")
    assert not re.search(r"\sstyle=|<style|\son\w+=|javascript:", text)
    assert not re.search(r"<script(?![^>]*src=)", text)
    assert "|safe" not in text
    for form in re.findall(r"<form[^>]*method=\"post\".*?</form>", text, re.DOTALL):
        assert "csrf_token" in form


def test_a_secret_is_made_once_and_kept_from_others(tmp_path, monkeypatch):
    monkeypatch.setattr(environment, "STATE", tmp_path)
    monkeypatch.delenv("LASH_TRIAL", raising=False)
    first = environment.secret("LASH_TRIAL")
    assert len(first) > 40
    assert environment.secret("LASH_TRIAL") == first
    assert (tmp_path / "secrets.json").stat().st_mode & 0o077 == 0
    monkeypatch.setenv("LASH_TRIAL", "from outside")
    assert environment.secret("LASH_TRIAL") == "from outside"


def test_a_lock_is_let_go_by_a_killed_holder(tmp_path, monkeypatch):
    monkeypatch.setattr(environment, "STATE", tmp_path)
    program = (
        f"import sys, time; sys.path.insert(0, {str(ROOT)!r})\n"
        "from pathlib import Path; from tooling import environment\n"
        f"environment.STATE = Path({str(tmp_path)!r}); held = environment.try_lock('running')\n"
        "print('held' if held else 'not', flush=True); time.sleep(60)"
    )
    holder = subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True)
    try:
        assert holder.stdout.readline().strip() == "held"
        assert environment.try_lock("running") is None
    finally:
        holder.kill()
        holder.wait()
        holder.stdout.close()
    mine = environment.try_lock("running")
    assert mine is not None
    mine.close()


def test_a_port_in_use_is_noticed():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert not environment.port_is_free(port)
        with pytest.raises(SystemExit):
            MariaDB("trial", port=port)
    assert environment.port_is_free(environment.free_port())


@pytest.mark.parametrize("text", ["", "80", "99999", "web", "-1"])
def test_a_port_that_cannot_be_is_refused_in_words(monkeypatch, capsys, text):
    monkeypatch.setenv("LASH_PORT", text)
    with pytest.raises(SystemExit):
        serve._port()
    assert f"LASH_PORT is “{text}”; a number from 1024 to 65535 is wanted." in capsys.readouterr().err


def test_an_ordinary_user_is_told_what_is_missing(monkeypatch, capsys):
    monkeypatch.setattr(environment.os, "geteuid", lambda: 1000)
    with pytest.raises(SystemExit):
        environment._debian({"chromium": lambda: False, "gcc": lambda: True})
    said = capsys.readouterr().err
    assert "sudo apt-get install -y --no-install-recommends chromium" in said
    assert "gcc" not in said


def test_a_left_over_pid_of_something_else_is_left_alone(tmp_path, monkeypatch):
    monkeypatch.setattr("tooling.mariadb.STATE", tmp_path)
    server = MariaDB("trial")
    server.home.mkdir()
    other = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
    try:
        server.pid_file.write_text(str(other.pid))
        server._stop_left_over()
        assert other.poll() is None
        assert not server.pid_file.exists()
    finally:
        other.kill()
        other.wait()


def test_a_deep_folder_keeps_its_socket_short(tmp_path, monkeypatch):
    monkeypatch.setattr("tooling.mariadb.STATE", tmp_path / ("deep/" * 30))
    assert len(str(MariaDB("trial").socket)) < 100
