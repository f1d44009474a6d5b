"""The client of an instrument on the line protocol of docs/instruments.md.

This is the place where an adapter for a real indicator or torque wrench plugs in: anything that
answers the same lines on a TCP port.
"""

import socket

from django.conf import settings

from axle.errors import AxleError
from axle.procedure.stations import ReadingKind
from axle.units import Quantity, parse, unit_named

_PATIENCE_S = 1.5
_LONGEST_ANSWER = 200


def take(kind: ReadingKind, place: int, places: int = 0) -> Quantity:
    """Read one value from the instrument; a run around the ring says how many places it has.

    :raises AxleError: when it does not answer, answers nonsense, or in a wrong unit; nothing is kept.
    """
    reply = _ask(f"READ {kind.kind} {place} {places or kind.places}")
    words = reply.split()
    if len(words) == 3 and words[0] == "VALUE":
        unit = unit_named(words[2], "instrument")
        if unit.dimension is not kind.dimension:
            raise AxleError(
                "instrument", given=f"a reading in {unit.symbol}", wanted=f"a {kind.dimension.value}",
                do="Is the right instrument connected? Nothing was stored.",
            )  # fmt: skip
        return parse(f"{words[1]} {unit.symbol}", unit, "instrument")
    if words[:1] == ["ERROR"]:
        raise AxleError(
            "instrument", given=f"“{' '.join(words[1:])[:60]}”", wanted="a reading",
            do="Type what you read.",
        )  # fmt: skip
    raise AxleError(
        "instrument", given=f"the answer “{reply[:40]}”", wanted="a value with its unit",
        do="Nothing was stored; type what you read.",
    )  # fmt: skip


def _ask(line: str) -> str:
    host, _, port = settings.LASH_INSTRUMENT.rpartition(":")
    try:
        with socket.create_connection((host, int(port)), timeout=_PATIENCE_S) as connection:
            connection.settimeout(_PATIENCE_S)
            connection.sendall(f"{line}\n".encode("ascii"))
            with connection.makefile("rb") as answers:
                reply = answers.readline(_LONGEST_ANSWER)
    except (OSError, ValueError):
        reply = b""
    if not reply.endswith(b"\n"):
        raise AxleError(
            "instrument", given="no answer", wanted="a connected instrument that is switched on",
            do="Nothing was stored; type what you read.",
        )  # fmt: skip
    return reply.decode("ascii", "replace").strip()
