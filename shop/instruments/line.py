"""The client of an instrument on the line protocol of docs/instruments.md.

This is the place where an adapter for a real indicator or torque wrench plugs in: anything that
answers the same lines on a TCP port. Nothing it says is trusted: an answer that is late, too long,
unasked or in a wrong unit is refused in words, and nothing is stored.
"""

import socket
import time

from django.conf import settings

from axle.errors import AxleError, quoted
from axle.measure.parse import parse, unit_named
from axle.measure.units import Quantity
from axle.procedure.stations import ReadingKind

_PATIENCE_S = 1.5
_LONGEST_ANSWER = 200
ORDERS = {
    "identify": "ID",
    "zero": "ZERO",
    "max_on": "MAX on",
    "max_off": "MAX off",
    "in": "UNITS in",
    "mm": "UNITS mm",
    "in-lb": "UNITS in-lb",
    "N-m": "UNITS N-m",
}


def take(kind: ReadingKind, place: int, places: int = 0, line: str = "") -> Quantity:
    """Read one value from the instrument of a name on the line, or from whichever reads the kind.

    :raises AxleError: when it does not answer, answers nonsense, or in a wrong unit; nothing is kept.
    """
    reply = _ask(line, f"READ {kind.kind} {place} {places or kind.places}")
    words = reply.split()
    if words[:1] == ["VALUE"] and len(words) in (3, 4):
        if words[3:] not in ([], ["MAX"]):
            raise _nonsense(reply)
        if words[3:] and not kind.peak:
            raise AxleError(
                "instrument",
                given="its held maximum",
                wanted="a steady reading",
                do="Switch its hold off: a maximum is the breakaway, not the running torque.",
            )
        unit = unit_named(words[2], "instrument")
        if unit.dimension is not kind.dimension:
            raise AxleError(
                "instrument",
                given=f"a reading in {unit.symbol}",
                wanted=f"a {kind.dimension.value}",
                do="Is the right instrument connected? Nothing was stored.",
            )
        return parse(f"{words[1]} {unit.symbol}", unit, "instrument")
    if words[:1] == ["ERROR"]:
        raise _refused(reply)
    raise _nonsense(reply)


def order(line: str, what: str) -> str:
    """Identify an instrument, zero it, set its unit, or switch its held maximum; gives its answer.

    :raises AxleError: when it does not answer as it should.
    """
    if what not in ORDERS:
        raise AxleError("instrument", given=quoted(what, 20), wanted="something that it can be asked")
    asked = ORDERS[what]
    reply = _ask(line, asked)
    if reply.split()[:1] == ["ERROR"]:
        raise _refused(reply)
    if asked == "ID" and reply.startswith("ID "):
        return reply.removeprefix("ID ")[:80]
    if reply != asked:
        raise _nonsense(reply)
    return {"ZERO": "zeroed", "MAX on": "holds its maximum", "MAX off": "shows what it reads"}.get(
        asked, f"reads in {asked.removeprefix('UNITS ')}"
    )


def _refused(reply: str) -> AxleError:
    return AxleError(
        "instrument",
        given=quoted(" ".join(reply.split()[1:]), 60),
        wanted="a reading",
        do="Type what you read.",
    )


def _nonsense(reply: str) -> AxleError:
    return AxleError(
        "instrument",
        given=f"the answer {quoted(reply, 40)}",
        wanted="a value with its unit",
        do="Nothing was stored; type what you read.",
    )


def _ask(line: str, asked: str) -> str:
    """Open one instrument if it is named, ask it one line, and give its answer; all in good time."""
    host, _, port = settings.LASH_INSTRUMENT.rpartition(":")
    until = time.monotonic() + _PATIENCE_S
    try:
        with socket.create_connection((host, int(port)), timeout=_PATIENCE_S) as connection:
            if line:
                connection.sendall(f"OPEN {line}\n".encode("ascii"))
                _check_opened(line, _answer(connection, until))
            connection.sendall(f"{asked}\n".encode("ascii"))
            return _answer(connection, until)
    except AxleError:
        raise
    except (OSError, ValueError):
        raise AxleError(
            "instrument",
            given="no answer",
            wanted="a connected instrument that is switched on",
            do="Nothing was stored; type what you read.",
        ) from None


def _check_opened(line: str, reply: str) -> None:
    if reply.startswith("ERROR"):
        raise AxleError(
            "instrument",
            given=f"no “{line[:20]}” on the line",
            wanted="one that is connected",
            do="See the register of instruments for its name.",
        )
    if reply != f"OPEN {line}":
        raise _nonsense(reply)


def _answer(connection: socket.socket, until: float) -> str:
    """One whole line, by a moment that no dribble of bytes can move.

    :raises OSError: when it does not come in time, or the other side hangs up.
    :raises AxleError: for a line that is too long, or more than was asked for.
    """
    held = b""
    while b"\n" not in held:
        left = until - time.monotonic()
        if left <= 0:
            raise TimeoutError
        connection.settimeout(left)
        more = connection.recv(_LONGEST_ANSWER)
        if not more:
            raise ConnectionError
        held += more
        if len(held) > _LONGEST_ANSWER:
            break
    reply, ended, rest = held.partition(b"\n")
    text = reply.decode("ascii", "replace").strip()
    text = "".join(c if c.isprintable() else "\N{REPLACEMENT CHARACTER}" for c in text)
    if not ended or rest.strip():
        raise _nonsense(text)
    return text
