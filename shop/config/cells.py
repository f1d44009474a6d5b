"""Text in a table that a spreadsheet will open."""

import re
from typing import Final

_FORMULA: Final = ("=", "+", "-", "@", "\t", "\r", "\n")
_NUMBER: Final = re.compile(r"-?[0-9]+([.,][0-9]+)?", re.ASCII)


def text_cell(text: str) -> str:
    """A text cell that no spreadsheet runs as a formula; a plain number stays one."""
    return f"'{text}" if text[:1] in _FORMULA and not _NUMBER.fullmatch(text) else text


def from_cell(text: str) -> str:
    """What stood in a cell before :func:`text_cell` kept it from being a formula."""
    return text[1:] if text[:1] == "'" and text[1:2] in _FORMULA else text
