"""Files of sound: looked at before they are kept, read block by block, never as a whole."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from typing import IO, Any, Final

import numpy as np
import soundfile

from axle.errors import AxleError, quoted
from axle.noise.bands import LEAST_SECONDS, MOST_SECONDS, Bands, Splitter
from axle.noise.pulses import PulseTimes
from axle.noise.told import read_acceleration

_log = logging.getLogger(__name__)

LARGEST: Final = 500_000_000
# A table of an accelerometer is read as a whole.
_LARGEST_TABLE: Final = 60_000_000
_BLOCK: Final = 1 << 16
_FORMATS: Final = {"WAV": "WAV", "WAVEX": "WAV", "RF64": "WAV", "FLAC": "FLAC"}
_SUBTYPES: Final = ("PCM_16", "PCM_24", "PCM_32", "FLOAT", "DOUBLE")
_LEAST_RATE, _MOST_RATE = 8000, 192_000
_WANTED: Final = "WAV or FLAC, 16 to 32 bit, 8 to 192 kHz, mono or stereo, up to 15 minutes and 500 MB"


def check_size(size: int) -> None:
    """Refuse a file that is too large, before it is read.

    :raises AxleError: naming its size.
    """
    if size > LARGEST:
        raise AxleError(
            "recording", given=f"{size / 1e6:.0f} MB", wanted=_WANTED, do="Cut out the minute that counts."
        )
    if not size:
        raise AxleError("recording", given="an empty file", wanted=_WANTED)


def looked_at(file: IO[bytes], *, table: bool) -> dict[str, Any]:
    """What a file is: rate, seconds and channels, without reading it.

    :param table: it is an accelerometer's table.
    :raises AxleError: for one that is not taken, in words.
    """
    if table:
        rate, samples = read_acceleration(_text(file))
        return {"rate": rate, "seconds": round(len(samples) / rate, 2), "channels": samples.shape[1]}
    with _opened(file) as sound:
        return {
            "rate": sound.samplerate,
            "seconds": round(sound.frames / sound.samplerate, 2),
            "channels": sound.channels,
        }


def taken_apart(
    file: IO[bytes], *, table: bool, progress: Callable[[int], None], first_alone: bool = False
) -> Bands:
    """A file as bands, a block at a time.

    :param progress: is told how much is read, 0 to 100.
    :param first_alone: the second channel is no sound.
    :raises AxleError: for one that cannot be read to its end.
    """
    if table:
        rate, samples = read_acceleration(_text(file))
        splitter = Splitter(rate, samples.shape[1])
        splitter.feed(samples)
        return splitter.finish()
    with _opened(file) as sound:
        splitter = Splitter(sound.samplerate)
        for at, block in enumerate(_blocks(sound)):
            splitter.feed(block[:, 0] if first_alone else block.mean(axis=1))
            if at % 32 == 0:
                progress(min(99, int(100 * (at * _BLOCK) / max(sound.frames, 1))))
        return splitter.finish()


def pulses_of(file: IO[bytes]) -> np.ndarray:
    """Times of a tachometer's pulses on the second channel [s]."""
    with _opened(file) as sound:
        if sound.channels != 2:
            raise AxleError(
                "pulses", given="one channel", wanted="a stereo recording, pulses on the second"
            )
        pulses = PulseTimes(
            sound.samplerate, [(row[:, 1].min(), row[:, 1].max()) for row in _blocks(sound)]
        )
        sound.seek(0)
        for block in _blocks(sound):
            pulses.feed(block[:, 1])
        return pulses.times


def _blocks(sound: soundfile.SoundFile) -> Iterator[np.ndarray]:
    """Blocks of all channels, until the end or where the file breaks off."""
    while True:
        try:
            block = sound.read(_BLOCK, dtype="float32", always_2d=True)
        except soundfile.SoundFileRuntimeError as problem:
            _log.warning(
                "a recording breaks off at frame %s of %s: %s", sound.tell(), sound.frames, problem
            )
            raise AxleError(
                "recording", given="a file that breaks off", wanted="a whole file", do="Copy it again."
            ) from None
        if not len(block):
            return
        yield block


def _text(file: IO[bytes]) -> str:
    raw = file.read(_LARGEST_TABLE + 1)
    if len(raw) > _LARGEST_TABLE:
        raise AxleError("accelerometer", given="more than 60 MB", wanted="15 minutes at the most")
    return raw.decode("utf-8", errors="replace")


def _opened(file: IO[bytes]) -> soundfile.SoundFile:
    try:
        sound = soundfile.SoundFile(file)
    except (soundfile.SoundFileError, RuntimeError, TypeError, ValueError, OSError):
        raise AxleError("recording", given="a file that is no sound", wanted=_WANTED) from None
    seconds = sound.frames / max(sound.samplerate, 1)
    given = ""
    if sound.format not in _FORMATS or sound.subtype not in _SUBTYPES:
        given = f"{sound.format}, {sound.subtype}"
    elif not _LEAST_RATE <= sound.samplerate <= _MOST_RATE:
        given = f"{sound.samplerate} Hz"
    elif sound.channels > 2:
        given = f"{sound.channels} channels"
    elif not LEAST_SECONDS <= seconds <= MOST_SECONDS:
        given = f"{seconds:.1f} s"
    if given:
        sound.close()
        raise AxleError("recording", given=quoted(given), wanted=_WANTED)
    return sound
