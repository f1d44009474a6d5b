"""The next move of an axle, worked out once for the same axle: pages that only look ask anew."""

from __future__ import annotations

import hashlib
import pickle
from collections import OrderedDict
from dataclasses import fields
from threading import Lock
from typing import Final

from axle.decision.move import Move
from axle.decision.next_move import next_move
from axle.measure.units import Display
from axle.state.axle_state import AxleState

# So many axles at once; a move is a few kilobytes.
_MOST: Final = 256
_known: OrderedDict[bytes, Move] = OrderedDict()
_lock = Lock()


def advised(state: AxleState, display: Display) -> Move:
    """The next move: as it was worked out before for the same content, else anew.

    It follows from the state and the units alone, so that any server may keep it: nothing has to agree.

    :param state: the axle.
    :param display: units of the words.
    """
    content = [getattr(state, field.name) for field in fields(state)]
    key = hashlib.blake2b(pickle.dumps((content, display))).digest()
    with _lock:
        if key in _known:
            _known.move_to_end(key)
            return _known[key]
    move = next_move(state, display)
    with _lock:
        _known[key] = move
        while len(_known) > _MOST:
            _known.popitem(last=False)
    return move
