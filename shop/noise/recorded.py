"""A recording as it comes from a form: uploaded, or taken by the simulated recorder."""

from __future__ import annotations

import io
import random
from collections.abc import Mapping
from pathlib import PurePath
from typing import IO, Any, Final

import msgspec
from django.core.files.uploadedfile import UploadedFile

from axle.errors import AxleError, quoted
from axle.noise.hearing import RECORDERS
from axle.noise.recording import Given, ToldSpeed
from axle.simulator.recorder import TRUTHS, Recording, RecordingWorld
from shop.jobs.actions import recordings
from shop.jobs.job_axle import JobAxle
from shop.jobs.wav import wav_of
from shop.noise import sound_files
from shop.noise.recording_form import given_from
from shop.noise.speed_map import pointed_at
from shop.people.models import User
from shop.people.request import whole_number
from shop.worksheets.page import entry_in, version_in

# A simulated drive is so long [s], at such a rate [Hz].
_SECONDS: Final = 40.0
_RATE: Final = 16_000


def record(
    user: User,
    axle: JobAxle,
    typed: Mapping[str, str],
    phase: str,
    sound: UploadedFile[Any],
    track: IO[bytes] | None,
) -> str:
    """Keep an uploaded recording."""
    name = PurePath(sound.name or "recording").name[:120]
    sound_files.check_size(sound.size or 0)
    given = given_from(typed, axle, track)
    table = not RECORDERS[given.recorder].sound and name.lower().endswith(".csv")
    seen = sound_files.looked_at(sound, table=table)
    recorded = {
        "phase": phase,
        "name": name,
        "recorder": given.recorder,
        "rate": seen["rate"],
        "seconds": seen["seconds"],
    }
    recordings.keep(user, axle.job, version_in(typed), recorded, sound, given, entry_in(typed))
    return f"{name} is kept: {seen['seconds']:.0f} s. It is listened to now."


def again(user: User, axle: JobAxle, typed: Mapping[str, str], track: IO[bytes] | None) -> str:
    """Listen again, with other things told beside it; or with a tone that was pointed at on the map."""
    number = whole_number(typed.get("line"), "recording")
    row = recordings.line_of(axle.job, number)
    last = row.works.order_by("-id").first()
    before = recordings.given_of(last) if last is not None else None
    if typed.get("map.x") and before is not None and last is not None and last.result:
        x, y = (whole_number(typed.get(f"map.{name}"), "place on the map") for name in "xy")
        at, frequency = pointed_at(recordings.result_of(last).map, x, y)
        pointed = ToldSpeed("tone", at=at, frequency=max(frequency, 20.0))
        given = msgspec.structs.replace(before, speed=pointed)
    else:
        given = given_from(typed, axle, track, before)
    recordings.ask_again(user, axle.job, number, given)
    return f"{row.values['name']} is listened to again."


def simulate(user: User, axle: JobAxle, typed: Mapping[str, str], phase: str) -> str:
    """Take a recording by the simulated recorder, of a truth that somebody chose or that it draws."""
    truth = typed.get("truth", "") or random.SystemRandom().choice(TRUTHS)
    if truth not in TRUTHS:
        raise AxleError("simulated", given=quoted(truth, 20), wanted=", ".join(TRUTHS))
    taken, file = drive(truth, random.SystemRandom().randrange(1_000_000), axle)
    keep_drive(user, axle, taken, file, phase, typed)
    return "The simulated recorder has driven. It is listened to now."


def drive(truth: str, seed: int, axle: JobAxle, level: float = 8.0) -> tuple[Recording, IO[bytes]]:
    """A simulated drive with this axle's own teeth, as a WAV."""
    gears = axle.state.gears
    world = RecordingWorld(seed, (_RATE,), teeth=(gears.pinion_teeth, gears.ring_teeth))
    taken = world.recording(truth, seed, level=level, seconds=_SECONDS)
    return taken, io.BytesIO(wav_of(taken))


def keep_drive(
    user: User, axle: JobAxle, taken: Recording, file: IO[bytes], phase: str, typed: Mapping[str, Any]
) -> None:
    """Keep a simulated drive as any other recording."""
    recorder = "phone_accelerometer" if taken.accelerometer else "phone"
    recorded = {
        "phase": phase,
        "name": "simulated.wav",
        "recorder": recorder,
        "rate": taken.rate,
        "seconds": round(len(taken.sound) / taken.rate, 2),
        "simulated": True,
    }
    recordings.keep(user, axle.job, version_in(typed), recorded, file, given_by(taken), entry_in(typed))


def given_by(taken: Recording) -> Given:
    """What the simulated recorder tells beside a drive."""
    return Given(
        "phone_accelerometer" if taken.accelerometer else "phone",
        ToldSpeed("marks", marks=tuple((float(t), float(v)) for t, v in taken.speeds)),
        round(taken.circumference, 3),
        *taken.teeth,
        spans=tuple((round(a, 1), round(b, 1), state) for a, b, state in taken.marks if b - a > 0.2),
        gear=round(taken.gear, 3),
    )
