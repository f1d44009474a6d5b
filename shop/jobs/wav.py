"""A simulated drive as a file of sound."""

from __future__ import annotations

import io

import soundfile

from axle.simulator.recorder import Recording


def wav_of(taken: Recording) -> bytes:
    """A simulated drive as a WAV of 16 bits."""
    file = io.BytesIO()
    soundfile.write(file, taken.sound, taken.rate, format="WAV", subtype="PCM_16")
    return file.getvalue()
