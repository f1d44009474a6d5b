"""Recordings: orders against handbooks, tracking against chirps, blows against the literature's form, verdicts."""

from __future__ import annotations

import io
import math
from contextlib import suppress
from datetime import UTC, datetime, timedelta

import gpxpy.gpx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from axle.errors import AxleError
from axle.noise.bands import Splitter, split
from axle.noise.evidence import evidence_of
from axle.noise.hearing import notes_on, recorder_named
from axle.noise.hunting import hunting
from axle.noise.orders import Bearing, Machine, known_orders, rates
from axle.noise.recording import Given, ToldSpeed, analyse, check_given, followed
from axle.noise.spectra import Span, spectra_of
from axle.noise.speed import SpeedTrack, by_marks, by_pulses, read_gpx, read_speed_table
from axle.noise.told import read_acceleration, read_bearing, read_marks, read_speeds, seconds_in
from axle.noise.tracking import fitted, in_orders, laid
from axle.simulator.recorder import TRUTHS, RecordingWorld

RATE = 8000
MACHINE = Machine(11, 41)


def test_bearing_rates_vibration_handbooks():
    # Nine balls of 0.3126 on a pitch of 1.537, contact angle 0: multipliers as tabled for that size in vibration
    # handbooks (outer 3.585, inner 5.415, cage 0.398, ball 2.357, twice that 4.713).
    found = rates(Bearing(9, 0.3126, 1.537))
    for name, wanted in (("outer", 3.585), ("inner", 5.415), ("cage", 0.398), ("roller", 2.357)):
        assert getattr(found, name) == pytest.approx(wanted, abs=0.0006)


@given(st.integers(6, 30), st.floats(0.05, 0.2), st.floats(0, 40))
def test_the_laws_of_a_rolling_bearing(rollers, share, angle):
    if rollers * share > math.pi * 0.95:
        return
    found = rates(Bearing(rollers, share, 1.0, angle))
    # Each roller passes both races; the cage carries them all (ISO 13373-3).
    assert found.outer + found.inner == pytest.approx(rollers)
    assert found.outer == pytest.approx(rollers * found.cage)
    assert found.cage + found.cage_outer == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("figures", "wanted"),
    [
        ((2, 1, 5, 0), "3 to 60"),
        ((9, 5, 5, 0), "less than the pitch diameter"),
        ((40, 10, 60, 0), "fit around"),
        ((9, 1, 5, 60), "0 to 45"),
    ],
)
def test_figures_that_no_bearing_has_are_refused(figures, wanted):
    with pytest.raises(AxleError, match=wanted):
        Bearing(*figures)


def test_the_axle_s_own_orders():
    orders = {one.name: one.low for one in known_orders(Machine(11, 41, gear=1.0))}
    assert orders["shaft"] == pytest.approx(41 / 11)
    assert orders["joint"] == pytest.approx(82 / 11)
    assert (orders["mesh"], orders["mesh-ring"], orders["mesh2"]) == (41, 40, 82)
    assert orders["mesh+pinion"] == pytest.approx(41 + 41 / 11)
    # In direct drive the engine's second order is the joints' own (geometry).
    assert orders["engine2"] == pytest.approx(orders["joint"])
    assert orders["hunting"] == pytest.approx(1 / 11)


def chirp(seconds=40.0, low=6.0, high=11.0, rate=RATE):
    """Times and turns of a ring gear that speeds up evenly: the angle is exact."""
    times = np.arange(int(seconds * rate)) / rate
    angle = low * times + (high - low) * times**2 / (2 * seconds)
    return times, angle, SpeedTrack(np.array([0.0, seconds]), np.array([low, high]), "table")


def test_order_tracking_of_a_chirp_lies_at_its_exact_orders():
    times, angle, track = chirp()
    source = np.random.default_rng(1)
    sound = np.cos(2 * np.pi * 41 * angle) + 0.5 * np.cos(2 * np.pi * 20.5 * angle)
    sound += 0.3 * source.standard_normal(len(times))
    bands = split(iter([sound / 4]), RATE)
    tracked = laid(track, bands.seconds)
    blocks = in_orders(bands.low, bands.low_rate, tracked, 16)
    mean = blocks.power.mean(axis=0)
    for order in (41.0, 20.5):
        near = np.abs(blocks.orders - order) < 2
        assert blocks.orders[near][mean[near].argmax()] == pytest.approx(order, abs=1 / 16)
    # The same by scipy: resampled at even angles, averaged by Welch's method.
    even = np.arange(0, angle[-1], 1 / 512)
    by_scipy = np.interp(np.interp(even, angle, times), times, sound / 4)
    orders, power = signal.welch(
        by_scipy, 512, window="hann", nperseg=16 * 512, noverlap=8 * 512, detrend=False
    )
    ours = 10 * np.log10(mean[16 * 41 - 2 : 16 * 41 + 3].sum() / mean[328 - 2 : 328 + 3].sum())
    theirs = 10 * np.log10(power[16 * 41 - 2 : 16 * 41 + 3].sum() / power[328 - 2 : 328 + 3].sum())
    assert orders[16 * 41] == 41
    assert ours == pytest.approx(theirs, abs=0.3)
    assert ours == pytest.approx(20 * math.log10(2), abs=0.3)


def test_a_clock_that_is_off_is_found_on_a_run_up():
    times, angle, track = chirp(high=14.0)
    sound = np.cos(2 * np.pi * 41 * angle) + 0.8 * np.random.default_rng(2).standard_normal(len(times))
    bands = split(iter([sound / 5]), RATE)
    late = SpeedTrack(track.times + 1.2, track.turns, "table", clock_std=1.0)
    assert fitted(bands, late).clock == pytest.approx(-1.2, abs=0.25)


def test_slow_wander_of_a_told_speed_is_taken_out():
    times = np.arange(int(60 * RATE)) / RATE
    turns = 9.0 * (1 + 0.01 * np.sin(2 * np.pi * times / 25))
    angle = np.cumsum(turns) / RATE
    sound = np.cos(2 * np.pi * 41 * angle) + 0.7 * np.random.default_rng(3).standard_normal(len(times))
    bands = split(iter([sound / 5]), RATE)
    tracked = fitted(bands, by_marks([(0.0, 9.0 * 2.2)], 2.2))
    left = tracked.turns / np.interp(tracked.times, times, turns)
    assert np.std(left[100:-100]) < 0.003
    assert np.std(9.0 / turns) > 0.006


def test_blows_of_the_literature_s_form_are_found_at_their_order():
    # A race's flaw: blows at even angles with a little random slip, each ringing down at one resonance.
    source, order = np.random.default_rng(4), 7.37
    times, angle, track = chirp(60.0, 7.0, 10.0, rate=16_000)
    turns = np.cumsum(1 + 0.01 * source.standard_normal(int(order * angle[-1]))) / order
    wave = np.zeros(len(times))
    np.add.at(wave, np.minimum((np.interp(turns, angle, times) * 16_000).astype(int), len(wave) - 1), 1.0)
    long = np.arange(400) / 16_000
    sound = signal.fftconvolve(wave, np.exp(-900 * long) * np.sin(2 * np.pi * 3100 * long))[: len(times)]
    noise = source.standard_normal(len(times))
    sound = sound / sound.std() * 0.5 + noise
    bands = split(iter([sound / 8]), 16_000)
    found = evidence_of(spectra_of(bands, laid(track, 60.0), []), MACHINE, 0.002)
    assert found.blow is not None
    assert found.blow.order == pytest.approx(order, rel=0.01)
    assert found.blow.sigmas > 15
    assert found.blow.band[0] < 3100 < found.blow.band[1]
    # Noise alone has none.
    quiet = evidence_of(spectra_of(split(iter([noise / 8]), 16_000), laid(track, 60.0), []), MACHINE, 0.002)
    assert quiet.blow is None or quiet.blow.sigmas < 9


@pytest.mark.parametrize("rate", [8000, 11025, 22050, 44100, 96000])
def test_a_recording_is_taken_apart_alike_at_any_rate(rate):
    times = np.arange(int(9.3 * rate)) / rate
    sound = 0.5 * np.cos(2 * np.pi * 440 * times)
    splitter = Splitter(rate)
    for block in np.array_split(sound, 37):
        splitter.feed(block)
    bands = splitter.finish()
    low = bands.low[0]
    middle = low[bands.low_rate : -bands.low_rate]
    # A steady tone keeps its size and its frequency across all the seams.
    assert np.sqrt(2) * middle.std() == pytest.approx(0.5, rel=0.01)
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle))))
    assert spectrum.argmax() * bands.low_rate / len(middle) == pytest.approx(440, abs=0.3)
    assert len(low) == pytest.approx(9.3 * bands.low_rate, abs=2)


def test_an_envelope_shows_how_a_tone_swells():
    rate, times = 16_000, np.arange(20 * 16_000) / 16_000
    sound = 0.3 * (1 + 0.6 * np.cos(2 * np.pi * 25 * times)) * np.cos(2 * np.pi * 2300 * times)
    bands = split(iter([sound]), rate)
    row = bands.envelopes[next(i for i, edge in enumerate(bands.edges) if edge[0] <= 2300 < edge[1])]
    inner = row[bands.envelope_rate : -bands.envelope_rate]
    # Against the analytic signal of scipy: swells by 60 % of its mean.
    theirs = np.abs(signal.hilbert(sound))[rate:-rate]
    assert np.ptp(inner) == pytest.approx(np.ptp(theirs) / theirs.mean(), rel=0.05)


def tone_of(orders, *, seconds=50.0, noise=0.6, seed=7):
    times, angle, _ = chirp(seconds, 8.0, 10.0, rate=RATE)
    sound = sum(size * np.cos(2 * np.pi * order * angle) for order, size in orders)
    sound = sound + noise * np.random.default_rng(seed).standard_normal(len(times))
    return split(iter([sound / 6]), RATE)


SPANS = ((0.0, 20.0, "drive"), (20.0, 40.0, "coast"))


def told(**more):
    speed = ToldSpeed("marks", marks=((0.0, 8.0 * 2.2), (50.0, 10.0 * 2.2)))
    return Given("phone", more.pop("speed", speed), 2.2, 11, 41, **more)


def test_a_tread_of_as_many_blocks_as_the_ring_gear_has_teeth_is_named_as_not_told_apart():
    result = analyse(tone_of([(41, 1.0)]), told(tread=41))
    first = result.outcomes[0]
    assert {"gear_drive", "tyre"} <= set(first.names)
    assert "tread" in first.would
    # One pinion turn beside it makes it the mesh: a tread has no pinion.
    beside = tone_of([(41, 1.0), (41 - 41 / 11, 0.3), (41 + 41 / 11, 0.3)])
    assert "tyre" not in analyse(beside, told(tread=41)).outcomes[0].names


def test_load_tells_the_flanks_apart():
    times, angle, _ = chirp(50.0, 8.0, 10.0, rate=RATE)
    pulls = np.where(times < 20, 1.0, 0.12)
    sound = pulls * np.cos(2 * np.pi * 41 * angle) + 0.5 * np.random.default_rng(8).standard_normal(
        len(times)
    )
    bands = split(iter([sound / 6]), RATE)
    result = analyse(bands, told(spans=SPANS))
    assert result.outcomes[0].names == ["gear_drive"]
    assert result.levels["mesh drive"].over > result.levels["mesh coast"].over + 8
    # Told the other way round, it is the other flank.
    turned = tuple((a, b, {"drive": "coast", "coast": "drive"}[s]) for a, b, s in SPANS)
    assert analyse(bands, told(spans=turned)).outcomes[0].names == ["gear_coast"]
    # And unmarked, both stay.
    assert {"gear_drive", "gear_coast"} <= set(analyse(bands, told()).outcomes[0].names)


def test_a_scale_that_is_off_is_told_by_the_mesh_and_its_sidebands():
    # The told speed is 2.5 % too high: mesh over the pinion's sideband spacing is N1 whatever the scale.
    wrong = 1.025
    speed = ToldSpeed("marks", marks=((0.0, 8.0 * 2.2 * wrong), (50.0, 10.0 * 2.2 * wrong)))
    bands = tone_of([(41, 1.0), (82, 0.5), (41 - 41 / 11, 0.4), (41 + 41 / 11, 0.4)])
    result = analyse(bands, told(speed=speed))
    assert result.locked
    assert result.scale == pytest.approx(wrong, rel=0.003)
    assert result.speed == pytest.approx(9.0 * 2.2, rel=0.005)


def test_a_tone_gives_the_shape_of_the_speed_and_the_scale_only_once_it_is_named():
    plain, beside = tone_of([(41, 1.0)], noise=0.2), [(41, 1.0), (41 - 41 / 11, 0.4), (41 + 41 / 11, 0.4)]
    times, heard = followed(plain, 25.0, 9.0 * 41)
    assert heard == pytest.approx(41 * np.interp(times, [0, 50], [8, 10]), rel=0.03)
    at = ToldSpeed("tone", at=25.0, frequency=9.0 * 41)
    unnamed = analyse(plain, told(speed=at))
    assert not unnamed.absolute
    assert unnamed.outcomes == []
    assert "no order is named" in unnamed.notes[0]
    named = analyse(plain, told(speed=ToldSpeed("tone", at=25.0, frequency=9.0 * 41, is_a="mesh")))
    assert named.absolute
    assert named.outcomes
    # Sidebands 1/11 apart name it by themselves.
    assert analyse(tone_of(beside, noise=0.2), told(speed=at)).absolute


def test_what_a_phone_does_not_hear_is_not_called_absent():
    result = analyse(tone_of([(41, 1.0)]), told())
    assert any("never “absent”" in note for note in result.notes)
    assert result.heard_from == pytest.approx(90 / 9.0, rel=0.1)
    by_accelerometer = told()
    assert not any(
        "absent" in note
        for note in analyse(
            tone_of([(41, 1.0)]), Given("accelerometer", by_accelerometer.speed, 2.2, 11, 41)
        ).notes
    )


def test_what_a_recorder_did_to_the_sound_is_seen():
    times, _, track = chirp(40.0, 5.0, 14.0, rate=16_000)
    noise = np.random.default_rng(9).standard_normal(len(times)) * (5 + 9 * times / 40) ** 1.5
    phone = recorder_named("phone")

    def notes(sound):
        bands = split(iter([sound]), 16_000)
        return " ".join(notes_on(bands, laid(track, bands.seconds), phone))

    plain = notes(noise / np.abs(noise).max() * 0.9)
    assert "clipped" not in plain
    assert "gain follows" not in plain
    assert "clipped" in notes(np.clip(noise / np.quantile(np.abs(noise), 0.98), -1, 1))
    level = (5 + 9 * times / 40) ** 1.5
    assert "gain follows" in notes(noise / level / 6)
    gated = noise / np.abs(noise).max() * (np.sin(2 * np.pi * times) > -0.5)
    assert "noise suppression" in notes(gated)
    b = signal.firwin(401, 4000, fs=16_000)
    assert "coded with loss" in notes(signal.lfilter(b, 1, noise) / np.abs(noise).max())
    assert "short" in notes(noise[: 10 * 16_000] / np.abs(noise).max())


def test_a_track_by_another_writer_has_the_same_speeds():
    # Written by gpxpy, whose own speeds between points are the reference.
    gpx = gpxpy.gpx.GPX()
    segment = gpxpy.gpx.GPXTrackSegment()
    gpx.tracks.append(gpxpy.gpx.GPXTrack())
    gpx.tracks[0].segments.append(segment)
    start = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)
    for second in range(30):
        north = 46.5 + (20 * second + 0.2 * second**2) / 111_195
        segment.points.append(gpxpy.gpx.GPXTrackPoint(north, 8.1, time=start + timedelta(seconds=second)))
    track = read_gpx(gpx.to_xml(), 2.0)
    for second in (5, 15, 25):
        assert float(track.at(np.array([second]))[0]) * 2.0 == pytest.approx(
            segment.get_speed(second), rel=0.01
        )
    assert read_gpx(gpx.to_xml(), 2.0, -4.0).times[0] == -4.0


BOMB = '<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "xx"><!ENTITY c "&b;&b;">]><gpx><trkpt lat="1" lon="1">&c;</trkpt></gpx>'


@pytest.mark.parametrize("text", ["", "no xml", "<gpx></gpx>", "<gpx", BOMB, "<gpx>" * 3000])
def test_what_is_no_track_is_refused_in_words(text):
    with pytest.raises(AxleError, match="track"):
        read_gpx(text, 2.0)


@given(st.text(max_size=300))
@settings(max_examples=60)
def test_any_text_as_a_table_gives_a_speed_or_words(text):
    for read in (lambda: read_speed_table(text, 2.0, 4.0), lambda: read_acceleration(text)):
        with suppress(AxleError):
            assert read() is not None


def test_a_table_of_an_engine_s_turns_and_one_of_speeds():
    by_rpm = read_speed_table("time;rpm\n0;1200\n1;2400\n", 2.0, 4.0)
    assert by_rpm.turns.tolist() == [5.0, 10.0]
    assert by_rpm.source == "rpm"
    by_speed = read_speed_table("\ufefftime,mph\n0,45\n\n9,45\n", 2.0, 4.0)
    assert by_speed.turns[0] == pytest.approx(45 * 0.44704 / 2.0)
    for text, wanted in (
        ("time,knots\n0,1\n", "a first line"),
        ("time,mph\n0,x\n", "line 2"),
        ("time,mph\n1,5\n0,5\n", "rise"),
    ):
        with pytest.raises(AxleError, match=wanted):
            read_speed_table(text, 2.0, 4.0)


def test_an_accelerometer_s_uneven_table_is_evened():
    source = np.random.default_rng(10)
    times = np.cumsum(0.0025 * (1 + 0.2 * source.standard_normal(8000)))
    wave = np.cos(2 * np.pi * 31 * times)
    lines = "\n".join(f"{t:.5f},{x:.5f},0,{0.1 * x:.4f}" for t, x in zip(times, wave, strict=True))
    rate, samples = read_acceleration("t,x,y,z\n" + lines)
    assert rate == pytest.approx(400, abs=8)
    spectrum = np.abs(np.fft.rfft(samples[:, 0]))
    assert spectrum.argmax() * rate / len(samples) == pytest.approx(31, abs=0.1)


def test_what_is_typed_beside_a_recording():
    assert read_speeds("60 km/h", metric=False)[0][1] == pytest.approx(60 / 3.6)
    assert read_speeds("45", metric=False)[0][1] == pytest.approx(45 * 0.44704)
    assert [moment for moment, _ in read_speeds("0:20 50; 0 40", metric=True)] == [0.0, 20.0]
    assert read_marks("0-12 drive\n1:02–1:10 float")[1] == (62.0, 70.0, "float")
    assert seconds_in("15:00") == 900.0
    assert read_bearing("9 0.3126 1.537", "x") == (9, 0.3126, 1.537, 0.0)
    for bad in (
        lambda: seconds_in("16:00"),
        lambda: read_speeds("", metric=True),
        lambda: read_speeds("0 x", metric=True),
        lambda: read_marks("0-12 sideways"),
        lambda: read_marks("12-3 drive"),
        lambda: read_marks("soon drive"),
        lambda: read_bearing("9", "x"),
        lambda: read_bearing("9.5 1 5", "x"),
    ):
        with pytest.raises(AxleError):
            bad()


@pytest.mark.parametrize(
    ("change", "wanted"),
    [
        ({"speed": ToldSpeed("guess")}, "marks, table"),
        ({"speed": ToldSpeed("tone", at=5.0, frequency=5.0)}, "20 to 3000"),
        ({"speed": ToldSpeed("tone", at=5.0, frequency=300.0, is_a="bell")}, "mesh"),
        ({"speed": ToldSpeed("tone", at=5.0, frequency=300.0, is_a="tread")}, "how many"),
        ({"spans": ((0.0, 5.0, "up"),)}, "drive, coast"),
        ({"gear": 40.0}, "0 to 12"),
        ({"tread": 4}, "10 to 150"),
        ({"bearings": {"pinion_head": (2, 1.0, 5.0, 0.0)}}, "3 to 60"),
        ({"bearings": {"axle": (9, 1.0, 5.0, 0.0)}}, "pinion_head"),
    ],
)
def test_what_cannot_be_told_beside_a_recording_is_refused(change, wanted):
    with pytest.raises(AxleError, match=wanted):
        check_given(told(**change))


def test_a_vehicle_that_stood_and_a_silent_recording_say_so():
    with pytest.raises(AxleError, match="driving"):
        analyse(tone_of([(41, 1.0)]), told(speed=ToldSpeed("marks", marks=((0.0, 0.5),))))
    for samples, wanted in (
        (np.zeros(80_000), "silence"),
        (np.ones(800), "0.1 s"),
        (np.full(80_000, np.nan), "silence"),
    ):
        with pytest.raises(AxleError, match=wanted):
            split(iter([samples]), RATE)
    with pytest.raises(AxleError, match="100 to 192000"):
        Splitter(50)


@pytest.mark.parametrize(
    "truth", ["gear_drive", "gear_coast", "gear_tooth", "pinion_bearing", "tyre", "engine"]
)
def test_a_loud_simulated_noise_is_named(truth):
    # A world that no weight was set on; the analysis knows nothing of it.
    taken = RecordingWorld(8101, (16_000,)).recording(truth, 5, level=12.0, seconds=45.0)
    given = Given(
        "phone",
        ToldSpeed("marks", marks=tuple((float(t), float(v)) for t, v in taken.speeds)),
        taken.circumference,
        *taken.teeth,
        spans=tuple(m for m in taken.marks if m[1] - m[0] > 0.2),
    )
    result = analyse(split(iter([taken.sound]), taken.rate), given)
    assert truth in [name for one in result.outcomes[:2] for name in one.names]
    assert sum(one.chance for one in result.outcomes) <= 1.0001


def test_the_simulated_recorder_repeats_itself_and_refuses_what_it_does_not_know():
    world = RecordingWorld(3, (16_000,))
    one, other = (world.recording("tyre", 4, seconds=8.0) for _ in range(2))
    assert np.array_equal(one.sound, other.sound)
    assert np.abs(one.sound).max() <= 1.0
    with pytest.raises(AxleError, match=", ".join(TRUTHS[:2])):
        world.recording("ghost", 1)
    # What is told of the speed is off by no more than it may be.
    turns = np.interp(one.speeds[:, 0], one.angle_times, np.gradient(one.angle, one.angle_times))
    assert np.median(one.speeds[:, 1] / one.circumference / turns) == pytest.approx(1.0, abs=0.045)


def test_spans_of_a_drive_hold_together():
    with pytest.raises(AxleError, match="before its end"):
        Span(5.0, 5.0, "drive")


def test_files_of_sound_come_as_blocks(tmp_path):
    # A block at a time, from a file written by another writer, gives what the whole gives.
    import soundfile

    sound = 0.1 * np.random.default_rng(11).standard_normal((RATE * 6, 1))
    out = io.BytesIO()
    soundfile.write(out, sound, RATE, format="FLAC", subtype="PCM_24")
    out.seek(0)
    splitter = Splitter(RATE)
    for block in soundfile.blocks(out, blocksize=1000):
        splitter.feed(block)
    whole = split(iter([sound]), RATE)
    assert np.allclose(splitter.finish().low, whole.low, atol=1e-4)


def test_the_hunting_tooth_swells_the_mesh_and_five_cycles_are_wanted():
    # 41/11 share no factor: one pinion tooth meets one ring gear tooth once in 11 turns of the ring gear.
    times, angle, track = chirp(60.0, 8.0, 10.0)
    source = np.random.default_rng(12)
    noise = 0.5 * source.standard_normal(len(times))
    for swells, seen in ((0.4, True), (0.0, False)):
        tone = (1 + swells * np.cos(2 * np.pi * angle / 11)) * np.cos(2 * np.pi * 41 * angle)
        bands = split(iter([(tone + noise) / 6]), RATE)
        found = hunting(bands, laid(track, 60.0), MACHINE, 1.0)
        assert found.period == 11
        assert found.is_long_enough
        assert (found.sigmas > 6) is seen
        if seen:
            # The logarithm of the power swells by twice the amplitude's share.
            assert found.swells == pytest.approx(swells, rel=0.25)
    short = hunting(split(iter([(tone + noise)[: 5 * RATE] / 6]), RATE), laid(track, 5.0), MACHINE, 1.0)
    assert not short.is_long_enough
    # 40/10 meet each turn: there is nothing slow to hear.
    assert not hunting(bands, laid(track, 60.0), Machine(10, 40), 1.0).is_long_enough


def test_a_body_that_rings_is_told_from_what_turns():
    times, angle, track = chirp(50.0, 6.0, 12.0)
    noise = np.random.default_rng(13).standard_normal(len(times))
    # A resonance as scipy makes it: it keeps its frequency while the speed doubles.
    b, a = signal.iirpeak(430, 12, fs=RATE)
    ringing = noise + 4 * signal.lfilter(b, a, noise)
    found = spectra_of(split(iter([ringing / 12]), RATE), laid(track, 50.0), [])
    assert found.resonance[0] == pytest.approx(430, rel=0.03)
    assert found.resonance[1] > 5
    turning = noise + np.cos(2 * np.pi * 41 * angle)
    assert spectra_of(split(iter([turning / 12]), RATE), laid(track, 50.0), []).resonance == (0.0, 0.0)


def test_pulses_of_a_tachometer_give_the_speed():
    angle = np.cumsum(np.full(4000, 0.01) * np.linspace(20, 40, 4000))
    pulses = np.interp(np.arange(1, int(angle[-1])), angle, np.arange(4000) * 0.01)
    kept = np.delete(pulses, [50, 200, 201])
    track = by_pulses(kept, 1.0, 4.0)
    middle = np.array([10.0, 20.0, 30.0])
    assert track.at(middle) == pytest.approx(np.interp(middle, [0, 40], [20, 40]) / 4.0, rel=0.01)
    with pytest.raises(AxleError, match="second channel"):
        by_pulses(pulses[:5], 1.0, 4.0)
