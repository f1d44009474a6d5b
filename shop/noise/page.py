"""What the page of a noise shows: questions with their answers, causes with their odds, what decides it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from axle.measure.units import percent
from axle.noise.account import UNKNOWN, account, questions
from axle.noise.lines import PHASES, answers_of
from shop.drawing.odds import Bar, odds_bars
from shop.jobs import noted_lines
from shop.jobs.job_axle import JobAxle


def noise_page(axle: JobAxle, query: Mapping[str, str], phase: str) -> dict[str, Any]:
    """Everything on the page.

    :param phase: "arrival" or "road".
    """
    del query
    lines = noted_lines.noise_of(axle.job)
    answers = answers_of(lines, phase)
    told = [answer for answer in answers.values() if answer != UNKNOWN]
    found = account(answers)
    following = found.next[0].name if found.next and not found.is_settled else ""
    before = (
        account(answers_of(lines, "arrival")) if phase == "road" and answers_of(lines, "arrival") else None
    )
    check = next((one for one in found.next if one.question.is_check and one.bits > 0), None)
    return {
        "phase": phase,
        "phase_words": PHASES[phase],
        "told": len(told),
        "asked": [
            _row(name, answers, following)
            for name, question in questions().items()
            if not question.is_check and name != following
        ],
        "checks": [
            _row(name, answers, following) for name, question in questions().items() if question.is_check
        ],
        "following": _row(following, answers, following) if following else None,
        "check": check,
        "found": found,
        "likely": found.ranked[0] if told else None,
        "chance": percent(found.ranked[0].chance) if told else "",
        "drawing": odds_bars([Bar(one.cause.title, one.chance, one.cause.axle) for one in found.ranked[:8]])
        if told
        else None,
        "first": [(one.cause.title, percent(one.chance), one.cause.cure) for one in found.first]
        if told
        else [],
        "cures": [(one.cause.title, one.cause.cure) for one in found.ranked[:4]] if told else [],
        "before": [(one.cause.title, percent(one.chance)) for one in before.ranked[:3]] if before else [],
        "complaint": axle.job.complaint,
        "noise": axle.job.arrival.get("noise", ""),
    }


def _row(name: str, answers: Mapping[str, str], following: str) -> dict[str, Any]:
    question = questions()[name]
    return {
        "name": name,
        "question": question,
        "answers": [*question.answers.items(), (UNKNOWN, "nobody knows")],
        "answer": answers.get(name, ""),
        "next": name == following,
    }
