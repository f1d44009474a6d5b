"""The one reader of data files: a TOML file beside the code, as the type that its reader says it is."""

from __future__ import annotations

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
        raise AxleError(what, given=str(problem), wanted="a row of its kind") from None
