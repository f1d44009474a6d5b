"""What the pages of the practice bench show: questions drawn, the truth beside what was believed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from axle.contact.mark import FlankMark
from axle.contact.reading import target_patch
from axle.errors import AxleError
from axle.layout import Layout, Place
from axle.measure.units import Dimension, Display, show
from axle.practice.best import Best
from axle.practice.ladder import exercise_named
from axle.practice.mistakes import Belief, mistakes
from axle.practice.questions import PATTERN_ANSWERS, SHIM_ANSWERS, pattern_question, shim_question
from axle.practice.sounds import HINTS, sound_question
from axle.simulator.fault import FAULT_WORDS, Fault
from shop.bench.panels.history import history_rows
from shop.drawing import flanks
from shop.drawing.order_marks import order_marks
from shop.drawing.order_spectrum import OrderLine, order_spectrum
from shop.drawing.section import Callout, section
from shop.jobs import simulated
from shop.jobs.actions import practice
from shop.jobs.formatting import place_words
from shop.jobs.job_axle import JobAxle
from shop.jobs.loading import load
from shop.jobs.models import Move, PracticeRun
from shop.jobs.wav import wav_of
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
    last = _question(run, at - 1, answered=True) | run.answers[-1] if at else None
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
    if exercise.kind == "sound":
        return sound_question(exercise.key, seed).answer, exercise.questions
    right = pattern_question(seed).answer if exercise.kind == "pattern" else shim_question(seed).answer
    return right, exercise.questions


def _seed(run: PracticeRun, at: int) -> int:
    return run.seed * 100 + at


def sound_asked(run: PracticeRun, number: int) -> bytes:
    """The sound of a question that was asked, as WAV.

    :raises AxleError: for one that is not asked yet.
    """
    exercise = exercise_named(run.exercise)
    if exercise.kind != "sound" or not 1 <= number <= min(len(run.answers) + 1, exercise.questions):
        raise AxleError("sound", given=f"question {number}", wanted="one that was asked")
    return wav_of(sound_question(exercise.key, _seed(run, number - 1)).taken)


def _sound(run: PracticeRun, at: int) -> dict[str, Any]:
    """A drive to hear, with its spectra by load, or its blows."""
    exercise = exercise_named(run.exercise)
    asked = sound_question(exercise.key, _seed(run, at))
    marks, tones = order_marks(asked.given), asked.result.tones
    styles = {"drive": "tick", "coast": "expected"}
    shown = [state for state in styles if state in tones] or ["all"]
    lines = [OrderLine(tones[s].orders, tones[s].levels, s, styles.get(s, "tick")) for s in shown]
    blows = OrderLine(asked.result.blows.orders, asked.result.blows.levels, "blows")
    unheard = asked.result.heard_from * asked.result.scale
    return {
        "drawings": [
            order_spectrum(lines, marks["tones"], unheard=unheard),
            order_spectrum([blows], marks["blows"], most=60.0),
        ],
        "sound": at + 1,
        "answers": list(asked.answers.items()),
        "words": "It " + ", then ".join(_STATE_WORDS[state] for _, _, state in asked.given.spans) + ".",
        "right_words": f"It was {asked.answers[asked.answer]}",
        "hint": HINTS[exercise.key],
    }


_STATE_WORDS: Mapping[str, str] = {"drive": "pulls", "coast": "coasts", "float": "floats"}


def _question(run: PracticeRun, at: int, *, answered: bool = False) -> dict[str, Any]:
    if exercise_named(run.exercise).kind == "sound":
        return _sound(run, at)
    if exercise_named(run.exercise).kind == "pattern":
        asked = pattern_question(_seed(run, at))
        drawn = [
            flanks.flank(
                name,
                FlankMark((patch,)),
                flanks.Shown(
                    words="" if answered else f"{name} flank",
                    # What was asked stands beside the ideal once it is answered.
                    target=[target_patch(name).outline] if answered else [],
                ),
                title=f"{name.title()}, the ideal dashed" if answered else name.title(),
            )
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
    told = practice.truth_of(axle, found)
    wrong = practice.wrong_of(found, exercise_named(run.exercise))
    made = list(run.job.moves.standing().select_related("assembly").order_by("id"))
    return {
        "run": run,
        "job": run.job,
        "exercise": exercise_named(run.exercise),
        "lines": [(words, f"{points}".replace("-", "−")) for words, points in run.lines],
        "rows": [_told_row(one, display) for one in told],
        "wrong": wrong,
        "drawing": _truth_drawn(axle, told, wrong, display),
        "strip": _strip(axle, made, display),
        "mistakes": mistakes(
            wrong,
            [_belief(one, display) for one in told],
            axle.assembly.number,
            exercise_named(run.exercise).par[0],
            [move.title for move in made],
        ),
        "fault": FAULT_WORDS[Fault(run.fault)] if run.fault else "",
        "named": FAULT_WORDS[Fault(run.named)] if run.named else "",
        "steps": best.steps,
        "packs": _pack_rows(axle, best, display),
        "assembly": axle.assembly.number,
    }


# What each line of the truth is, and where it stands on the section.
_TOLD: Mapping[str, tuple[str, str]] = {
    "Depth error": ("depth", Place.DEPTH.value),
    "Smallest backlash": ("backlash", "backlash"),
    "Pinion torque": ("pinion_preload", "pinion_preload"),
    "Carrier torque": ("carrier_preload", "carrier_preload"),
    "Ring gear runout": ("runout", "runout"),
}
_WRONG_OF: Mapping[str, str] = {
    "Depth error": "depth",
    "Smallest backlash": "backlash",
    "Pinion torque": "pinion preload",
    "Carrier torque": "carrier preload",
    "Ring gear runout": "spread",
}


def _belief(told: practice.Told, display: Display) -> Belief:
    row = _told_row(told, display)
    return Belief(
        _TOLD[told.label][0],
        told.label,
        told.true,
        told.believed,
        told.spread,
        (f"{row['true']} {row['unit']}", f"{row['believed']} {row['unit']}"),
    )


def _truth_drawn(axle: JobAxle, told: list[practice.Told], wrong: tuple[str, ...], display: Display) -> str:
    """The section with the truth at each place, and what was believed beside it."""
    drawn = []
    for one in told:
        row = _told_row(one, display)
        drawn.append(
            Callout(
                _TOLD[one.label][1],
                one.label,
                row["true"],
                f"said {row['believed'].split(' ±')[0]}" if one.believed is not None else "not read",
                status="out" if _WRONG_OF[one.label] in wrong else "in range",
                link="#truth",
            )
        )
    return str(section(axle.spec.layout, tuple(drawn)))


def _strip(axle: JobAxle, made: list[Move], display: Display) -> list[dict[str, Any]]:
    """Every assembly: the move that led to it, what was expected of it, and what came."""
    by_assembly: dict[int, list[Move]] = {}
    for move in made:
        by_assembly.setdefault(move.assembly.number, []).append(move)
    rows = []
    for row in history_rows(axle, len(axle.assemblies)):
        number = row["assembly"].number
        moves = by_assembly.get(number, [])
        rows.append(
            {
                "number": number,
                "moves": [move.title for move in moves],
                "expected": [line for move in moves for line in _expected(move, display)],
                "lash": row["lash"],
                "out": row["out"],
                "readings": sum(r.assembly_id == row["assembly"].pk for r in axle.valid_readings()),
            }
        )
    return rows


def _expected(move: Move, display: Display) -> list[str]:
    lines = []
    for row in move.expected:
        unit = display.unit_for(Dimension(row["dimension"]))
        lines.append(
            f"{row['label'].lower()} {show(row['low'], unit)}–{show(row['high'], unit)} {unit.symbol}"
        )
    return lines


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
