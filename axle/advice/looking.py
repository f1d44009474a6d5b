"""The advice that changes nothing: look, read again, or sign with a reason."""

from __future__ import annotations

from axle.advice.moves import Act, Move
from axle.advice.standing import Standing
from axle.procedure.stations import stations


def look(standing: Standing) -> Move:
    """Say what a station came to where no change of shims follows from it.

    :param standing: the station as it stands.
    :source: common practice.
    """
    result = standing.result
    why = result.why if result else ()
    if result and result.words == "confirm the mark":
        notes = ("Nothing is worked out from a mark whose sign is not sure.",)
        return Move(Act.LOOK, "Confirm what the mark means", standing.station, why=why, notes=notes)
    title = f"{stations()[standing.station].title}: {result.words if result else 'look'}"
    notes = ("No change of shims follows from this. Read again, or sign it with a reason.",)
    return Move(Act.LOOK, title, standing.station, why=why, notes=notes)
