"""What the pages of the practice bench show: questions drawn, the truth beside what was believed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from axle.contact.mark import FlankMark
from axle.layout import Layout, Place
from axle.measure.units import Dimension, Display, show
from axle.practice.best import Best
from axle.practice.ladder import exercise_named
from axle.practice.questions import PATTERN_ANSWERS, SHIM_ANSWERS, pattern_question, shim_question
from axle.simulator.fault import FAULT_WORDS, Fault
from shop.drawing import flanks
from shop.drawing.section import section
from shop.jobs import simulated
from shop.jobs.actions import practice
from shop.jobs.formatting import place_words
from shop.jobs.job_axle import JobAxle
from shop.jobs.loading import load
from shop.jobs.models import PracticeRun
from shop.people.models import User

_SHIMS: Mapping[str, str] = {
    "depth": "The depth shim is made 5 thou thicker.",
    "preload": "The preload pack is made 5 thou thicker.",
    "ring": "The pack on the ring gear's side is made 5 thou thicker.",
    "far": "The pack on the far side is made 5 thou thicker.",
    "sides": "Both side packs are made 5 thou thicker.",
}
_TURNS: Mapping[str, str] = {
    "ring": "The adjuster on the ring gear's side is turned in by two holes.",
    "far": "The adjuster on the far side is turned in by two holes.",
    "sides": "Both adjusters are turned in by two holes.",
}
_ABOUT: Mapping[str, str] = {
    "head": "under the pinion's head",
    "cup": "behind the inner cup",
    "cartridge": "under the cartridge",
    "outboard": "outboard of the cups",
    "under_cone": "under the cones",
    "covers": "under bolted side covers",
    "adjusters": "in threaded adjusters",
    "sleeve": "a collapsible sleeve",
    "spacer": "a solid spacer and shims",
    "step": "shims against a step",
}


def round_context(run: PracticeRun) -> dict[str, Any]:
    """A round of questions: the one in hand, and what came of the one before."""
    exercise = exercise_named(run.exercise)
    at = len(run.answers)
    last = _question(run, at - 1) | run.answers[-1] if at else None
    over = run.ended_at is not None
    return {
        "run": run,
        "exercise": exercise,
        "number": at + 1,
        "count": exercise.questions,
        "question": None if over else _question(run, at),
        "last": last,
        "hint": run.hint_version == at + 1 and not over,
        "good": sum(row["given"] == row["right"] for row in run.answers),
    }


def right_answer(run: PracticeRun) -> tuple[str, int]:
    """The right answer to the question in hand, and how many are asked."""
    exercise = exercise_named(run.exercise)
    seed = _seed(run, len(run.answers))
    right = pattern_question(seed).answer if exercise.kind == "pattern" else shim_question(seed).answer
    return right, exercise.questions


def _seed(run: PracticeRun, at: int) -> int:
    return run.seed * 100 + at


def _question(run: PracticeRun, at: int) -> dict[str, Any]:
    if exercise_named(run.exercise).kind == "pattern":
        asked = pattern_question(_seed(run, at))
        drawn = [
            flanks.flank(name, FlankMark((patch,)), flanks.Shown(words=f"{name} flank"), title=name.title())
            for name, patch in asked.patches.items()
        ]
        answers = list(PATTERN_ANSWERS.items())
        hint = "Deep prints low on both flanks, shallow prints high: the heights decide, not the lengths."
        words = "A print of both flanks; the backlash is in range."
        return {
            "drawings": drawn,
            "answers": answers,
            "words": words,
            "hint": hint,
            "right_words": PATTERN_ANSWERS[asked.answer],
        }
    shim = shim_question(_seed(run, at))
    answers = list(SHIM_ANSWERS[shim.place].items())
    turns = shim.layout.has_adjusters and shim.place in _TURNS
    return {
        "drawings": [section(shim.layout)],
        "answers": answers,
        "about": _about(shim.layout),
        "words": _TURNS[shim.place] if turns else _SHIMS[shim.place],
        "right_words": SHIM_ANSWERS[shim.place][shim.answer],
        "hint": _hint(shim.place),
    }


_HELD = "Ask whether the shim pushes the bearing in, or holds its cover out; the ring gear follows."


def _about(layout: Layout) -> str:
    return (
        f"Depth shim {_ABOUT[layout.depth_shim.value]}, preload by {_ABOUT[layout.preload_by.value]}, "
        f"carrier {_ABOUT[layout.carrier_by.value]}."
    )


def _hint(place: str) -> str:
    return {
        "depth": "Ask what the shim pushes: the pinion's head, its cup, or the whole cartridge.",
        "preload": "A longer spacer holds the two cones apart.",
        "ring": _HELD,
        "far": _HELD,
        "sides": "Both bearings pushed in squeeze the carrier; both covers held out let it go.",
    }[place]


def result_context(run: PracticeRun, display: Display) -> dict[str, Any]:
    """The end of an exercise on an axle: score, truth beside belief, and the best that could be done."""
    assert run.job is not None
    axle, found = load(run.job, display), simulated.simulated_axle(run.job)
    assert found is not None
    best = practice.best_packs(found)
    return {
        "run": run,
        "job": run.job,
        "exercise": exercise_named(run.exercise),
        "lines": [(words, f"{points}".replace("-", "−")) for words, points in run.lines],
        "rows": [_told_row(told, display) for told in practice.truth_of(axle, found)],
        "wrong": practice.wrong_of(found, exercise_named(run.exercise)),
        "fault": FAULT_WORDS[Fault(run.fault)] if run.fault else "",
        "named": FAULT_WORDS[Fault(run.named)] if run.named else "",
        "steps": best.steps,
        "packs": _pack_rows(axle, best, display),
        "assembly": axle.assembly.number,
    }


def _told_row(told: practice.Told, display: Display) -> dict[str, str]:
    unit = display.length if told.dimension is Dimension.LENGTH else display.torque
    signed = told.label == "Depth error"
    believed = "not read"
    if told.believed is not None:
        believed = show(told.believed, unit, sign=signed)
        if told.spread:
            believed += f" ± {show(told.spread, unit)}"
    return {
        "label": told.label,
        "true": show(told.true, unit, sign=signed),
        "believed": believed,
        "unit": unit.symbol,
    }


def _pack_rows(axle: JobAxle, best: Best, display: Display) -> list[dict[str, str]]:
    rows = []
    layout = axle.spec.layout
    for place, value in best.packs.items():
        turned = layout.has_adjusters and place in (Place.RING, Place.FAR)
        now = float(axle.state.setting(place))
        rows.append(
            {
                "place": place_words(axle, place),
                "right": f"{value:.1f} holes" if turned else show(value, display.length),
                "now": f"{now:.1f} holes" if turned else show(now, display.length) if now else "—",
                "unit": "" if turned else display.length.symbol,
            }
        )
    return rows


def people_context(progress: list[tuple[User, Any]]) -> dict[str, Any]:
    """Everybody's best at every rung."""
    ladders = [rungs for _, rungs in progress]
    return {
        "people": [person for person, _ in progress],
        "rows": [(row[0].number, row[0].exercise.title, row) for row in zip(*ladders, strict=True)],
    }
