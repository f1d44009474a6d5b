"""The findings: the axle taken apart, one part in hand, what can be seen on it, and what becomes of it."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

from django.urls import reverse
from django.utils.http import urlencode

from axle.procedure.findings import DECISIONS, Found, Part, parts, questions, wanted_parts
from shop.drawing.damage import damage
from shop.drawing.exploded import ExplodedPart, exploded
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Finding

# What is pressed for each decision, and what it does to the part.
_DECISIONS = (("keep", "Keep"), ("dress", "Dress"), ("replace", "Replace"))
_MOST_KEYS = 9


def findings(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Every part with what was seen on it; one of them in hand."""
    newest = {row.part: row for row in axle.findings}
    left_open = [name for name in parts() if name not in newest]
    part = _in_hand(query.get("part", ""), left_open)
    here = reverse("findings", args=[axle.job.number])
    drawn = [
        ExplodedPart(
            name,
            one.short,
            state=_state(newest.get(name)),
            link=f"{here}?{urlencode({'part': name})}",
            current=part is not None and part.part == name,
        )
        for name, one in parts().items()
    ]
    return {
        "drawing": exploded(drawn),
        "part": part,
        "in_hand": None
        if part is None
        else _part(part, newest.get(part.part), query.get("sign", ""), here),
        "seen": [finding(row) for row in newest.values() if row.sign != "sound" or row.reason],
        "looked_at": len(newest),
        "count": len(parts()),
        "asked": questions(axle.found, axle.job.choices.get("oil", "")),
        "wanted": wanted_parts(axle.found),
        "flush": any(step.step == "inspect-flush" for step in axle.plan.steps),
        "entry": str(uuid.uuid4()),
    }


def finding(row: Finding) -> dict[str, Any]:
    """One finding in words."""
    found = Found(row.part, row.sign, decision=row.decision, reason=row.reason)
    return {
        "part": parts()[row.part].title,
        "name": row.part,
        "sign": found.seen.title,
        "key": row.sign,
        "cause": found.seen.cause,
        "check": found.seen.check,
        "decision": DECISIONS[row.decision],
        "decided": row.decision,
        "reason": row.reason,
        "by": row.signed_by,
        "at": row.at,
    }


def _in_hand(asked: str, left_open: list[str]) -> Part | None:
    if asked in parts():
        return parts()[asked]
    return parts()[left_open[0]] if left_open else None


def _state(row: Finding | None) -> str:
    if row is None:
        return "open"
    return "sound" if row.sign == "sound" else "seen"


def _part(part: Part, row: Finding | None, asked: str, here: str) -> dict[str, Any]:
    """The part in hand: each sign as a drawing, and the one that was chosen."""
    signs: list[dict[str, Any]] = [
        {
            "sign": sign,
            "drawing": damage(part.part, sign.sign),
            "link": f"{here}?{urlencode({'part': part.part, 'sign': sign.sign})}",
            "number": number if number <= _MOST_KEYS else "",
        }
        for number, sign in enumerate(part.signs, start=1)
    ]
    chosen = next((one for one in signs if one["sign"].sign == asked), None)
    return {
        "title": part.title,
        "signs": signs,
        "chosen": chosen,
        "found": finding(row) if row else None,
        "back": f"{here}?{urlencode({'part': part.part})}",
        "decisions": [
            {"key": str(number), "name": name, "words": words}
            for number, (name, words) in enumerate(_DECISIONS, start=1)
        ],
    }
