"""The simulated instruments and their line protocol."""

from __future__ import annotations

import random
import statistics

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.measure.parse import unit_named
from axle.procedure.stations import reading_kinds
from axle.simulator.instruments import answer, channels


@pytest.mark.parametrize("kind", list(channels()))
def test_every_channel_answers_in_the_kind_s_own_dimension(kind):
    what = reading_kinds()[kind]
    word, value, unit = answer(f"READ {kind} 1 {what.places}", random.Random(3)).split()
    assert word == "VALUE"
    assert unit_named(unit).dimension is what.dimension
    assert float(value) >= 0


def test_readings_scatter_by_the_channel_s_noise_and_step():
    channel = channels()["total_torque"]
    source = random.Random(8)
    values = [channel.read(1, 1, source) for _ in range(500)]
    assert statistics.mean(values) == pytest.approx(channel.truth, abs=0.1)
    # Noise and a rectangular step in quadrature (JCGM 100:2008, 4.3.7).
    expected = (channel.noise**2 + channel.step**2 / 12) ** 0.5
    assert statistics.stdev(values) == pytest.approx(expected, rel=0.15)
    assert all(abs(v / channel.step - round(v / channel.step)) < 1e-9 for v in values)


def test_around_the_ring_it_varies_once():
    channel = channels()["backlash"]
    quiet = random.Random(0)
    means = [statistics.mean(channel.read(p, 4, quiet) for _ in range(400)) for p in (1, 2, 3, 4)]
    assert means[0] - means[2] == pytest.approx(2 * channel.around, abs=2e-5)
    assert means[1] == pytest.approx(means[3], abs=2e-5)


@pytest.mark.parametrize(
    "line",
    [
        "",
        "READ",
        "READ backlash",
        "READ horn 1 1",
        "READ backlash 5 4",
        "READ backlash x 4",
        "ZERO",
        "READ " * 50,
    ],
)
def test_nonsense_is_answered_with_an_error(line):
    assert answer(line, random.Random(1)).startswith("ERROR")


@given(st.text(max_size=120))
def test_no_line_breaks_it(line):
    assert answer(line, random.Random(1)).split()[0] in ("ID", "VALUE", "ERROR")


def test_it_says_who_it_is():
    assert answer("ID", random.Random(1)).startswith("ID simulated")
