"""A table that somebody sends: text in UTF-8, cells with comma, semicolon or tab between them."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from axle.errors import AxleError, quoted
from shop.config.cells import from_cell

LARGEST_FILE = 1024 * 1024
_MOST_ROWS = 5000


def read_rows(
    data: bytes, what: str, columns: Sequence[str], needed: Sequence[str]
) -> list[tuple[int, dict[str, str]]]:
    """The rows of a table by column, each with its number in the file; empty ones are left out.

    :param data: the file, no more than a byte over the largest.
    :param what: it is, for errors.
    :param columns: that it may have.
    :param needed: that it must have.
    :raises AxleError: for a file that is no such table.
    """
    if len(data) > LARGEST_FILE:
        raise AxleError(what, given=f"{len(data) / 1e6:.1f} MB", wanted="at most 1 MB")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise AxleError(what, given="something that is not text", wanted="CSV in UTF-8") from None
    first = text.split("\n", 1)[0]
    between = max((",", ";", "\t"), key=first.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=between))
    except csv.Error:
        raise AxleError(
            what,
            given="a cell that does not end, or is far too long",
            wanted="a table of short cells, one row a line",
        ) from None
    if not rows or not rows[0]:
        raise AxleError(what, given="an empty file", wanted=f"columns {', '.join(columns)}")
    head = [name.strip().lower() for name in rows[0]]
    if any(name not in head for name in needed):
        raise AxleError(
            what,
            given=f"the columns {quoted(', '.join(head), 80)}",
            wanted=f"{', '.join(needed)} among them",
        )
    if len(rows) > _MOST_ROWS:
        raise AxleError(what, given=f"{len(rows)} rows", wanted=f"at most {_MOST_ROWS}")
    return [
        (number, dict(zip(head, (cell.strip() for cell in row), strict=False)))
        for number, row in enumerate(rows[1:], start=2)
        if any(from_cell(cell.strip()) for cell in row)
    ]
