"""Listens to recordings outside the request: one after the other, as many workers as wished."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Final

from django.db import close_old_connections

from axle.errors import AxleError
from axle.noise.hearing import recorder_named
from axle.noise.recording import analyse
from shop.jobs.actions import recordings
from shop.jobs.models import SoundWork
from shop.noise import sound_files

# So long nothing is looked for where nothing waits [s].
_REST: Final = 1.0
_log = logging.getLogger(__name__)


def work_once() -> bool:
    """Listen to one recording, if one waits; whether there was one."""
    work = recordings.take_next()
    if work is None:
        return False
    try:
        _listen(work)
    except AxleError as problem:
        recordings.fail(work, str(problem))
    except OSError:
        recordings.fail(work, "Its file is gone from the storage: bring the media folder back.")
    except Exception:  # noqa: BLE001 - a recording must not stop those that wait behind it
        _log.exception("recording %s", work.pk)
        recordings.fail(work, "Something went wrong while it was listened to; it is in the server's log.")
    return True


def _listen(work: SoundWork) -> None:
    given = recordings.given_of(work)
    table = not recorder_named(given.recorder).sound and work.line.values["name"].lower().endswith(".csv")
    by_pulses, pulses = given.speed.kind == "pulses", None
    with work.line.sound.file.open("rb") as file:
        if by_pulses:
            pulses = sound_files.pulses_of(file)
            file.seek(0)
        bands = sound_files.taken_apart(
            file, table=table, first_alone=by_pulses, progress=lambda done: _said(work, done // 2)
        )
    recordings.finish(work, analyse(bands, given, lambda done: _said(work, 50 + done // 2), pulses))


def _said(work: SoundWork, progress: int) -> None:
    recordings.beat(work, progress)


def run(goes_on: Callable[[], bool]) -> None:
    """Work until told to stop."""
    while goes_on():
        close_old_connections()
        if not work_once():
            time.sleep(_REST)
