"""A simulated recorder: drives with a known truth, as a phone or an accelerometer takes them.

Written on its own equations: the analysis is held to these recordings and knows nothing of them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Final

import numpy as np
from scipy import fft, signal
from scipy.ndimage import gaussian_filter1d

from axle.contact.cut import cut
from axle.data_file import read_table
from axle.errors import AxleError

TRUTHS: Final = (
    "gear_drive",
    "gear_coast",
    "gear_tooth",
    "pinion_bearing",
    "carrier_bearing",
    "wheel_bearing",
    "tyre",
    "shaft",
    "engine",
    "healthy",
)
# Teeth of sets in the trade.
_TEETH: Final = (
    (9, 35),
    (9, 38),
    (10, 41),
    (11, 41),
    (11, 39),
    (13, 43),
    (9, 37),
    (8, 39),
    (12, 41),
    (13, 40),
)
# Rollers, share of their diameter and angle, of bearings by shaft.
_BEARINGS: Final = {
    "pinion_head": ((14, 20), (0.13, 0.19), (12, 22)),
    "pinion_tail": ((13, 18), (0.14, 0.20), (11, 18)),
    "carrier": ((17, 24), (0.10, 0.15), (10, 18)),
    "wheel": ((9, 22), (0.11, 0.22), (0, 18)),
}
# So far under the road nothing is put in [dB].
_UNHEARD: Final = -30.0
_STATES: Final = ("drive", "float", "coast")


@dataclass(frozen=True)
class Recording:
    """A recording, and what its maker knows beside it.

    :param sound: samples, full scale 1, shape (n,).
    :param rate: sampling rate [Hz].
    :param truth: of :data:`TRUTHS`.
    :param detail: what of it, for bearings the bearing and the part.
    :param level: of the truth in its third octave over all else [dB].
    :param speeds: time [s] and speed [m/s] as they were told, shape (n, 2).
    :param marks: begin and end [s] with "drive", "coast" or "float", as they were pressed.
    :param circumference: rolling circumference as it was told [m].
    :param teeth: N1 and N2.
    :param bearings: rollers, roller and pitch diameter and angle of the axle's bearings, by name.
    :param gear: turns of the engine to one of the driveshaft.
    :param angle: truth: turns of the ring gear at ``angle_times``, shape (n,).
    :param angle_times: [s].
    :param accelerometer: whether a phone's accelerometer took it.
    """

    sound: np.ndarray
    rate: int
    truth: str
    detail: str
    level: float
    speeds: np.ndarray
    marks: tuple[tuple[float, float, str], ...]
    circumference: float
    teeth: tuple[int, int]
    bearings: Mapping[str, tuple[int, float, float, float]]
    gear: float
    angle: np.ndarray
    angle_times: np.ndarray
    accelerometer: bool = False


@cache
def _table() -> Mapping[str, Mapping[str, Any]]:
    return read_table(__file__, "recorder.toml", dict[str, Any])


@cache
def _errors(teeth: tuple[int, int], depth: float, convex: bool) -> np.ndarray:
    """Sizes of the mesh tone's harmonics: of the transmission error that the contact engine computes."""
    item = cut("large_cutter", *teeth, 222.0)
    meshing = item.meshing(convex=convex)
    wave = meshing.transmission_error(item.ease(convex=convex), depth=depth)
    sizes: np.ndarray = np.abs(np.fft.rfft(wave))[1:5]
    relative: np.ndarray = sizes / (sizes.max() + 1e-12)
    return relative


@dataclass
class RecordingWorld:
    """One world of recordings: its ranges are drawn once, each recording anew.

    :param seed: any whole number.
    :param rates: sampling rates that occur [Hz].
    :param teeth: N1 and N2 of every axle; drawn where they are 0.
    :raises AxleError: for a truth that is none.
    :source: ``recorder.toml``: from memory.
    """

    seed: int
    rates: tuple[int, ...] = (16_000, 22_050, 44_100, 48_000)
    teeth: tuple[int, int] = (0, 0)
    ranges: dict[tuple[str, str], tuple[float, float]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        source = np.random.default_rng([self.seed, 1])
        for group, figures in _table().items():
            for name, (low, high) in figures.items():
                one, other = np.sort(source.uniform(low, high, 2))
                middle, half = (one + other) / 2, max((other - one) / 2, 0.15 * (high - low))
                self.ranges[group, name] = (max(low, middle - half), min(high, middle + half))

    def recording(
        self, truth: str, number: int, *, level: float | None = None, seconds: float = 62.0, rate: int = 0
    ) -> Recording:
        """Make a recording.

        :param truth: of :data:`TRUTHS`.
        :param number: any whole number; the same one makes the same.
        :param level: of the truth in its third octave over all else [dB]; drawn where it is not said.
        :param seconds: its length [s].
        :param rate: its sampling rate [Hz]; drawn where it is not said.
        :raises AxleError: for a truth that is none.
        """
        if truth not in TRUTHS:
            raise AxleError("truth", given=truth[:20], wanted=", ".join(TRUTHS))
        source = np.random.default_rng([self.seed, 2, number, TRUTHS.index(truth)])
        return _Take(self, truth, source, seconds=seconds, rate=rate, level=level).made()

    def draw(self, group: str, name: str, source: np.random.Generator) -> float:
        """A figure of this world."""
        return float(source.uniform(*self.ranges[group, name]))


class _Take:
    """One recording while it is made."""

    def __init__(
        self,
        world: RecordingWorld,
        truth: str,
        source: np.random.Generator,
        *,
        seconds: float,
        rate: int,
        level: float | None,
    ) -> None:
        self.world, self.truth, self.source, self.seconds = world, truth, source, seconds
        # Slow turning of the driveshaft is under a phone's microphone: an accelerometer takes it.
        self.accelerometer = truth == "shaft" or (truth == "healthy" and source.random() < 0.1)
        self.rate = rate or int(source.choice((200, 400) if self.accelerometer else world.rates))
        self.level = level if level is not None else _level(source)
        self.detail = ""
        drawn = _TEETH[int(source.integers(len(_TEETH)))]
        self.teeth = world.teeth if world.teeth[0] else drawn
        self.ratio = self.teeth[1] / self.teeth[0]
        self.bearings = {name: self._bearing(name) for name in _BEARINGS}
        self.gear_ratio = 1.0 if source.random() < 0.5 else self.of("engine", "gear")
        self.count = int(seconds * self.rate)
        self.times = np.arange(self.count) / self.rate
        self._drive()
        self.path = self._path()

    def of(self, group: str, name: str) -> float:
        return self.world.draw(group, name, self.source)

    def _bearing(self, name: str) -> tuple[int, float, float, float]:
        (few, many), (thin, thick), (flat, steep) = _BEARINGS[name]
        share = float(self.source.uniform(thin, thick))
        most = min(many, int(0.95 * math.pi / share))
        rollers = int(self.source.integers(few, max(most, few) + 1))
        pitch = float(self.source.uniform(45, 80))
        return rollers, share * pitch, pitch, float(self.source.uniform(flat, steep))

    def _drive(self) -> None:
        """Speed, load and angle, and what is told of them."""
        source, rate = self.source, 50.0
        times = np.arange(0, self.seconds + 2, 1 / rate)
        speed, state = np.zeros(len(times)), np.zeros(len(times), dtype=int)
        now, at, which = self.of("drive", "speed"), 0, int(source.integers(3))
        while at < len(times):
            size = int(self.of("drive", "section") * rate)
            pull = self.of("drive", "pull")
            change = {0: pull, 1: 0.0, 2: -pull}[which]
            low, high = self.world.ranges["drive", "speed"]
            room = (high + 4 - now) if change > 0 else (now - low + 4)
            change = math.copysign(min(abs(change), max(room, 0.5) / (size / rate)), change)
            run = np.arange(min(size, len(times) - at)) / rate
            speed[at : at + len(run)] = now + change * run
            state[at : at + len(run)] = which
            now, at, which = now + change * size / rate, at + len(run), (which + 1) % 3
        slow = gaussian_filter1d(source.standard_normal(len(times)), 4 * rate)
        speed *= 1 + self.of("drive", "wander") * slow / (slow.std() + 1e-9)
        speed = gaussian_filter1d(speed, 0.4 * rate, mode="nearest")
        load = np.select([state == 0, state == 2], [1.0, -1.0], 0.0)
        self.load = np.interp(self.times, times, gaussian_filter1d(load, 0.3 * rate, mode="nearest"))
        self.speed = np.interp(self.times, times, speed)
        told = self.of("drive", "circumference")
        scale = 1 + float(source.uniform(-1, 1)) * self.of("drive", "scale")
        turned = speed * (1 + self.of("drive", "slip") * np.clip(load, 0, 1)) / told * scale
        angle = np.concatenate([[0], np.cumsum((turned[1:] + turned[:-1]) / 2 / rate)])
        self.angle, self.angle_times = angle, times
        self.theta = np.interp(self.times, times, angle)
        self.turns_slow, self.turns = turned, np.interp(self.times, times, turned)
        self.circumference = told
        clock = float(source.normal(0, self.of("drive", "clock")))
        seen = gaussian_filter1d(speed, max(1.0, self.of("drive", "lag") * rate), mode="nearest")
        seconds = np.arange(0, self.seconds + 1, 1.0)
        seen = np.interp(seconds + clock, times, seen) + source.normal(0, 0.05, len(seconds))
        self.told = np.column_stack([seconds, np.round(seen / 0.05) * 0.05])
        edges = np.flatnonzero(np.diff(state)) + 1
        begins = np.concatenate([[0], edges]) / rate
        ends = np.concatenate([edges, [len(times)]]) / rate
        off = self.of("drive", "marks")
        self.marks = tuple(
            (
                float(np.clip(a + source.uniform(-off, off), 0, self.seconds)),
                float(min(b, self.seconds)),
                _STATES[state[min(int(a * rate) + 1, len(state) - 1)]],
            )
            for a, b in zip(begins, ends, strict=True)
            if a < self.seconds
        )

    def _path(self) -> tuple[np.ndarray, np.ndarray]:
        """Gain from source to microphone by frequency."""
        frequencies = np.linspace(0, self.rate / 2, 2048)
        gain = np.full(len(frequencies), 0.3 + 0j)
        for _ in range(int(self.of("path", "poles"))):
            low, high = np.log(self.world.ranges["path", "at"])
            at = math.exp(self.source.uniform(low, high))
            q = self.of("path", "q")
            gain += (
                self.source.uniform(0.2, 1.0)
                / (1 - (frequencies / at) ** 2 + 1j * frequencies / at / q + 1e-9)
                / q**0.5
            )
        return frequencies, np.abs(gain)

    def tone(self, order: float, size: np.ndarray, flutter: float = 0.0) -> np.ndarray:
        """A tone at an order, through the path."""
        turned = order * self.theta + self.source.random()
        if flutter:
            slow = np.cumsum(self.source.standard_normal(self.count // 64 + 2)) * flutter
            turned += np.interp(np.arange(self.count), np.arange(len(slow)) * 64, slow * 0.1)
        turned -= np.floor(turned)
        at = order * self.turns_slow
        gain = np.interp(at, *self.path) * (at < 0.47 * self.rate)
        found: np.ndarray = np.cos(2 * np.pi * turned.astype(np.float32)) * size
        heard: np.ndarray = found * np.interp(self.times, self.angle_times, gain)
        return heard

    def blows(
        self, order: float, shaft: float, *, jitter: float, modulated: float, load: float
    ) -> np.ndarray:
        """Blows at an order, each ringing through the structure."""
        base = order * float(self.theta[-1])
        count = max(2, int(base) + 8)
        gaps = 1 + jitter * self.source.standard_normal(count)
        turns = np.cumsum(gaps) / order
        turns = turns[turns < self.theta[-1]]
        times = np.interp(turns, self.theta, self.times)
        size = np.exp(self.of("blow", "varies") * self.source.standard_normal(len(times)))
        size *= 1 + modulated * np.cos(2 * np.pi * (turns * shaft + self.source.random()))
        loaded = np.interp(times, self.times, np.abs(self.load))
        size *= load + (1 - load) * loaded
        speed = np.interp(times, self.times, self.turns)
        size *= speed / speed.mean()
        wave = np.zeros(self.count + 1)
        place = times * self.rate
        first = place.astype(int)
        share = place - first
        np.add.at(wave, first, size * (1 - share))
        np.add.at(wave, first + 1, size * share)
        found = np.zeros(self.count)
        for strength in (1.0, self.source.uniform(0.1, 0.6)):
            at = min(self.of("blow", "at"), 0.4 * self.rate)
            damping = self.of("blow", "damping")
            long = np.arange(int(min(0.05, 6 / (2 * np.pi * at * damping)) * self.rate)) / self.rate
            ring = np.exp(-2 * np.pi * at * damping * long) * np.sin(2 * np.pi * at * long)
            found += strength * signal.fftconvolve(wave[:-1], ring)[: self.count]
        return found

    def mesh(self, side: str) -> np.ndarray:
        """The mesh tone with its sidebands, as the load has it."""
        n2 = float(self.teeth[1])
        depth = round(self.of("gear", "position"), 2)
        sizes = _errors(self.teeth, depth, side == "drive").copy()
        sizes[0] = max(sizes[0], self.of("gear", "weight"))
        wanted = 1.0 if side == "drive" else -1.0
        other, floats = self.of("gear", "other_flank"), self.of("gear", "floats")
        along = self.load * wanted
        size = np.interp(along, [-1, 0, 1], [other, floats, 1.0])
        ring, pinion = self.of("gear", "ring"), self.of("gear", "pinion")
        size = size * (1 + ring * np.cos(2 * np.pi * (self.theta + self.source.random())))
        size = size * (1 + pinion * np.cos(2 * np.pi * (self.theta * self.ratio + self.source.random())))
        flutter = self.of("gear", "flutter")
        found = np.zeros(self.count)
        for h, strength in enumerate(sizes, 1):
            found += self.tone(h * n2, strength * size, flutter)
        return found

    def tyre(self) -> np.ndarray:
        """Tread blocks of several lengths around the tyre, as tone and as hiss in step with them."""
        blocks = int(self.of("tyre", "blocks"))
        self.tread = blocks
        kinds = 1 + self.of("tyre", "spread") * np.linspace(
            -0.5, 0.5, max(2, int(self.of("tyre", "pitches")))
        )
        lengths = self.source.choice(kinds, blocks)
        places = np.cumsum(lengths) / lengths.sum()
        around = np.zeros(4096)
        np.add.at(around, (places * 4096).astype(int) % 4096, 1.0)
        spectrum = np.fft.rfft(around)
        shape = np.zeros(len(spectrum))
        for k in (1, 2):
            width = 0.16 * blocks * k
            shape += np.exp(-(((np.arange(len(spectrum)) - k * blocks) / width) ** 2) / 2) / k**1.5
        wave = np.fft.irfft(spectrum * shape)
        wave /= wave.std() + 1e-9
        place = (self.theta % 1) * 4096
        first = place.astype(int) % 4096
        stepped = wave[first] + (place - np.floor(place)) * (wave[(first + 1) % 4096] - wave[first])
        at = np.minimum(blocks * self.turns, 0.47 * self.rate)
        speed = self.speed / self.speed.mean()
        tone = stepped * np.interp(at, *self.path) * speed**1.5
        rough = self.of("tyre", "rough")
        if rough and self.rate > 2000:
            high = min(2200, 0.45 * self.rate)
            b, a = signal.butter(2, [500, high], "band", fs=self.rate)
            hiss = signal.lfilter(b, a, self.source.standard_normal(self.count))
            hiss *= (1 + 0.7 * stepped / 3) / (hiss.std() + 1e-9)
            tone = tone / (tone.std() + 1e-9) + rough * hiss * speed**1.5
        once = self.of("tyre", "once")
        found: np.ndarray = tone * (1 + once * np.cos(2 * np.pi * self.theta))
        return found

    def shaft(self) -> np.ndarray:
        """The driveshaft out of balance, its joints twice a turn."""
        speed = (self.turns / self.turns.mean()) ** 2
        once = self.tone(self.ratio, self.of("shaft", "once") * speed)
        twice = self.of("shaft", "twice") * (0.4 + 0.6 * np.abs(self.load))
        both: np.ndarray = once + self.tone(2 * self.ratio, twice)
        return both

    def engine(self) -> np.ndarray:
        """Firing orders of the engine with their halves."""
        turn = self.ratio * self.gear_ratio
        firing = self.of("engine", "cylinders") // 2
        loads = self.of("engine", "loads")
        size = loads + (1 - loads) * np.clip(self.load, 0, 1)
        found, second, halves = (
            np.zeros(self.count),
            self.of("engine", "second"),
            self.of("engine", "halves"),
        )
        for k in np.arange(0.5, 10.5, 0.5):
            is_firing = abs(k / firing - round(k / firing)) < 1e-6
            strength = second ** (k / firing) if is_firing else halves * 0.8**k
            if strength < 0.02:
                continue
            found += self.tone(k * turn, strength * self.source.uniform(0.6, 1.4) * size)
        return found

    def bearing(self, name: str) -> np.ndarray:
        """A flaw of a bearing: blows with slip, modulated by its shaft or its cage."""
        bearing = (
            ("pinion_head" if self.source.random() < 0.5 else "pinion_tail") if name == "pinion" else name
        )
        rollers, d, pitch, angle = self.bearings[bearing]
        q = d / pitch * math.cos(math.radians(angle))
        per_turn = self.ratio if name == "pinion" else 1.0
        part = str(self.source.choice(("outer", "inner", "roller"), p=(0.45, 0.35, 0.2)))
        rate = {
            "outer": rollers / 2 * (1 - q),
            "inner": rollers / 2 * (1 + q),
            "roller": pitch / d * (1 - q * q),
        }[part]
        modulates = {"outer": 0.0, "inner": 1.0, "roller": (1 - q) / 2}[part]
        if name == "wheel" and self.source.random() < 0.5:
            # A hub that turns about its spindle: the outer race goes around.
            modulates = {"outer": 1.0, "inner": 0.0, "roller": (1 + q) / 2}[part]
        self.detail = f"{bearing}-{part}"
        modulated = self.of("blow", "modulated") if modulates else 0.15
        return self.blows(
            rate * per_turn * (1 - self.of("blow", "slips")),
            modulates * per_turn,
            jitter=self.of("blow", "jitter"),
            modulated=modulated,
            load=self.of("blow", "loads"),
        )

    def tooth(self) -> np.ndarray:
        """A chipped tooth: a blow each time it comes into mesh, and a mesh tone that it shakes."""
        on_pinion = self.source.random() < 0.6
        self.detail = "pinion" if on_pinion else "ring"
        order = self.ratio if on_pinion else 1.0
        load = self.of("blow", "loads")
        return self.blows(order, 0.0, jitter=0.002, modulated=0.0, load=load)

    def background(self) -> np.ndarray:
        """Road and wind, and the body's own resonances, fixed in frequency."""
        source, frequencies = self.source, fft.rfftfreq(self.count, 1 / self.rate)
        slope = self.of("road", "slope")
        shape = (np.maximum(frequencies, 20.0) / 100) ** (-slope)
        gain = np.ones(len(frequencies))
        for _ in range(int(self.of("road", "humps"))):
            at, q = self.of("road", "hump_at"), self.of("road", "hump_q")
            high = 10 ** (self.of("road", "hump_high") / 10) - 1
            gain += high / (1 + (q * (frequencies / at - at / np.maximum(frequencies, 1e-3))) ** 2)
        spectrum = fft.rfft(source.standard_normal(self.count)) * np.sqrt(shape * gain)
        road = fft.irfft(spectrum, self.count)
        grows = self.of("road", "grows")
        level = (self.speed / self.speed.mean()) ** grows
        stretches = source.normal(0, 1, int(self.seconds / 7) + 2) * self.of("road", "surface") / 2
        level *= 10 ** (np.interp(self.times, np.arange(len(stretches)) * 7, stretches) / 20)
        wind = gaussian_filter1d(source.standard_normal(int(self.seconds * 10) + 20), 8)
        wind *= self.of("road", "gusts") / (wind.std() + 1e-9)
        level *= 10 ** (np.interp(self.times, np.arange(len(wind)) / 10, wind) / 20)
        found = road * level
        even: np.ndarray = found / (found.std() + 1e-12)
        return even

    def signal(self) -> np.ndarray | None:
        """What the truth sounds like, alone."""
        match self.truth:
            case "gear_drive":
                return self.mesh("drive")
            case "gear_coast":
                return self.mesh("coast")
            case "gear_tooth":
                return self.tooth()
            case "pinion_bearing" | "carrier_bearing" | "wheel_bearing":
                return self.bearing(self.truth.split("_")[0])
            case "tyre":
                return self.tyre()
            case "shaft":
                return self.shaft()
            case "engine":
                return self.engine()
        return None

    def made(self) -> Recording:
        """Put it together, and through the phone."""
        road = self.background()
        sound, octaves = road.copy(), _octaves(road, self.rate)
        truth = self.signal()
        if truth is not None:
            sound += truth * _gain(truth, octaves, self.level, self.rate)
        sound += self._traps(octaves)
        sound = self._phone(sound)
        return Recording(
            sound,
            self.rate,
            self.truth,
            detail=self.detail,
            level=self.level,
            speeds=self.told,
            marks=self.marks,
            circumference=self.circumference,
            teeth=self.teeth,
            bearings=self.bearings,
            gear=self.gear_ratio,
            angle=self.angle,
            angle_times=self.angle_times,
            accelerometer=self.accelerometer,
        )

    def _traps(self, road: np.ndarray) -> np.ndarray:
        """What else is always there, quieter than a complaint; loud where nothing of the axle is wrong."""
        found, healthy = np.zeros(self.count), self.truth == "healthy"
        source = self.source
        traps = {
            "tyre": (self.tyre, -6.0 if healthy else -16.0),
            "engine": (self.engine, 2.0 if healthy else -10.0),
            "shaft": (self.shaft, -14.0),
            "gear_drive": (lambda: self.mesh("drive"), -24.0),
        }
        detail = self.detail
        for name, (make, most) in traps.items():
            if name == self.truth or (name == "gear_drive" and self.truth == "gear_coast"):
                continue
            level = most - abs(source.normal(0, 7))
            if level < _UNHEARD:
                continue
            wave = make()
            found += wave * _gain(wave, road, level, self.rate)
        self.detail = detail
        return found

    def _phone(self, sound: np.ndarray) -> np.ndarray:
        """High pass, gain control, clipping and 16 bits; an accelerometer has none of the first three."""
        if self.accelerometer:
            coarse: np.ndarray = np.round(sound / (8 * sound.std()) * 2000) / 2000
            return coarse
        b, a = signal.butter(2, self.of("phone", "low"), "high", fs=self.rate)
        sound = signal.lfilter(b, a, sound)
        power = signal.lfilter(*_smooth(self.of("phone", "seconds"), self.rate), sound**2)
        power = np.maximum(power, np.quantile(power, 0.05) + 1e-12)
        sound = sound / power ** (self.of("phone", "gain") / 2)
        top = np.quantile(np.abs(sound), 1 - self.of("phone", "clips") * 0.02)
        sound = np.clip(sound / (top * 1.02), -1, 1) * 0.98
        coded: np.ndarray = np.round(sound * 32767) / 32767
        return coded


def _level(source: np.random.Generator) -> float:
    return -10.0 if source.random() < 0.25 else float(source.uniform(0, 20))


def _smooth(seconds: float, rate: int) -> tuple[list[float], list[float]]:
    share = math.exp(-1 / (seconds * rate))
    return [1 - share], [1.0, -share]


def _octaves(wave: np.ndarray, rate: int) -> np.ndarray:
    """Power of a wave by third octaves, of half a minute of it."""
    frequencies, power = signal.welch(wave[: 30 * rate], rate, nperseg=min(len(wave), rate))
    middles = 25.0 * 2 ** (np.arange(0, 27) / 3)
    middles = middles[middles < 0.44 * rate]
    edges = np.searchsorted(frequencies, np.concatenate([middles / 2 ** (1 / 6), [middles[-1] * 1.122]]))
    found: np.ndarray = np.add.reduceat(power, edges[:-1])
    return found


def _gain(wave: np.ndarray, road: np.ndarray, level: float, rate: int) -> float:
    """What brings a wave to a level over the road in the third octave where it is strongest.

    :param road: power of the road by third octaves.
    """
    ours = _octaves(wave, rate)
    best = int(ours.argmax())
    return math.sqrt((road[best] + 1e-20) / max(float(ours[best]), 1e-20) * 10 ** (level / 10))
