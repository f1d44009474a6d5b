"""What a recorder can hear and what it did to the sound: said, or seen in the recording itself."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from axle.errors import AxleError, quoted
from axle.noise.bands import Bands
from axle.noise.tracking import Tracked


@dataclass(frozen=True)
class Recorder:
    """What took a recording.

    :param title: in words.
    :param lowest: frequency under which it hears nothing [Hz].
    :param sound: it takes sound, not movement.
    """

    title: str
    lowest: float
    sound: bool = True


RECORDERS: Final[Mapping[str, Recorder]] = {
    "phone": Recorder("a phone's microphone", 90.0),
    "microphone": Recorder("a measuring microphone", 15.0),
    "accelerometer": Recorder("an accelerometer on the housing", 3.0, sound=False),
    "phone_accelerometer": Recorder("a phone's accelerometer", 0.5, sound=False),
}
# Road noise grows with speed by some 30 dB a tenfold [dB], from memory; gain control takes most of it out.
_GROWS: Final = 30.0


def recorder_named(name: str) -> Recorder:
    """A recorder by its name.

    :param name: key of :data:`RECORDERS`.
    :raises AxleError: for one that is none.
    :source: common practice; a phone's microphone says nothing below 80 to 100 Hz.

    >>> recorder_named("phone").lowest
    90.0
    """
    if name not in RECORDERS:
        raise AxleError("recorded by", given=quoted(name, 20), wanted=", ".join(RECORDERS))
    return RECORDERS[name]


def notes_on(bands: Bands, tracked: Tracked, recorder: Recorder) -> tuple[str, ...]:
    """What the recorder did to the sound, and what it cannot hear, in sentences.

    :param bands: the recording.
    :param tracked: where the ring gear stood: road noise grows with speed, a gain control takes that away.
    :param recorder: what took it.
    :source: common practice; shares from memory.
    """
    health, notes = bands.health, []
    if recorder.sound and recorder.lowest >= 80:
        order = recorder.lowest / float(np.mean(tracked.turns[tracked.turns > 0]))
        notes.append(
            f"Under {recorder.lowest:.0f} Hz, order {order:.1f} here, nothing is heard: what lies there is "
            "“not heard”, never “absent”."
        )
    if health.clipped > 1e-4:
        notes.append(
            f"{health.clipped:.2%} of it is clipped, which makes multiples of loud tones: go farther away."
        )
    if recorder.sound and _gain_controlled(bands, tracked):
        notes.append(
            "Its gain follows the loudness: levels at different speeds are not compared. Switch it off."
        )
    if health.gaps > 0.03:
        notes.append("It falls silent between: noise suppression. Switch it off, it eats steady tones.")
    if health.cut_at:
        notes.append(
            f"Cut off at {health.cut_at / 1000:.1f} kHz: coded with loss or filtered, blows above are lost."
        )
    if bands.seconds < 25:
        notes.append(f"{bands.seconds:.0f} s is short: a minute tells bearings better.")
    return tuple(notes)


def _gain_controlled(bands: Bands, tracked: Tracked) -> bool:
    """Whether the level stays although the speed does not."""
    levels = bands.health.levels
    times = (np.arange(len(levels)) + 0.5) * bands.seconds / max(len(levels), 1)
    turns = np.interp(times, tracked.times, tracked.turns)
    moving = turns > 0.3 * turns.max()
    if np.count_nonzero(moving) < 100:
        return False
    speed, level = np.log10(turns[moving]), levels[moving]
    if np.ptp(speed) < 0.12:
        return False
    slope = float(np.polyfit(speed, level, 1)[0])
    return slope < 0.2 * _GROWS
