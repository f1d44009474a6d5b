"""Of a style sheet only what the pages use: rules by their classes, then the variables they read."""

from __future__ import annotations

import re
from collections.abc import Iterable, Set
from typing import Any

import tinycss2

_CLASS = re.compile(r"\.((?:[\w-]|\\.)+)")
_READ = re.compile(r"var\(\s*(--[\w-]+)")
_SET = re.compile(r"(?<![\w-])(--[\w-]+):")
_CONDITIONAL = ("media", "supports")


_NAMED = re.compile(r"""class(?:Name|List\.\w+)?["']?\s*[:=(]\s*(?:"([^"]*)"|'([^']*)'|`([^`]*)`)""")
# States and helpers are put together from pieces: any word of theirs counts.
_STATE = re.compile(r"(?<![\w-])(?:is|has|are)-[\w-]+")


def words_of(texts: Iterable[str]) -> frozenset[str]:
    """Every word that stands where a class is named, and every word that begins as a state does."""
    found: set[str] = set()
    for text in texts:
        for named in _NAMED.findall(text):
            found.update(re.findall(r"[\w-]+", " ".join(named)))
        found.update(_STATE.findall(text))
    return frozenset(found)


def used_styles(sheet: str, words: Set[str], read_elsewhere: str = "") -> str:
    """Drop the rules whose classes no page names, and the variables that nothing reads any more.

    :param sheet: a style sheet.
    :param words: every word of the pages.
    :param read_elsewhere: other style sheets that read its variables.
    """
    kept = _rules(tinycss2.parse_stylesheet(sheet, skip_comments=True, skip_whitespace=True), words)
    licence = re.match(r"\s*(?:@charset[^;]*;)?\s*(/\*!.*?\*/)", sheet, re.DOTALL)
    return (licence[1] + "\n" if licence else "") + _less_variables(kept, read_elsewhere)


def _rules(nodes: list[Any], words: Set[str]) -> str:
    out = []
    for node in nodes:
        if node.type == "qualified-rule":
            selectors = _selectors(tinycss2.serialize(node.prelude), words)
            if selectors:
                out.append(f"{','.join(selectors)}{{{tinycss2.serialize(node.content).strip()}}}")
        elif node.type == "at-rule" and node.lower_at_keyword in _CONDITIONAL and node.content:
            inside = _rules(
                tinycss2.parse_rule_list(node.content, skip_comments=True, skip_whitespace=True), words
            )
            if inside:
                out.append(f"@{node.at_keyword}{tinycss2.serialize(node.prelude)}{{{inside}}}")
        elif node.type == "at-rule" and node.lower_at_keyword == "keyframes":
            out.append(node.serialize())
    return "\n".join(out)


def _selectors(prelude: str, words: Set[str]) -> list[str]:
    """Those selectors whose classes are all among the words; a comma in brackets divides none."""
    parts = re.split(r",(?![^()]*\))", prelude)
    return [part.strip() for part in parts if all(name in words for name in _needed(part))]


def _needed(selector: str) -> list[str]:
    """Classes without which a selector matches nothing: not those it excludes or lists as alternatives."""
    plain = re.sub(r":(?:not|is|where)\((?:[^()]|\([^()]*\))*\)", "", selector)
    return _CLASS.findall(plain)


def _less_variables(sheet: str, read_elsewhere: str) -> str:
    """Drop declarations of variables that are read nowhere, until none is left to drop."""
    while True:
        read = frozenset(_READ.findall(sheet)) | frozenset(_READ.findall(read_elsewhere))
        unread = frozenset(_SET.findall(sheet)) - read
        less = sheet
        for name in unread:
            less = re.sub(rf"(?<![\w-]){name}:[^;{{}}]*(?:;|(?=}}))", "", less)
        less = re.sub(r"[^{}\n]+\{\s*\}\n?", "", less)
        if less == sheet:
            return less
        sheet = less
