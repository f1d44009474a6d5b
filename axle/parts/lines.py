"""What may become of a line of parts: from needed to fitted, returned or not needed."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from typing import Final

from axle.errors import AxleError


class LineState(Enum):
    """Where a part of a job stands."""

    NEEDED = "needed"
    QUOTED = "quoted"
    ORDERED = "ordered"
    ON_ITS_WAY = "on its way"
    HERE = "here"
    FITTED = "fitted"
    RETURNED = "returned"
    NOT_NEEDED = "not needed"


S = LineState
_NEXT: Final[Mapping[LineState, frozenset[LineState]]] = {
    S.NEEDED: frozenset({S.QUOTED, S.ORDERED, S.HERE, S.NOT_NEEDED}),
    S.QUOTED: frozenset({S.NEEDED, S.ORDERED, S.HERE, S.NOT_NEEDED}),
    S.ORDERED: frozenset({S.ON_ITS_WAY, S.HERE, S.NEEDED, S.NOT_NEEDED}),
    S.ON_ITS_WAY: frozenset({S.HERE, S.ORDERED}),
    S.HERE: frozenset({S.FITTED, S.RETURNED, S.NEEDED}),
    S.FITTED: frozenset({S.HERE, S.RETURNED}),
    S.RETURNED: frozenset({S.NEEDED}),
    S.NOT_NEEDED: frozenset({S.NEEDED}),
}
# Not here yet: what waits for it waits.
AWAITED: Final = frozenset({S.NEEDED, S.QUOTED, S.ORDERED, S.ON_ITS_WAY})
# To be ordered still.
OPEN: Final = frozenset({S.NEEDED, S.QUOTED})
# Paid for: what a job's account counts.
COUNTED: Final = frozenset({S.ORDERED, S.ON_ITS_WAY, S.HERE, S.FITTED})


def following(state: LineState) -> tuple[LineState, ...]:
    """What a line may become next.

    :param state: where it stands.

    >>> LineState.FITTED in following(LineState.HERE)
    True
    """
    return tuple(other for other in LineState if other in _NEXT[state])


def change(line: str, state: LineState, to: LineState) -> LineState:
    """Let a line become something else.

    :param line: what it is, in words.
    :param state: where it stands.
    :param to: what it becomes.
    :raises AxleError: where that makes no sense.
    """
    if to is not state and to not in _NEXT[state]:
        raise AxleError(
            line,
            given=f"{state.value}, to become {to.value}",
            wanted=" or ".join(other.value for other in following(state)),
        )
    return to


def received(line: str, wanted: float, before: float, now: float) -> LineState:
    """What a line is after a delivery.

    :param line: what it is, in words.
    :param wanted: how many were ordered, above 0.
    :param before: how many came before.
    :param now: how many come now, above 0.
    :raises AxleError: for nothing, and for more than was ordered.

    >>> received("seal", 2, 0, 1).value, received("seal", 2, 1, 1).value
    ('on its way', 'here')
    """
    left = wanted - before
    if not now > 0:
        raise AxleError(line, given=f"{now:g} delivered", wanted=f"1 to {left:g}")
    if now > left + 1e-9:
        raise AxleError(
            line,
            given=f"{now:g} delivered",
            wanted=f"{left:g} at most: {wanted:g} ordered, {before:g} here already",
            do="Send the rest back, or write a line of its own for it.",
        )
    return S.HERE if before + now >= wanted - 1e-9 else S.ON_ITS_WAY
