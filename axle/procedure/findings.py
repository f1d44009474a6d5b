"""Findings on the parts: what is seen, why, what else to look at, and what becomes of the part."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError, quoted

DECISIONS: Mapping[str, str] = {"keep": "kept", "dress": "dressed", "replace": "replaced"}


@dataclass(frozen=True)
class Sign:
    """Something that can be seen on a part.

    :param sign: its name in records.
    :param title: what is seen.
    :param cause: the likely cause.
    :param check: what else to look at.
    :param advise: what is usual: "keep", "dress" or "replace".
    :param flush: whether it opens the flush-and-inspect steps.
    """

    sign: str
    title: str
    cause: str
    check: str
    advise: str
    flush: bool


@dataclass(frozen=True)
class Part:
    """A part that is inspected, with the signs it can show, and what is replaced together with it.

    :param short: its name on a drawing.
    """

    part: str
    title: str
    signs: tuple[Sign, ...]
    partner: str = ""
    short: str = ""


@dataclass(frozen=True)
class Found:
    """A finding.

    :param part: name of the part.
    :param sign: name of what is seen.
    :param decision: "keep", "dress" or "replace".
    :param reason: why, a few words.
    :raises AxleError: for a part, sign or decision that does not exist, or no reason.
    """

    part: str
    sign: str
    decision: str
    reason: str

    def __post_init__(self) -> None:
        part = parts().get(self.part)
        if part is None:
            raise AxleError("part", given=f"“{self.part[:30]}”", wanted="a part that is inspected")
        if self.sign not in {sign.sign for sign in part.signs}:
            raise AxleError(
                part.title,
                given=f"“{self.sign[:30]}”",
                wanted=", ".join(sign.title for sign in part.signs),
            )
        if self.decision not in DECISIONS:
            raise AxleError(
                f"{part.title}, decision", given=f"“{self.decision[:20]}”", wanted="keep, dress or replace"
            )
        if self.sign != "sound" and len(self.reason.strip()) < 3:
            raise AxleError(
                f"{part.title}, reason",
                given=quoted(self.reason),
                wanted=f"why it is {DECISIONS[self.decision]}, in a few words",
            )

    @property
    def seen(self) -> Sign:
        """The sign in full."""
        return signs()[self.sign]


@cache
def signs() -> Mapping[str, Sign]:
    """Every sign by name.

    :raises AxleError: for advice that is no decision.
    :source: ``findings.toml``; common practice.
    """
    found = {}
    for name, row in _load()["sign"].items():
        if row["advise"] not in DECISIONS:
            raise AxleError("findings.toml", given=f"“{row['advise']}”", wanted="keep, dress or replace")
        found[name] = Sign(
            name,
            row["title"],
            cause=row["cause"],
            check=row["check"],
            advise=row["advise"],
            flush=row.get("flush", False),
        )
    return found


@cache
def parts() -> Mapping[str, Part]:
    """Every part by name.

    :source: ``findings.toml``; common practice.
    """
    return {
        name: Part(
            name,
            row["title"],
            signs=tuple(signs()[sign] for sign in row["signs"]),
            partner=row.get("partner", ""),
            short=row["short"],
        )
        for name, row in _load()["part"].items()
    }


def not_looked_at(found: Iterable[Found], without: Collection[str] = ()) -> tuple[str, ...]:
    """Name the parts that have no finding yet, not even that they are sound.

    :param found: the findings that stand.
    :param without: parts that the job does not inspect.
    :source: ``findings.toml``.

    >>> not_looked_at([Found(part, "sound", "keep", "") for part in parts()])
    ()
    """
    seen = {*without, *(finding.part for finding in found)}
    return tuple(f"{part.title}: not looked at yet." for name, part in parts().items() if name not in seen)


def wanted_parts(found: Iterable[Found]) -> tuple[Part, ...]:
    """The parts that are to be replaced, and so have to be at hand.

    :param found: the findings that stand.
    :source: the builder's decisions.

    >>> [part.part for part in wanted_parts([Found("gears", "chipped", "replace", "a tooth")])]
    ['gears']
    """
    return tuple(parts()[row.part] for row in found if row.decision == "replace")


def questions(found: Iterable[Found], oil: str) -> tuple[str, ...]:
    """What the findings leave open: partners of what is replaced, and metal that no part accounts for.

    :param found: the findings that stand.
    :param oil: the oil as found, as in ``choices.toml``.
    :returns: one sentence each; a reason beside "sound" answers it.
    :source: common practice: bearings are replaced in pairs, cone and cup together.

    >>> questions([Found("pinion_inner", "blue", "replace", "blue rollers")], "clean")[0][:37]
    'Pinion outer bearing and cup: its par'
    """
    rows = {row.part: row for row in found}
    lines = []
    for row in rows.values():
        partner = parts()[row.part].partner
        if row.decision != "replace" or not partner:
            continue
        other = rows.get(partner)
        if other is None or (other.decision != "replace" and not other.reason.strip()):
            lines.append(
                f"{parts()[partner].title}: its partner is replaced. Cone and cup go together, and so does "
                "the pair: replace it as well, or say why it stays."
            )
    told = [row for row in rows.values() if row.sign != "sound" or row.reason.strip()]
    if oil == "metal" and set(rows) == set(parts()) and not told:
        lines.append(
            "Metal was in the oil, and every part is called sound: where does it come from? Look again, or "
            "say at one of them where it came from."
        )
    return tuple(lines)


def contaminated(found: Iterable[Found]) -> bool:
    """Say whether a finding tells of water or metal in the oil.

    :param found: the findings that stand.
    :source: ``findings.toml``.

    >>> contaminated([Found("gears", "rust", "replace", "pitted")])
    True
    """
    return any(finding.seen.flush for finding in found)


def _load() -> dict[str, Any]:
    return read_table(__file__, "data/findings.toml", dict[str, Any])
