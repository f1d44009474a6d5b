"""How long ten minutes of sound at 48 kHz take, and how much memory."""

from __future__ import annotations

import resource
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile

from axle.noise.recording import Given, ToldSpeed, analyse
from shop.noise.sound_files import taken_apart

RATE, MINUTES = 48_000, 10


def main() -> None:
    source = np.random.default_rng(1)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.wav"
        turns = 0.0
        with soundfile.SoundFile(path, "w", RATE, 2, "PCM_24") as file:
            for second in range(MINUTES * 60):
                speed = 9 + 2 * np.sin(second / 20)
                angle = turns + np.arange(RATE) / RATE * speed
                turns = angle[-1] + speed / RATE
                wave = 0.05 * np.cos(2 * np.pi * 41 * angle) + 0.1 * source.standard_normal(RATE)
                file.write(np.column_stack([wave, wave]))
        marks = tuple((float(t), 2.2 * (9 + 2 * np.sin(t / 20))) for t in range(0, 600, 5))
        given = Given("phone", ToldSpeed("marks", marks=marks), 2.2, 11, 41)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        began = time.perf_counter()
        with path.open("rb") as raw:
            bands = taken_apart(raw, table=False, progress=lambda _: None)
        read = time.perf_counter() - began
        result = analyse(bands, given)
        print(f"{path.stat().st_size / 1e6:.0f} MB, {MINUTES} min at {RATE} Hz, stereo, 24 bit")
        print(f"read {read:.1f} s, whole {time.perf_counter() - began:.1f} s; {result.outcomes[0].title}")
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(f"memory at the most {peak:.0f} MB, {before:.0f} MB of it before the file was opened")


if __name__ == "__main__":
    main()
