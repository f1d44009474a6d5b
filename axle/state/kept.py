"""What was worked out of a state is kept with it: a state is frozen, so it is judged once."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

from axle.state.axle_state import AxleState

P = ParamSpec("P")
R = TypeVar("R")
_STORE = "_kept"


def kept(function: Callable[Concatenate[AxleState, P], R]) -> Callable[Concatenate[AxleState, P], R]:
    """Keep what a function makes of a state with that state, by its other arguments.

    :param function: of a state and of arguments that can be hashed; what it returns is never changed.
    :returns: the same function, which works each answer out once.
    :source: memoization; the answers live as long as their state does.

    >>> from axle.gearset import GearSet
    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> from axle.spec.sheet import Sheet
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> asked = []
    >>> number = kept(lambda state: asked.append(state) or len(asked))
    >>> state = AxleState(layout, GearSet(9, 38), Sheet("x", {}))
    >>> number(state), number(state), len(asked)
    (1, 1, 1)
    """
    name = f"{function.__module__}.{function.__qualname__}"

    @wraps(function)
    def once(state: AxleState, /, *args: P.args, **kwargs: P.kwargs) -> R:
        answers: dict[Any, R] = state.__dict__.setdefault(_STORE, {})
        key = (name, args, tuple(sorted(kwargs.items())))
        if key not in answers:
            answers[key] = function(state, *args, **kwargs)
        return answers[key]

    return once
