"""How fast the ring gear turned during a recording: a constant, marks, a table, a track, or a tone."""

from __future__ import annotations

import csv
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Final
from xml.etree.ElementTree import Element

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring
from scipy.ndimage import uniform_filter1d
from scipy.signal import medfilt

from axle.errors import AxleError, quoted

# Speed of a speedometer or a tracker is known to 1 to 3 %: one standard deviation of its scale.
SCALE: Final = 0.016
# The clock of a tracker and of a recorder are apart by so much [s].
CLOCK: Final = 2.0
# A speed that is said at a moment is said so much early or late [s].
_PRESSED: Final = 1.0
# Nothing is driven faster [m/s], and a rolling circumference is within these [m].
_FASTEST: Final = 90.0
_AROUND: Final = (1.0, 4.5)
_MOST_POINTS: Final = 200_000
_LONGEST: Final = 4000
_EARTH: Final = 6_371_000.0
# Units of a speed column, in m/s; "rpm" is turns of the driveshaft, "ring_rpm" of the ring gear.
UNITS: Final = {"km/h": 1 / 3.6, "kmh": 1 / 3.6, "mph": 0.44704, "m/s": 1.0, "rpm": 0.0, "ring_rpm": 0.0}


@dataclass(frozen=True)
class SpeedTrack:
    """Turns of the ring gear over a recording.

    :param times: seconds from its start, rising, shape (n,).
    :param turns: turns of the ring gear a second, 0 or more, shape (n,).
    :param source: "constant", "marks", "table", "track", "rpm" or "tone".
    :param scale_std: how well its scale is known, one standard deviation [1].
    :param clock_std: how well its clock is [s].
    :param absolute: whether turns are turns; of a tone nobody named only the shape is known.
    :raises AxleError: for times that do not rise or turns that no axle makes.
    """

    times: np.ndarray
    turns: np.ndarray
    source: str
    scale_std: float = SCALE
    clock_std: float = 0.0
    absolute: bool = True

    def __post_init__(self) -> None:
        if len(self.times) != len(self.turns) or not len(self.times):
            raise AxleError("speed", given="no points", wanted="one or more, each with a time")
        if not (np.all(np.isfinite(self.times)) and np.all(np.isfinite(self.turns))):
            raise AxleError("speed", given="a point that is no number", wanted="numbers")
        if np.any(np.diff(self.times) <= 0):
            raise AxleError("speed", given="times that do not rise", wanted="each later than the last")
        if np.any(self.turns < 0) or float(self.turns.max()) > _FASTEST / _AROUND[0]:
            raise AxleError("speed", given=f"{self.turns.max():.0f} turns a second", wanted="0 to 90")

    def at(self, times: np.ndarray) -> np.ndarray:
        """Turns a second at some times [s], held at both ends."""
        found: np.ndarray = np.interp(times, self.times, self.turns)
        return found

    def shifted(self, seconds: float) -> SpeedTrack:
        """The same track with its clock later by so much [s]."""
        return replace(self, times=self.times + seconds)


def _circumference(value: float) -> float:
    if not _AROUND[0] <= value <= _AROUND[1]:
        raise AxleError(
            "rolling circumference",
            given=f"{value:g} m",
            wanted=f"{_AROUND[0]:g} to {_AROUND[1]:g} m: how far the vehicle goes in one turn of the tyre",
        )
    return value


def by_marks(points: Sequence[tuple[float, float]], circumference: float) -> SpeedTrack:
    """Speeds said at some moments, straight between them; one alone is a constant speed.

    :param points: time [s] and speed v [m/s, 0 to 90], in any order.
    :param circumference: C, rolling circumference [m, 1 to 4.5].
    :raises AxleError: for no point, two at one time, or a speed nobody drives.
    :source: turns = v/C.

    >>> by_marks([(0.0, 22.0)], 2.2).turns.tolist()
    [10.0]
    """
    around = _circumference(circumference)
    if not points:
        raise AxleError("speed", given="nothing", wanted="a speed, or several with their times")
    for _, speed in points:
        if not 0 <= speed <= _FASTEST:
            raise AxleError("speed", given=f"{speed:g} m/s", wanted=f"0 to {_FASTEST:g} m/s")
    times, speeds = np.array(sorted(points), dtype=float).T
    if len(points) == 1:
        return SpeedTrack(times, speeds / around, "constant")
    return SpeedTrack(times, speeds / around, "marks", clock_std=_PRESSED)


def read_speed_table(text: str, circumference: float, ratio: float) -> SpeedTrack:
    r"""A table of times and speeds, as CSV with a header.

    Columns: ``time`` in seconds, and one of ``km/h``, ``mph``, ``m/s``, ``rpm`` (of the driveshaft) or
    ``ring_rpm``.

    :param text: the file.
    :param circumference: C, rolling circumference [m, 1 to 4.5].
    :param ratio: R = N2/N1: the ring gear turns 1/R to one turn of the driveshaft.
    :raises AxleError: naming the line that is none.
    :source: turns = v/C, or rpm/60.

    >>> read_speed_table("time,rpm\n0,600\n10,1200\n", 2.2, 4.0).turns.tolist()
    [2.5, 5.0]
    """
    around = _circumference(circumference)
    rows = rows_of(text)
    names = [name.strip().lower() for name in next(rows, [])]
    known = [name for name in names if name in UNITS]
    if "time" not in names or not known:
        raise AxleError(
            "speed table",
            given=quoted(", ".join(names)),
            wanted=f"a first line with time and one of {', '.join(UNITS)}",
        )
    unit, at, of = known[0], names.index("time"), names.index(known[0])
    factor = UNITS[unit] / around or (1 / 60 if unit == "ring_rpm" else 1 / 60 / ratio)
    times, turns = [], []
    for number, row in enumerate(rows, 2):
        if not any(cell.strip() for cell in row):
            continue
        if number > _MOST_POINTS:
            raise AxleError("speed table", given="more lines", wanted=f"{_MOST_POINTS:,} at the most")
        try:
            time, value = float(row[at]), float(row[of])
        except (ValueError, IndexError):
            raise AxleError(
                f"speed table, line {number}",
                given=quoted(",".join(row)),
                wanted="a number for the time and one for the speed",
            ) from None
        times.append(time)
        turns.append(value * factor)
    engine = unit in ("rpm", "ring_rpm")
    return SpeedTrack(
        np.array(times),
        np.array(turns),
        "rpm" if engine else "table",
        scale_std=0.003 if engine else SCALE,
        clock_std=0.2 if engine else CLOCK,
    )


def by_pulses(times: np.ndarray, per_turn: float, ratio: float) -> SpeedTrack:
    """The speed by a tachometer's pulses, recorded beside the sound.

    :param times: of the pulses [s], rising, shape (n,).
    :param per_turn: pulses to one turn of the driveshaft, more than 0.
    :param ratio: R = N2/N1.
    :raises AxleError: for fewer than twenty pulses.
    :source: turns between pulses are even; a median over five takes out a missed one.

    >>> by_pulses(np.arange(100) * 0.05, 1.0, 4.0).turns[20].round(6).item()
    5.0
    """
    if len(times) < 20:
        raise AxleError(
            "pulses",
            given=f"{len(times)} in the second channel",
            wanted="a stereo recording with a tachometer's pulses on its second channel",
        )
    gaps = medfilt(np.diff(times), 5)[2:-2]
    middles = ((times[1:] + times[:-1]) / 2)[2:-2]
    turns = 1 / np.maximum(gaps, 1e-5) / per_turn / ratio
    # One point a tenth of a second is enough, and evens the gaps out.
    even = np.arange(middles[0], middles[-1], 0.1)
    kept = np.interp(even, middles, uniform_filter1d(turns, max(1, int(len(turns) / len(even)))))
    return SpeedTrack(even, kept, "rpm", scale_std=0.001)


def rows_of(text: str) -> Iterator[list[str]]:
    """Lines of a table, by commas, semicolons or tabs.

    :param text: the file.
    :source: RFC 4180, with the separators that programs write.

    >>> list(rows_of("a;b"))
    [['a', 'b']]
    """
    plain = text.lstrip("\ufeff").replace("\0", "").replace(";", ",").replace("\t", ",")
    for line in plain.splitlines():
        try:
            yield next(csv.reader([line[:_LONGEST]]), [])
        except csv.Error:
            yield [line]


def read_gpx(text: str, circumference: float, starts: float = 0.0) -> SpeedTrack:
    """A track of a positioning receiver, as GPX.

    :param text: the file; points with a time, and with a speed or a position.
    :param circumference: C, rolling circumference [m, 1 to 4.5].
    :param starts: when the track begins, in seconds of the recording; below 0 where it began before.
    :raises AxleError: for a file that is none, or that has fewer than two points with a time.
    :source: GPX 1.1; distance on a sphere of 6371 km.
    """
    around = _circumference(circumference)
    try:
        root: Element = fromstring(text)
    except (ParseError, DefusedXmlException, ValueError, RecursionError):
        raise AxleError("track", given="a file that cannot be read", wanted="a GPX file") from None
    points = [one for one in root.iter() if one.tag.rsplit("}", 1)[-1] == "trkpt"][:_MOST_POINTS]
    found = sorted(filter(None, (_point(one) for one in points)))
    earlier = [None, *found]
    rows = [row for row, before in zip(found, earlier, strict=False) if not before or row[0] > before[0]]
    if len(rows) < 2:
        given = f"{len(rows)} points with a time"
        raise AxleError("track", given=given, wanted="a GPX track of two or more")
    times = np.array([row[0] for row in rows])
    if times[-1] - times[0] > 24 * 3600:
        raise AxleError("track", given="more than a day", wanted="the track of this drive")
    known = [row[3] for row in rows]
    if all(speed is not None for speed in known):
        speeds = np.array(known, dtype=float)
    else:
        lat, lon = np.radians([row[1] for row in rows]), np.radians([row[2] for row in rows])
        gone = _EARTH * np.hypot(np.diff(lat), np.cos(lat[:-1]) * np.diff(lon))
        legs = gone / np.diff(times)
        middle = (times[:-1] + times[1:]) / 2
        speeds = np.interp(times, middle, legs)
    if speeds.max() > _FASTEST or speeds.min() < 0:
        raise AxleError("track", given=f"{speeds.max():.0f} m/s", wanted=f"0 to {_FASTEST:g} m/s")
    return SpeedTrack(times - times[0] + starts, speeds / around, "track", clock_std=CLOCK)


def _point(one: Element) -> tuple[float, float, float, float | None] | None:
    """Time [s], latitude and longitude [°], and speed [m/s] where the receiver gave one."""
    inner = {part.tag.rsplit("}", 1)[-1].lower(): (part.text or "").strip() for part in one.iter()}
    try:
        moment = datetime.fromisoformat(inner["time"])
        lat, lon = float(one.get("lat", "nan")), float(one.get("lon", "nan"))
        speed = float(inner["speed"]) if inner.get("speed") else None
    except (KeyError, ValueError):
        return None
    if not (math.isfinite(lat) and math.isfinite(lon)) or (speed is not None and not math.isfinite(speed)):
        return None
    aware = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    return aware.timestamp(), lat, lon, speed
