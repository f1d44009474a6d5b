"""The made-up shop's noise: what the post van's driver told, and a simulated drive before and after."""

from __future__ import annotations

import io
import uuid
from typing import Final

from axle.noise.lines import Told
from axle.simulator.recorder import RecordingWorld
from shop.jobs import loading
from shop.jobs.actions import noise, recordings
from shop.jobs.models import Job
from shop.jobs.wav import wav_of
from shop.noise import worker
from shop.noise.recorded import keep_drive
from shop.people.models import User

_VAN: Final = 411
_TOLD: Final = (
    ("sound", "tone"),
    ("drive", "yes"),
    ("coast", "no"),
    ("speed", "band"),
    ("neutral", "no"),
    ("surface", "same"),
)
# phase, truth, level over the road [dB]
_DRIVES: Final = (("arrival", "gear_drive", 9.0), ("road", "healthy", 0.0))
_WORLD: Final = 35
_RATE: Final = 8000
_SECONDS: Final = 40.0


def open_noise(owner: User, builder: User) -> None:
    """Write down what was told, take both drives, listen to them and keep what they say."""
    for question, answer in _TOLD:
        job = _job(builder)
        noise.tell(builder, job, job.version, Told("arrival", question, answer), uuid.uuid4())
    for phase, truth, level in _DRIVES:
        axle = loading.load(_job(builder))
        gears = axle.state.gears
        world = RecordingWorld(_WORLD, (_RATE,), teeth=(gears.pinion_teeth, gears.ring_teeth))
        taken = world.recording(truth, 3, level=level, seconds=_SECONDS)
        typed = {"version": str(axle.job.version), "entry": str(uuid.uuid4())}
        keep_drive(builder, axle, taken, io.BytesIO(wav_of(taken)), phase, typed)
        worker.work_once()
        job = _job(owner)
        work = recordings.newest_of(job)
        recordings.keep_verdict(owner, job, job.version, work, uuid.uuid4())


def _job(user: User) -> Job:
    job: Job = Job.objects.of(user.shop).get(number=_VAN)
    return job
