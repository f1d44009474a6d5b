"""The one reader of data files: a TOML file beside the code, as the type that its reader says it is."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TypeVar

import msgspec

from axle.errors import AxleError

T = TypeVar("T")


def read_table(code: str, name: str, shape: type[T]) -> T:
    """Read a data file that lies beside a module.

    :param code: ``__file__`` of the module that reads it.
    :param name: of the file, from the module's folder.
    :param shape: what is in it, any type that msgspec knows.
    :returns: the file's content, of that type.
    :raises AxleError: naming the file and the place, for content of another type.
    :source: TOML 1.0.

    >>> sorted(read_table(__file__, "preload/seal.toml", dict[str, dict[str, str]])["usual"])
    ['high', 'low', 'source', 'unit']
    """
    raw = (Path(code).parent / name).read_bytes()
    try:
        return msgspec.toml.decode(raw, type=shape)
    except msgspec.ValidationError as problem:
        raise AxleError(name, given=str(problem), wanted="what its reader says it holds") from None


def as_shape(what: str, values: object, shape: type[T]) -> T:
    """Plain data, as a row or a file keeps it, as the type that its reader wants.

    :param what: what it is, for the error.
    :param values: plain data: dicts, lists, texts, numbers.
    :param shape: any type that msgspec knows.
    :raises AxleError: naming the place that does not fit.
    :source: the project's own records.

    >>> as_shape("row", {"a": 1}, dict[str, int])
    {'a': 1}
    """
    try:
        return msgspec.convert(values, type=shape)
    except msgspec.ValidationError as problem:
        place, wanted = _in_words(str(problem))
        raise AxleError(what, given=f"{place} that does not fit", wanted=wanted) from None


_EXPECTED = re.compile(
    r"Expected `(?P<kind>[^`]+)`(?: of)?(?: (?P<bound>length )?(?P<sign>[<>]=) (?P<end>[\d.]+))?"
)
_PLACE = re.compile(r"at `\$(?P<path>[^`]*)`")


def _in_words(problem: str) -> tuple[str, str]:
    """What a reader of rows says, as (where, what is wanted)."""
    place, expected = _PLACE.search(problem), _EXPECTED.search(problem)
    parts = [part for part in re.split(r"[.\[\]]+", place["path"] if place else "") if part]
    words = " ".join(f"{int(part) + 1}" if part.isdigit() else part.replace("_", " ") for part in parts)
    where = f"“{words}”" if words else "a row"
    if expected is None:
        return where, "no more and no less than a row of its kind has"
    if expected["sign"] is None:
        return where, f"a value of the kind {expected['kind']}"
    end = f"{float(expected['end']):g}" + (" characters or entries" if expected["bound"] else "")
    return where, f"at most {end}" if expected["sign"] == "<=" else f"{end} or more"
