"""What is typed beside a recording: speeds at moments, and where it pulled, coasted and floated."""

from __future__ import annotations

import re
from typing import Final

import numpy as np

from axle.errors import AxleError, quoted
from axle.measure.figures import SPEED, read_figure, read_number
from axle.noise.orders import Bearing, usual_bearings
from axle.noise.spectra import STATES, Span
from axle.noise.speed import rows_of

_SECONDS: Final = 900.0
_MOST: Final = 200
_KMH: Final = 3.6
# A speed alone, its unit beside it or not.
_ALONE: Final = re.compile(r"[\d.,]+\s*[a-z/]*", re.IGNORECASE)
# Rates of an accelerometer's table [Hz].
_RATES: Final = (50.0, 1000.0)


def seconds_in(text: str, what: str = "time") -> float:
    """A moment of a recording [s]: seconds, or minutes and seconds.

    :param text: such as ``75`` or ``1:15``.
    :param what: named in an error.
    :raises AxleError: for anything else, or more than 15 minutes.
    :source: the project's own words.

    >>> seconds_in("1:15"), seconds_in("7.5")
    (75.0, 7.5)
    """
    found = re.fullmatch(r"(?:(\d{1,2}):)?(\d{1,3}(?:[.,]\d{1,3})?)(?:\s*s)?", text.strip())
    value = float(found[1] or 0) * 60 + float(found[2].replace(",", ".")) if found else -1.0
    if not 0 <= value <= _SECONDS:
        raise AxleError(what, given=quoted(text, 20), wanted="seconds such as 75, or 1:15, up to 15:00")
    return value


def read_speeds(text: str, *, metric: bool) -> tuple[tuple[float, float], ...]:
    """Speeds as they were said: one alone, or several, each with its moment.

    :param text: such as ``45`` or ``0 40, 0:20 55, 0:45 55``; km/h or mph may stand beside each.
    :param metric: bare speeds are km/h, else mph.
    :returns: moment [s] and speed [m/s].
    :raises AxleError: naming what cannot be read.
    :source: the project's own words.

    >>> [round(v, 1) for _, v in read_speeds("0 36, 0:20 72", metric=True)]
    [10.0, 20.0]
    """
    unit = "km/h" if metric else "mph"
    parts = [part.strip() for part in re.split(r"[,;\n]+", text) if part.strip()]
    if not parts:
        raise AxleError("speed", given="nothing", wanted="a speed, or several such as 0 40, 0:20 55")
    if len(parts) > _MOST:
        raise AxleError("speed", given=f"{len(parts)} marks", wanted=f"{_MOST} at the most")
    if len(parts) == 1 and _ALONE.fullmatch(parts[0]):
        return ((0.0, read_figure(parts[0], SPEED, "speed", unit) / _KMH),)
    found = []
    for part in parts:
        moment, _, speed = part.partition(" ")
        if not speed.strip():
            raise AxleError("speed", given=quoted(part, 20), wanted="a moment and a speed, such as 0:20 55")
        value = read_figure(speed, SPEED, f"speed at {moment}", unit) / _KMH
        found.append((seconds_in(moment, "moment of a speed"), value))
    return tuple(sorted(found))


def read_marks(text: str) -> tuple[tuple[float, float, str], ...]:
    """Where it pulled, coasted and floated.

    :param text: such as ``0-12 drive, 12-20 coast, 0:30-0:45 float``.
    :returns: begin and end [s] and state.
    :raises AxleError: naming what cannot be read.
    :source: the project's own words.

    >>> read_marks("0-12 drive, 0:12-0:20 coast")
    ((0.0, 12.0, 'drive'), (12.0, 20.0, 'coast'))
    """
    found = []
    for part in [part.strip() for part in re.split(r"[,;\n]+", text) if part.strip()][: _MOST + 1]:
        shape = re.fullmatch(r"([\d:.]+)\s*(?:-|–|to)\s*([\d:.]+)\s*s?\s+([a-z]+)", part.lower())
        if shape is None:
            raise AxleError(
                "marks", given=quoted(part, 30), wanted=f"such as 0-12 drive, with {', '.join(STATES)}"
            )
        span = Span(seconds_in(shape[1], "begin"), seconds_in(shape[2], "end"), shape[3])
        found.append((span.begins, span.ends, span.state))
    if len(found) > _MOST:
        raise AxleError("marks", given=f"{len(found)}", wanted=f"{_MOST} at the most")
    return tuple(found)


def read_bearing(text: str, title: str) -> tuple[int, float, float, float]:
    """Figures of a bearing: rollers, their diameter, pitch diameter, angle.

    :param text: such as ``17 11.5 62 14``, lengths in one unit, the angle in degrees.
    :param title: of the bearing, named in an error.
    :raises AxleError: for figures that no bearing has.
    :source: :class:`axle.noise.orders.Bearing`.

    >>> read_bearing("17 11.5 74 14", "carrier bearing")
    (17, 11.5, 74.0, 14.0)
    """
    parts = text.replace("°", " ").split()
    if not 3 <= len(parts) <= 4:
        raise AxleError(
            title,
            given=quoted(text, 30),
            wanted="rollers, roller diameter, pitch diameter and angle, such as 17 11.5 74 14",
        )
    named = ("rollers", "roller diameter", "pitch diameter", "angle")
    figures = [
        read_number(part, f"{title}, {name}", 0.0, 2000.0) for part, name in zip(parts, named, strict=False)
    ]
    if figures[0] != round(figures[0]):
        raise AxleError(f"{title}, rollers", given=parts[0][:20], wanted="a whole number")
    angle = figures[3] if len(figures) == 4 else 0.0
    bearing = Bearing(int(figures[0]), figures[1], figures[2], angle)
    return bearing.rollers, bearing.roller, bearing.pitch, bearing.angle


def bearing_titles() -> dict[str, str]:
    """Bearings whose figures may be typed, by name.

    :source: ``data/bearings.toml``.

    >>> bearing_titles()["carrier"]
    'carrier bearing'
    """
    return {name: usual.title for name, usual in usual_bearings().items()}


def read_acceleration(text: str) -> tuple[int, np.ndarray]:
    """A table of an accelerometer, as CSV with a header, evenly spaced again.

    Columns: time in seconds first, then one to three axes in any unit; names are free.

    :param text: the file.
    :returns: rate [Hz], and samples, full scale 1, shape (n, axes).
    :raises AxleError: naming the line that is none, or a rate that no phone has.
    :source: linear interpolation onto an even clock.
    """
    rows = rows_of(text)
    header = next(rows, [])
    axes = min(len(header) - 1, 3)
    if axes < 1:
        raise AxleError(
            "accelerometer", given=quoted(",".join(header)), wanted="a first line such as time,x,y,z"
        )
    values = []
    for number, row in enumerate(rows, 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            values.append([float(cell) for cell in row[: axes + 1]])
        except ValueError:
            values.append([])
        if len(values[-1]) != axes + 1 or len(values) > _SECONDS * _RATES[1]:
            raise AxleError(
                f"accelerometer, line {number}",
                given=quoted(",".join(row)),
                wanted=f"a time and {axes} numbers, 15 minutes at the most",
            )
    table = np.array(values, dtype=float).reshape(len(values), axes + 1)
    table = table[np.all(np.isfinite(table), axis=1)]
    if len(table) < 100:
        raise AxleError("accelerometer", given=f"{len(table)} lines", wanted="a minute of driving")
    steps = np.diff(table[:, 0])
    if np.any(steps < 0):
        raise AxleError("accelerometer", given="times that run back", wanted="each later than the last")
    rate = 1 / float(np.median(steps)) if np.median(steps) > 0 else 0.0
    if not _RATES[0] * 0.95 <= rate <= _RATES[1] * 1.05:
        raise AxleError(
            "accelerometer",
            given=f"{rate:.0f} readings a second",
            wanted="100 to 400 a second; the first column is the time in seconds",
        )
    even = max(100, round(rate))
    times = np.arange(table[0, 0], table[-1, 0], 1 / even)
    samples = np.column_stack([np.interp(times, table[:, 0], table[:, k + 1]) for k in range(axes)])
    samples -= samples.mean(axis=0)
    return even, samples / (1.05 * float(np.abs(samples).max()) + 1e-12)
