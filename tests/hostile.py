"""Hostile requests and mutated job files: forms are learnt from the pages, and sent as nobody should.

The seed makes a run the same again. Used by the gate with few of each, by ``./test --all`` with all.
"""

from __future__ import annotations

import copy
import random
import re
import uuid
from html import unescape
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

NASTY = (
    "",
    " ",
    "0",
    "-1",
    "1e999",
    "nan",
    "9" * 5000,
    "١٢٣",
    "½",
    "0x10",
    "1,5",
    "8.5 thou",
    "'; DROP TABLE jobs_job; --",
    "<script>alert(1)</script>",
    "{{ 7 * 7 }}",
    "../../etc/passwd",
    "//example.invalid/x",
    "javascript:alert(1)",
    "\0",
    "\x1b[31m",
    "\ud7ff\U0010ffff",
    "e\u0301" * 50,
    "\u202eabc",
    "a" * 70_000,
    "true",
    "null",
    "[]",
    '{"a": 1}',
    "2026-02-30",
    "00000000-0000-0000-0000-000000000000",
    "not-a-uuid",
    "%00%ff",
    "\r\nX-Injected: 1",
    "999999999999999999999999",
)
_ADDRESS = re.compile(r'(?:href|hx-get)="(/[^"#]*)"')
_FORM = re.compile(r"<form\b(?P<head>[^>]*)>(?P<body>.*?)</form>", re.DOTALL)
_FIELD = re.compile(r'<(?:input|select|textarea|button)\b[^>]*\bname="([^"]+)"[^>]*>')
_VALUE = re.compile(r'\bvalue="([^"]*)"')
# These would end the session or the shop that the requests are sent in.
_LEFT_OUT = (
    "/sign-out",
    "/shop/demo",
    "/static",
    "/shop/another",
    "/set-up",
    "/people",
    "/me/password",
    "/me/sign-ins",
)


class Form:
    """A form as a page has it."""

    def __init__(self, address: str, method: str, fields: dict[str, str]) -> None:
        self.address, self.method, self.fields = address, method, fields


def learn(client: Client, start: str = "/", most: int = 90) -> tuple[list[str], list[Form]]:
    """Walk the pages from one on, and take down their addresses and forms."""
    todo, seen, forms = [start], set(), {}
    while todo and len(seen) < most:
        address = todo.pop(0)
        if address in seen or address.startswith(_LEFT_OUT):
            continue
        seen.add(address)
        answer = client.get(address)
        if answer.streaming or "text/html" not in answer.get("Content-Type", ""):
            continue
        text = answer.content.decode()
        links = [unescape(link) for link in _ADDRESS.findall(text)]
        random.Random(len(seen)).shuffle(links)
        todo += [link for link in links if link not in seen]
        for form in _FORM.finditer(text):
            found = _form(form["head"], form["body"], address)
            if not found.address.startswith(_LEFT_OUT):
                forms.setdefault((found.address.split("?")[0], *sorted(found.fields)), found)
    return sorted(seen), list(forms.values())


def _form(head: str, body: str, page: str) -> Form:
    to = re.search(r'(?:action|hx-post|hx-get)="([^"]*)"', head)
    fields = {}
    for tag in re.finditer(_FIELD, body):
        value = _VALUE.search(tag[0])
        fields.setdefault(tag[1], unescape(value[1]) if value else "")
    fields.pop("csrfmiddlewaretoken", None)
    posts = "hx-post" in head or 'method="post"' in head
    return Form(unescape(to[1]) if to and to[1] else page, "post" if posts else "get", fields)


def hostile_request(
    source: random.Random, client: Client, pages: list[str], forms: list[Form]
) -> tuple[str, Any]:
    """Send one request that nobody should send; what was sent, and the answer."""
    if source.random() < 0.15 or not forms:
        address = source.choice(pages)
        sign = "&" if "?" in address else "?"
        name = source.choice(
            ("station", "kind", "place", "step", "view", "q", "page", "from", "copy", "wanted")
        )
        given: dict[str, Any] = {}
        what = f"{address}{sign}{name}={source.choice(NASTY)[:3000]!r}"
        verb = source.choice(("get", "get", "post", "put", "delete", "head", "options"))
        answer = (
            client.generic(verb.upper(), address, QUERY_STRING="")
            if verb in ("put", "delete", "options")
            else getattr(client, verb)(address, {name: source.choice(NASTY)[:3000]})
        )
        return f"{verb} {what}", answer
    form = source.choice(forms)
    given = dict(form.fields)
    for name in source.sample(sorted(given), source.randint(0, min(3, len(given)))):
        act = source.random()
        if act < 0.6:
            given[name] = source.choice(NASTY)
        elif act < 0.8:
            del given[name]
        elif act < 0.9:
            given[name] = [given[name], source.choice(NASTY)]  # type: ignore[assignment]
        else:
            given[name] = SimpleUploadedFile("x.bin", source.choice(NASTY).encode(errors="ignore"))  # type: ignore[assignment]
    if source.random() < 0.1:
        given[source.choice(NASTY)[:40] or "x"] = source.choice(NASTY)
    if "version" in given and source.random() < 0.7:
        given["version"] = str(source.randint(0, 400))
    if "entry" in given and source.random() < 0.7:
        given["entry"] = str(uuid.UUID(int=source.getrandbits(128)))
    headers = {"HX-Request": "true"} if source.random() < 0.5 else {}
    address = form.address
    if source.random() < 0.1:
        address = re.sub(r"\d+", lambda _: source.choice(("0", "999999999", "1" * 30)), address)
    answer = getattr(client, form.method)(address, given, headers=headers)
    return f"{form.method} {address} {str(given)[:400]}", answer


def mutated(source: random.Random, data: dict[str, Any]) -> dict[str, Any]:
    """A job file with a few of its parts changed, taken away, doubled or swapped for another sort."""
    changed = copy.deepcopy(data)
    for _ in range(source.randint(1, 4)):
        _mutate(source, changed)
    return changed


_VALUES: tuple[Any, ...] = (
    None,
    True,
    0,
    -1,
    1.5,
    10**40,
    1e308,
    "",
    "x",
    "9" * 400,
    "\ud800",
    [],
    {},
    [[]],
    {"a": 1},
    "2026-02-30",
    "NaN",
    "0.00001",
    "-5.0",
)


def _mutate(source: random.Random, data: Any) -> None:
    """Change one part somewhere inside."""
    while True:
        if isinstance(data, dict) and data:
            key: Any = source.choice(sorted(data))
        elif isinstance(data, list) and data:
            key = source.randrange(len(data))
        else:
            return
        inner = data[key]
        if isinstance(inner, dict | list) and inner and source.random() < 0.85:
            data = inner
            continue
        act = source.random()
        if act < 0.7:
            data[key] = source.choice(_VALUES)
        elif act < 0.85:
            del data[key]
        elif isinstance(data, list):
            data.append(copy.deepcopy(inner))
        else:
            data[f"{key}_"] = inner
        return
