"""Read every page and job file of a running demo shop, without what the hour changes."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from html.parser import HTMLParser
from http.cookiejar import CookieJar
from pathlib import Path
from urllib.error import HTTPError
from urllib.parse import urlencode, urljoin, urlsplit
from urllib.request import HTTPCookieProcessor, Request, build_opener

from demo import PASSWORD

_ROOT = Path(__file__).resolve().parents[2]
_MOST = 5000
# Steps are read on one job alone: 900 pages would say the same of the others.
_SKIP = re.compile(
    r"/(static|media|sign-out|me/)|\.(pdf|png|csv)$|/photos/\d+|make\?|/take-field|/jobs/(?!412)\d+/\?.*step="
)
# What differs from one day, and one demo, to the next.
_CHANGES = (
    (re.compile(r"\d{4}-\d\d-\d\dT[\d:.]+(Z|[+]\d\d:\d\d)?"), "<time>"),
    (re.compile(r"\d{4}-\d\d-\d\d"), "<date>"),
    (re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"), "<uuid>"),
    (
        re.compile(r"\b\d{1,2} (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[a-z]*\.?( \d{4})?"),
        "<date>",
    ),
    (re.compile(r"\b([A-Z][a-z]+day|Mon|Tue|Wed|Thu|Fri|Sat|Sun)\b"), "<day>"),
    (re.compile(r"\b\d\d:\d\d(:\d\d)?\b"), "<hour>"),
    (re.compile(r"\b\d+ (minutes?|hours?|min|h|s|seconds?)\b"), "<span>"),
    (re.compile(r"\b[A-Za-z0-9]{32,}\b"), "<token>"),
    (re.compile(r"\.[0-9a-f]{12}\."), "."),
)


class _Text(HTMLParser):
    """Words of a page, values of its fields, and its links."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []
        self.links: list[str] = []
        self._quiet = 0

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        known = dict(attrs)
        if tag in {"script", "style"}:
            self._quiet += 1
        self.links += [known[name] or "" for name in ("href", "hx-get") if known.get(name)]
        shown = [
            f"{name}={known[name]}"
            for name in (
                "action",
                "hx-post",
                "name",
                "value",
                "placeholder",
                "title",
                "aria-label",
                "d",
                "checked",
                "selected",
                "disabled",
            )
            if name in known
        ]
        if shown and known.get("name") != "csrfmiddlewaretoken":
            self.lines.append(f"<{tag} {' '.join(shown)}>")

    def handle_endtag(self, tag: str) -> None:
        if tag in {"script", "style"}:
            self._quiet -= 1

    def handle_data(self, data: str) -> None:
        words = " ".join(data.split())
        if words and not self._quiet:
            self.lines.append(words)


def write_pages(folder: Path) -> None:
    """One file for each page that a link leads to from the jobs, and for each job file."""
    folder.mkdir(parents=True, exist_ok=True)
    address = json.loads((_ROOT / ".lash" / "running.json").read_text())["address"]
    for path, text in _crawl(address):
        name = re.sub(r"[^A-Za-z0-9=-]+", "_", path).strip("_") or "jobs"
        (folder / f"{name}.txt").write_text(text, encoding="utf-8")


def _crawl(address: str) -> Iterator[tuple[str, str]]:
    opener = build_opener(HTTPCookieProcessor(CookieJar()))
    page = opener.open(f"{address}/sign-in").read().decode()
    found = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page)
    token = found.group(1) if found else ""
    form = urlencode({"csrfmiddlewaretoken": token, "username": "ines", "password": PASSWORD}).encode()
    opener.open(Request(f"{address}/sign-in", form, {"Referer": f"{address}/sign-in"}))
    waiting, seen = ["/"], {"/"}
    while waiting and len(seen) < _MOST:
        path = waiting.pop(0)
        try:
            with opener.open(address + path) as answer:
                kind, body = answer.headers.get_content_type(), answer.read().decode("utf-8", "replace")
        except HTTPError as problem:
            yield path, f"{problem.code}\n"
            continue
        if kind == "application/json":
            yield path, _settled(json.dumps(json.loads(body), indent=1, ensure_ascii=False))
            continue
        if kind != "text/html":
            continue
        text = _Text()
        text.feed(body)
        yield path, _settled("\n".join(text.lines) + "\n")
        for link in text.links:
            target = urlsplit(urljoin(address + path, link))
            way = target.path + (f"?{target.query}" if target.query else "")
            same = f"{target.scheme}://{target.netloc}" == address
            if same and way not in seen and not _SKIP.search(way):
                seen.add(way)
                waiting.append(way)


def _settled(text: str) -> str:
    for pattern, word in _CHANGES:
        text = pattern.sub(word, text)
    return text
