"""From a recording to what it says: one analysis, as it is kept."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

import msgspec
import numpy as np
from scipy import signal

from axle.errors import AxleError, quoted
from axle.noise.bands import Bands
from axle.noise.evidence import NOTHING, SEEN, Evidence, evidence_of, loads
from axle.noise.hearing import notes_on, recorder_named
from axle.noise.hunting import hunting
from axle.noise.orders import Bearing, Machine
from axle.noise.spectra import MeanSpectrum, Span, Spectra, spectra_of
from axle.noise.speed import SpeedTrack, by_marks, by_pulses, read_gpx, read_speed_table
from axle.noise.tracking import Tracked, fitted, laid, scale_std
from axle.noise.verdict import Verdict, heard_causes, verdict_of

SPEEDS: Final = ("marks", "table", "track", "pulses", "tone")
# What a tone that was pointed at may be; "" is nothing yet: then only the shape of the speed is known.
TONES: Final = {
    "": "not known yet",
    "mesh": "the gear mesh",
    "shaft": "the driveshaft",
    "tread": "the tread",
}
# The spectrum is kept for drawing at so many places, the map at so many by so many.
_PLACES: Final = 640
_MAP: Final = (96, 160)
_MOST_ORDER: Final = 130.0
# Blows that stand out by less come of chance [standard deviations].
_BLOWS_SEEN: Final = 10.0
# The map reaches to there [Hz].
_HIGHEST: Final = 1600.0
# By speed it has so many columns, where the fastest was so many times the slowest.
_SPEEDS_OF_MAP: Final = 60
_SPREAD_OF_MAP: Final = 1.15


class ToldSpeed(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How the speed was told.

    ``marks``: time [s] and speed [m/s]; ``text``: of a table or a track; ``starts``: when a track begins
    [s]; ``at`` and ``frequency``: where a tone was pointed at [s, Hz]; ``is_a``: what it is;
    ``per_turn``: pulses of the second channel to one turn of the driveshaft.
    """

    kind: str
    marks: tuple[tuple[float, float], ...] = ()
    text: str = ""
    starts: float = 0.0
    at: float = 0.0
    frequency: float = 0.0
    is_a: str = ""
    per_turn: float = 1.0


class Given(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is told beside a recording.

    ``circumference`` [m]; ``spans``: begin and end [s], and "drive", "coast" or "float"; ``gear``: turns
    of the engine to one of the driveshaft, or 0; ``tread``: its blocks, or 0; ``bearings``: rollers, roller
    and pitch diameter, angle [°] by name.
    """

    recorder: str
    speed: ToldSpeed
    circumference: float
    pinion_teeth: int
    ring_teeth: int
    spans: tuple[tuple[float, float, str], ...] = ()
    gear: float = 0.0
    tread: int = 0
    bearings: dict[str, tuple[int, float, float, float]] = {}

    @property
    def machine(self) -> Machine:
        """What is known of what turns."""
        bearings = {name: Bearing(*figures) for name, figures in self.bearings.items()}
        return Machine(self.pinion_teeth, self.ring_teeth, bearings, gear=self.gear, tread=self.tread)


class Drawn(msgspec.Struct, frozen=True):
    """A spectrum as it is drawn: orders, and levels over the floor [dB]."""

    orders: list[float]
    levels: list[float]


class Mapped(msgspec.Struct, frozen=True):
    """Levels by time and frequency [dB over the usual of each frequency], lowest frequency first.

    ``by_speed`` is the same by turns of the ring gear, from ``slowest`` to ``fastest`` [1/s]; empty where
    the speed hardly varied.
    """

    seconds: float
    highest: float
    levels: list[list[int]]
    turns: list[float]
    by_speed: list[list[int]] = []
    slowest: float = 0.0
    fastest: float = 0.0


class HeardOutcome(msgspec.Struct, frozen=True):
    """One cause, or a group that is not told apart, with its chance."""

    names: list[str]
    title: str
    chance: float
    would: str = ""


class Level(msgspec.Struct, frozen=True):
    """A line's level over its third octave [dB], and how far it stands out [standard deviations]."""

    over: float
    sigmas: float


class Result(msgspec.Struct, frozen=True):
    """What a recording said, as it is kept beside it."""

    seconds: float
    rate: int
    speed: float
    clock: float
    wander: float
    scale: float
    scale_std: float
    locked: bool
    absolute: bool
    outcomes: list[HeardOutcome]
    reasons: list[str]
    notes: list[str]
    parts: list[tuple[str, float]]
    levels: dict[str, Level]
    tones: dict[str, Drawn]
    blows: Drawn
    map: Mapped
    heard_from: float
    turns: float
    missing: list[str]


def check_given(given: Given) -> None:
    """Refuse what cannot be told beside a recording.

    :param given: as told.
    :raises AxleError: naming what is wrong.
    :source: the parts' own limits.
    """
    recorder_named(given.recorder)
    machine = given.machine
    for span in given.spans:
        Span(*span)
    if given.speed.kind not in SPEEDS:
        raise AxleError("speed", given=quoted(given.speed.kind, 20), wanted=", ".join(SPEEDS))
    if given.speed.kind == "tone":
        if given.speed.is_a not in TONES:
            raise AxleError(
                "tone", given=quoted(given.speed.is_a, 20), wanted=", ".join(filter(None, TONES))
            )
        if not 20 <= given.speed.frequency <= 3000 or not 0 <= given.speed.at <= 900:
            raise AxleError(
                "tone",
                given=f"{given.speed.frequency:g} Hz at {given.speed.at:g} s",
                wanted="20 to 3000 Hz, at a moment of the recording",
            )
        if given.speed.is_a == "tread" and not given.tread:
            raise AxleError("tread blocks", given="nothing", wanted="how many there are around the tyre")
    elif given.speed.kind == "pulses":
        if not 0.1 <= given.speed.per_turn <= 400:
            raise AxleError(
                "pulses", given=f"{given.speed.per_turn:g}", wanted="0.1 to 400 a driveshaft turn"
            )
    else:
        _track(given.speed, given.circumference, machine.ratio)


def _track(speed: ToldSpeed, circumference: float, ratio: float) -> SpeedTrack:
    if speed.kind == "marks":
        return by_marks(speed.marks, circumference)
    if speed.kind == "table":
        return read_speed_table(speed.text, circumference, ratio)
    return read_gpx(speed.text, circumference, speed.starts)


def followed(bands: Bands, at: float, frequency: float) -> tuple[np.ndarray, np.ndarray]:
    """A tone's frequency over a recording, followed from where it was pointed at.

    :param bands: the recording.
    :param at: the moment [s].
    :param frequency: f there [Hz].
    :returns: times [s] and frequencies [Hz], each shape (n,).
    :raises AxleError: for a place outside of the recording.
    :source: the ridge of a spectrogram, followed both ways by steps of at most 6 %.
    """
    row, rate = bands.low[0], bands.low_rate
    if not 0 <= at <= bands.seconds or not 0 < frequency < rate / 2.2:
        raise AxleError(
            "tone",
            given=f"{frequency:g} Hz at {at:g} s",
            wanted=f"a place of the recording: 0 to {bands.seconds:.0f} s, up to {rate / 2.2:.0f} Hz",
        )
    size = int(2 ** np.ceil(np.log2(rate * 0.35)))
    frequencies, times, power = signal.spectrogram(row, rate, nperseg=size, noverlap=size * 3 // 4)
    level = np.log(power + 1e-20)
    ridge = np.zeros(len(times))
    start = int(np.abs(times - at).argmin())
    for way in (range(start, len(times)), range(start - 1, -1, -1)):
        now, change = frequency, 0.0
        for place in way:
            wanted = now * (1 + change)
            reach = max(0.03 * wanted, 2 * float(frequencies[1]))
            inside = np.flatnonzero(np.abs(frequencies - wanted) <= reach)
            if len(inside):
                pull = level[inside, place] - 2.0 * ((frequencies[inside] - wanted) / reach) ** 2
                found = float(frequencies[inside[int(pull.argmax())]])
                change = 0.7 * change + 0.3 * float(np.clip(found / now - 1, -0.06, 0.06))
                now = found
            ridge[place] = now
    return times, signal.medfilt(ridge, 5)


def _by_tone(bands: Bands, given: Given, machine: Machine) -> SpeedTrack:
    """The speed's shape by a tone; its scale where somebody said what the tone is."""
    times, frequencies = followed(bands, given.speed.at, given.speed.frequency)
    frequencies = np.maximum(frequencies, 1e-3)
    orders = {"mesh": machine.ring_teeth, "shaft": machine.ratio, "tread": given.tread}
    known = given.speed.is_a in orders
    # Without a name the tone is taken for the mesh, so that its sidebands can say whether it is.
    order = float(orders.get(given.speed.is_a, machine.ring_teeth))
    return SpeedTrack(times, frequencies / order, "tone", scale_std=0.002, clock_std=0.0, absolute=known)


def analyse(
    bands: Bands,
    given: Given,
    progress: Callable[[int], None] = lambda _: None,
    pulses: np.ndarray | None = None,
) -> Result:
    """What a recording says.

    :param bands: the recording.
    :param given: what was told beside it.
    :param progress: is told how much is done, 0 to 100.
    :param pulses: times of a tachometer's pulses [s], where the speed comes by these.
    :raises AxleError: for a recording or a speed from which nothing can be told, in words.
    :source: :mod:`axle.noise.tracking`, :mod:`axle.noise.spectra`, :mod:`axle.noise.verdict`.
    """
    check_given(given)
    machine, recorder = given.machine, recorder_named(given.recorder)
    tone = given.speed.kind == "tone"
    if tone:
        track = _by_tone(bands, given, machine)
    elif given.speed.kind == "pulses":
        found_pulses = np.zeros(0) if pulses is None else pulses
        track = by_pulses(found_pulses, given.speed.per_turn, machine.ratio)
    else:
        track = _track(given.speed, given.circumference, machine.ratio)
    progress(20)
    tracked = laid(track, bands.seconds) if tone else fitted(bands, track)
    progress(60)
    spans = [Span(*span) for span in given.spans]
    spectra = spectra_of(bands, tracked, spans, lowest=recorder.lowest)
    progress(85)
    evidence = evidence_of(spectra, machine, scale_std(track, tracked))
    absolute = track.absolute or (evidence.by_pinion > SEEN and evidence.mesh["all"].sigmas > SEEN)
    verdict = verdict_of(evidence, machine)
    notes = list(notes_on(bands, tracked, recorder))
    if tone and not track.absolute:
        notes.insert(0, _tone_words(machine, named=absolute))
    found = Result(
        round(bands.seconds, 2),
        bands.rate,
        speed=float(np.mean(tracked.turns)) * given.circumference / evidence.scale,
        clock=tracked.clock,
        wander=tracked.wander,
        scale=evidence.scale,
        scale_std=evidence.scale_std,
        locked=evidence.locked,
        absolute=absolute,
        outcomes=_outcomes(verdict) if absolute else [],
        reasons=[*verdict.reasons, *_more(bands, tracked, spectra, evidence, machine)] if absolute else [],
        notes=notes,
        parts=list(verdict.parts) if absolute else [],
        levels=_levels(evidence),
        tones=_every(spectra, evidence.scale),
        blows=_blows(spectra, evidence.scale),
        map=_mapped(bands, tracked),
        heard_from=spectra.heard_from,
        turns=spectra.turns_per_second,
        missing=_missing(spectra, evidence, verdict, given),
    )
    progress(100)
    return found


def _more(
    bands: Bands, tracked: Tracked, spectra: Spectra, evidence: Evidence, machine: Machine
) -> list[str]:
    """The hunting tooth, what rings at its own frequency, and which side it may be."""
    words = []
    at, over = spectra.resonance
    if over:
        words.append(
            f"A hump of {over:.0f} dB at {at:.0f} Hz keeps its frequency while the speed changes: the body "
            "rings, nothing that turns."
        )
    found = hunting(bands, tracked, machine, evidence.scale)
    if evidence.mesh["all"].sigmas > SEEN and found.is_slow:
        turns = f"once in {found.period:g} turns of the ring gear"
        if not found.is_long_enough:
            words.append(
                f"One pair of teeth meets {turns}: {found.cycles:.0f} times here, too short to tell."
            )
        elif found.sigmas > SEEN:
            words.append(f"The mesh swells {turns}: one tooth of each meets there, and one is hurt.")
    if evidence.blow is not None and evidence.blow.sigmas > 14 and evidence.blow.order < 15:
        words.append("Left and right bearings are alike: a long bend to either side tells which.")
    return words


def _tone_words(machine: Machine, *, named: bool) -> str:
    if named:
        return (
            f"Lines stand beside the tone, 1/{machine.pinion_teeth} of its frequency away: it is the gear "
            "mesh, and the speed follows from it."
        )
    return (
        "From a tone alone the shape of the speed is known, not its scale: no order is named. Say what the "
        "tone is, or tell the speed."
    )


def _outcomes(verdict: Verdict) -> list[HeardOutcome]:
    return [HeardOutcome(list(one.names), one.title, one.chance, one.would) for one in verdict.likely]


def _levels(evidence: Evidence) -> dict[str, Level]:
    """Levels that before and after are compared by."""
    e = evidence
    found = {f"mesh {state}": Level(line.over, line.sigmas) for state, line in e.mesh.items()}
    found |= {"tread": Level(e.tread.over, e.tread.sigmas), "engine": Level(e.engine.over, e.engine.sigmas)}
    # What the recorder does not hear is left out: it is not heard, not absent.
    low = {"shaft": e.once, "joints": e.twice}
    found |= {name: Level(line.over, line.sigmas) for name, line in low.items() if line is not NOTHING}
    sigmas = e.blow.sigmas if e.blow is not None else 0.0
    # Some blows stand out of chance anywhere: they are looked for at thousands of orders.
    found["blows"] = Level(10 * float(np.log10(max(sigmas, 0.1))), sigmas if sigmas > _BLOWS_SEEN else 0.0)
    return found


def _missing(spectra: Spectra, evidence: Evidence, verdict: Verdict, given: Given) -> list[str]:
    """What to record instead, or as well."""
    found = []
    if loads(evidence) is None:
        found.append("Mark where it pulls, coasts and floats: the gears answer to load, a tyre does not.")
    if spectra.varies < 0.04 and verdict.first.chance < 0.8:
        found.append("Let the speed vary by a fifth: what keeps its frequency is the body, not the axle.")
    if not given.bearings and any("bearing" in name for name in verdict.first.names):
        found.append(
            "Type in the bearings' rollers, sizes and angle: usual figures tell them poorly apart."
        )
    if verdict.first.names == ("nothing",):
        found.append("Nothing stands out: record where it is heard most, for a minute, near the axle.")
    return found


def _every(spectra: Spectra, scale: float) -> dict[str, Drawn]:
    first = max(2.0, spectra.heard_from * scale)
    return {state: _drawn(mean, scale, first) for state, mean in spectra.tones.items()}


def _drawn(mean: MeanSpectrum, scale: float, first: float = 2.0) -> Drawn:
    """A spectrum as it is drawn: the highest of each few places, at true orders.

    Under the first order the floor is not known well enough to be drawn over.
    """
    least, most = int(first / scale * mean.turns), int(_MOST_ORDER / scale * mean.turns)
    level = 10 * np.log10(np.maximum(mean.ratio[least:most], 0.1))
    step = max(1, len(level) // _PLACES)
    whole = level[: len(level) // step * step].reshape(-1, step)
    orders = (least + np.arange(len(whole)) * step + whole.argmax(axis=1)) / mean.turns * scale
    return Drawn([round(float(x), 2) for x in orders], [round(float(x), 1) for x in whole.max(axis=1)])


def _blows(spectra: Spectra, scale: float) -> Drawn:
    """The envelope's spectrum of the band in which most stands out."""
    bands = spectra.blows.get("all", ())
    if not bands:
        return Drawn([], [])
    best = max(bands, key=lambda mean: float(mean.sigmas_at(np.arange(3.3, 60, 0.1)).max()))
    return _drawn(best, scale)


def _mapped(bands: Bands, tracked: Tracked) -> Mapped:
    """Levels by time and frequency, small enough to keep."""
    row, rate = bands.low[0], bands.low_rate
    high, wide = _MAP
    size = int(2 ** np.ceil(np.log2(rate * 0.25)))
    hop = max(size // 4, (len(row) - size) // (wide * 4) if len(row) > size else 1)
    starts = range(0, max(len(row) - size, 1), hop)
    window = np.hanning(size)
    power = np.array([np.abs(np.fft.rfft(row[s : s + size] * window, size)) ** 2 for s in starts]).T
    level = 10 * np.log10(power + 1e-14)
    level -= np.median(level, axis=1, keepdims=True)
    rows = min(int(_HIGHEST * size / rate), size // 2)
    # Pieces are all of one size, so that both scales are straight; what is left over at an end is cut off.
    step_up, step_on = max(1, rows // high), max(1, level.shape[1] // wide)
    tall = _pooled(level[: rows // step_up * step_up], step_up, axis=0)
    every = _pooled(tall[:, : tall.shape[1] // step_on * step_on], step_on, axis=1)
    seconds = every.shape[1] * step_on * hop / rate
    begins = (np.array(starts) + size / 2) / rate
    sped = _by_speed(tall, np.interp(begins, tracked.times, tracked.turns))
    places = (np.arange(every.shape[1]) + 0.5) * seconds / every.shape[1]
    turns = np.interp(places, tracked.times, tracked.turns)
    return Mapped(
        round(seconds, 3),
        tall.shape[0] * step_up * rate / size,
        levels=np.clip(every, -6, 24).round().astype(int).tolist(),
        turns=[round(float(x), 3) for x in turns],
        by_speed=sped[0],
        slowest=sped[1],
        fastest=sped[2],
    )


def _by_speed(level: np.ndarray, turns: np.ndarray) -> tuple[list[list[int]], float, float]:
    """The map's columns by speed in place of time: the mean of those that were driven alike."""
    slow, fast = float(np.quantile(turns, 0.02)), float(np.quantile(turns, 0.98))
    if slow <= 0 or fast / slow < _SPREAD_OF_MAP:
        return [], 0.0, 0.0
    count = min(_SPEEDS_OF_MAP, max(8, len(turns) // 6))
    place = np.clip(((turns - slow) / (fast - slow) * count).astype(int), -1, count)
    columns: list[np.ndarray] = []
    for at in range(count):
        inside = place == at
        # A speed at which nobody drove is drawn as the one before it.
        columns.append(level[:, inside].mean(axis=1) if inside.any() else (columns or [level[:, 0]])[-1])
    found = np.clip(np.array(columns).T, -6, 24).round().astype(int)
    return found.tolist(), round(slow, 3), round(fast, 3)


def _pooled(rows: np.ndarray, step: int, axis: int) -> np.ndarray:
    """The highest of each so many neighbours."""
    shape = list(rows.shape)
    shape[axis : axis + 1] = [rows.shape[axis] // step, step]
    found: np.ndarray = rows.reshape(shape).max(axis=axis + 1)
    return found


def titles(names: Iterable[str]) -> list[tuple[str, str]]:
    """What each cause is and what cures it.

    :param names: of causes.
    :source: ``data/verdict.toml``.

    >>> titles(["tyre"])[0][0]
    'a tyre, or its tread'
    """
    return [(heard_causes()[name].title, heard_causes()[name].cure) for name in names]
