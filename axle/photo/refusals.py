"""Why a photograph is not read, in words that say what to do."""

from __future__ import annotations

from enum import Enum
from typing import Final

from axle.errors import AxleError

# A frame beside the tooth looks as a hidden flank does.
ROOT_IN_SIGHT: Final = "look at it from where its root can be seen, and point at the corners of one flank"


class Cause(Enum):
    """What keeps a photograph from being read."""

    FRAME = "frame"
    COAT = "coat"
    LIGHT = "light"
    COLOUR = "colour"
    HIDDEN = "hidden"


class Unreadable(AxleError):
    """A photograph that is not read, with its cause and what is asked about it."""

    def __init__(self, cause: Cause, given: str, do: str, asked: tuple[str, ...] = ()) -> None:
        super().__init__(
            "photo", given=given, wanted="a print that can be read", do=f"Cannot read this: {do}."
        )
        self.cause = cause
        self.asked = asked


def unreadable(cause: Cause, why: str, do: str, asked: tuple[str, ...] = ()) -> Unreadable:
    """The refusal of a photograph.

    :param cause: what keeps it from being read.
    :param why: what is seen.
    :param do: what to do about it.
    :param asked: names of the questions that may settle it.
    :returns: the error, 1 sentence; no unit.
    :source: the project's own words.

    >>> unreadable(Cause.LIGHT, "a picture too dark", "more light").do
    'Cannot read this: more light.'
    """
    return Unreadable(cause, why, do, asked)
