"""What no move explains: readings that cannot belong to one sound axle, and what to suspect.

A reading that does not fit is questioned first: it is read again, a print is made again. Where it stays,
the work stops and what may be wrong is named.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from typing import Final

from axle.data_file import read_table
from axle.decision.move import Move
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState


class FaultName(StrEnum):
    """Something that may be wrong, as in ``faults.toml``."""

    GEAR_RUNOUT = "gear_runout"
    FLANGE_BURR = "flange_burr"
    BENT_PINION = "bent_pinion"
    UNSEATED_CUP = "unseated_cup"
    CUP_LEFT_BEHIND = "cup_left_behind"
    DRY_BEARING = "dry_bearing"
    WRONG_MARK = "wrong_mark"
    SLINGER_OUT = "slinger_out"
    SWAPPED_CAPS = "swapped_caps"
    MISLABELLED_SHIM = "mislabelled_shim"
    WRENCH_NOT_ZERO = "wrench_not_zero"
    BAD_PRINT = "bad_print"
    WRONG_GAUGE = "wrong_gauge"
    WRONG_CUT = "wrong_cut"


@dataclass(frozen=True)
class FaultHypothesis:
    """Something that may be wrong.

    :param key: as in ``faults.toml``.
    :param words: what it is.
    :param look: what to look at.
    """

    key: FaultName
    words: str
    look: str


@dataclass(frozen=True)
class Inconsistency:
    """Readings that do not fit.

    :param station: where it shows.
    :param words: what does not fit, one sentence.
    :param faults: the likeliest first, as in ``faults.toml``.
    :param again: readings to take again before anybody believes it; ("print", n) for the print.
    :param stops: whether the work stops where it stays.
    """

    station: str
    words: str
    fault_hypotheses: tuple[FaultName, ...]
    again: tuple[tuple[str, int], ...] = ()
    stops: bool = True


# So many causes are said beside a move.
_SAID: Final = 2


@cache
def fault_hypotheses() -> Mapping[str, FaultHypothesis]:
    """Everything that can be suspected, by key.

    :source: ``faults.toml``, common practice.

    >>> fault_hypotheses()["bent_pinion"].words
    'a bent pinion'
    """
    rows = read_table(__file__, "faults.toml", dict[str, dict[str, str]])
    return {key: FaultHypothesis(FaultName(key), **row) for key, row in rows.items()}


def suspected(found: Inconsistency) -> str:
    """What may be wrong where the work goes on, with the first thing to look at.

    :param found: readings that do not fit.
    :source: ``faults.toml``.
    """
    if not found.fault_hypotheses:
        return ""
    named = [fault_hypotheses()[key] for key in found.fault_hypotheses]
    either = " or ".join(one.words for one in named[:_SAID])
    return f"It may be {either}. {named[0].look}"


def fault_move(state: AxleState, found: tuple[Inconsistency, ...]) -> Move | None:
    """Question what does not fit, or stop.

    :param state: the axle.
    :param found: as :func:`inconsistencies` gives them.
    :returns: nothing where nothing stops the work.
    :source: common practice: no change is made on a reading that nobody believes.
    """
    first = next((t for t in found if t.again or t.stops), None)
    if first is None:
        return None
    named = tuple(fault_hypotheses()[key] for key in first.fault_hypotheses)
    notes = tuple(f"{s.words[:1].upper()}{s.words[1:]}? {s.look}" for s in named)
    if first.again:
        if first.again[0][0] == "print":
            return Move.make_print(
                "Print again before anything is changed",
                first.station,
                why=(first.words,),
                notes=notes,
                faults=first.fault_hypotheses,
            )
        title = f"Read again: {kind_named(first.again[0][0]).title.lower()}"
        return Move.read(
            title,
            first.station,
            why=(first.words,),
            notes=notes,
            asks=first.again,
            again=True,
            faults=first.fault_hypotheses,
        )
    return Move.look(
        f"Stop: look for {named[0].words}",
        first.station,
        why=(first.words,),
        notes=(
            *notes,
            "No move of shims explains these readings. Put it right and read again, or "
            "sign it with a reason.",
        ),
        faults=first.fault_hypotheses,
    )
