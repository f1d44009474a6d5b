"""What is typed beside a recording, as the core takes it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import IO, Any, Final

from axle.errors import AxleError, quoted
from axle.gearing.offers import read_pair
from axle.gearing.tyres import Tread, read_tyre
from axle.measure.figures import read_number
from axle.noise.hearing import RECORDERS
from axle.noise.recording import SPEEDS, TONES, Given, ToldSpeed
from axle.noise.told import bearing_titles, read_bearing, read_marks, read_speeds, seconds_in
from shop.jobs.job_axle import JobAxle
from shop.people.request import whole_number

SPEED_WORDS: Final = {
    "marks": "typed: one, or several with their moments",
    "table": "a table, CSV with time and km/h, mph, m/s or rpm",
    "track": "a track, GPX",
    "pulses": "pulses on the second channel of a stereo recording",
    "tone": "by a tone of the recording itself",
}
_LARGEST_TRACK: Final = 4_000_000


def given_from(
    typed: Mapping[str, str], axle: JobAxle, track: IO[bytes] | None, before: Given | None = None
) -> Given:
    """Everything that is told beside a recording.

    :param before: what was told last: its table or track stays where no other came.
    """
    gears = axle.state.gears
    recorder = typed.get("recorder", "")
    if recorder not in RECORDERS:
        raise AxleError("recorded by", given=quoted(recorder, 20), wanted=", ".join(RECORDERS))
    around = read_tyre(typed.get("around", ""), Tread.UNKNOWN, "tyre").circumference.value / 1000
    gear, tread, teeth = (typed.get(name, "").strip() for name in ("gear", "tread", "teeth"))
    bearings = {
        name: read_bearing(typed[f"bearing-{name}"], title)
        for name, title in bearing_titles().items()
        if typed.get(f"bearing-{name}", "").strip()
    }
    return Given(
        recorder,
        _speed(typed, track, before, metric=axle.display.is_metric),
        around,
        *(read_pair(teeth) if teeth else (gears.pinion_teeth, gears.ring_teeth)),
        spans=read_marks(typed.get("spans", "")),
        gear=read_number(gear, "engine turns to one of the driveshaft", 0.2, 12.0) if gear else 0.0,
        tread=whole_number(tread, "tread blocks", 10, 150) if tread else 0,
        bearings=bearings,
    )


def _speed(
    typed: Mapping[str, str], track: IO[bytes] | None, before: Given | None, *, metric: bool
) -> ToldSpeed:
    kind = typed.get("speed_kind", "")
    if kind not in SPEEDS:
        raise AxleError("speed", given=quoted(kind, 20), wanted=", ".join(SPEEDS))
    if kind == "marks":
        return ToldSpeed(kind, marks=read_speeds(typed.get("speed", ""), metric=metric))
    if kind == "pulses":
        per_turn = typed.get("per_turn", "").strip() or "1"
        return ToldSpeed(kind, per_turn=read_number(per_turn, "pulses a driveshaft turn", 0.1, 400))
    if kind == "tone":
        frequency = read_number(typed.get("frequency", ""), "frequency of the tone, Hz", 20, 3000)
        is_a = typed.get("is_a", "")
        if is_a not in TONES:
            raise AxleError("tone", given=quoted(is_a, 20), wanted=", ".join(TONES.values()))
        return ToldSpeed(kind, at=seconds_in(typed.get("at", ""), "moment"), frequency=frequency, is_a=is_a)
    starts = typed.get("starts", "").strip()
    begins = read_number(starts, "the track begins at, s", -3600, 900) if starts else 0.0
    if track is None:
        if before is not None and before.speed.kind == kind:
            return ToldSpeed(kind, text=before.speed.text, starts=begins)
        raise AxleError("speed", given="no file", wanted=SPEED_WORDS[kind])
    raw = track.read(_LARGEST_TRACK + 1)
    if len(raw) > _LARGEST_TRACK:
        raise AxleError("speed", given="more than 4 MB", wanted="the table or the track of this drive")
    return ToldSpeed(kind, text=raw.decode("utf-8", errors="replace"), starts=begins)


def typed_of(given: Given, axle: JobAxle) -> dict[str, Any]:
    """What was told, as the form shows it again."""
    metric = axle.display.is_metric
    factor = 3.6 if metric else 3.6 / 1.609344
    marks = given.speed.marks
    speed = f"{marks[0][1] * factor:.4g}" if len(marks) == 1 else ""
    if len(marks) > 1:
        speed = ", ".join(f"{moment:g} {value * factor:.4g}" for moment, value in marks)
    return {
        "recorder": given.recorder,
        "speed_kind": given.speed.kind,
        "speed": speed,
        "starts": f"{given.speed.starts:g}" if given.speed.starts else "",
        "at": f"{given.speed.at:g}" if given.speed.kind == "tone" else "",
        "frequency": f"{given.speed.frequency:g}" if given.speed.kind == "tone" else "",
        "is_a": given.speed.is_a,
        "per_turn": f"{given.speed.per_turn:g}" if given.speed.kind == "pulses" else "",
        "around": f"{given.circumference * 1000:.0f} mm",
        "teeth": f"{given.ring_teeth}/{given.pinion_teeth}",
        "gear": f"{given.gear:g}" if given.gear else "",
        "tread": given.tread or "",
        "spans": ", ".join(f"{a:g}-{b:g} {state}" for a, b, state in given.spans),
        **{
            f"bearing-{name}": " ".join(f"{figure:g}" for figure in figures)
            for name, figures in given.bearings.items()
        },
    }
