"""Drawings of a recording: orders at their places, the map's points, nothing drawn where nothing was heard."""

from __future__ import annotations

import io
import re

import numpy as np
import pytest
from PIL import Image

from axle.noise.bands import split
from axle.noise.orders import known_orders
from axle.noise.recording import Given, Mapped, ToldSpeed, analyse
from shop.drawing.order_marks import order_marks
from shop.drawing.order_spectrum import OrderLine, OrderMark, order_spectrum
from shop.noise.speed_map import SIZE, pointed_at, speed_map, time_map

GIVEN = Given("phone", ToldSpeed("marks", marks=((0.0, 20.0),)), 2.2, 11, 41)


def places(svg: str, words: str) -> float:
    return float(re.search(rf'<text[^>]* x="([\d.]+)"[^>]*>{words}</text>', svg)[1])


def test_orders_stand_over_their_places():
    marks = order_marks(GIVEN)["tones"]
    svg = str(order_spectrum([OrderLine([10, 41, 90], [0, 12, 3], "now")], marks))
    # The scale is straight: the mesh, twice and three times it, lie evenly apart.
    mesh, twice, three = (places(svg, words) for words in ("mesh", "2 × mesh", "3 × mesh"))
    assert twice - mesh == pytest.approx(three - twice, abs=0.3)
    shaft = places(svg, "shaft")
    assert (mesh - shaft) / (twice - mesh) == pytest.approx((41 - 41 / 11) / 41, abs=0.01)
    path = re.search(r'd="M([\d.]+) ([\d.]+) L([\d.]+) ([\d.]+)', svg)
    assert float(path[3]) == pytest.approx(mesh, abs=0.3)
    assert float(path[4]) < float(path[2])


def test_what_is_not_heard_is_shaded_and_its_orders_are_left_out():
    svg = str(order_spectrum([OrderLine([20, 41], [0, 9], "")], order_marks(GIVEN)["tones"], unheard=15.0))
    assert "not heard" in svg
    assert ">shaft<" not in svg
    assert ">mesh<" in svg


def test_words_of_near_orders_do_not_cover_each_other():
    marks = [OrderMark(f"order {n}", float(n), float(n)) for n in range(20, 30)]
    svg = str(order_spectrum([OrderLine([1, 2], [0, 1], "")], marks))
    rows: dict[str, list[float]] = {}
    for x, y in re.findall(r'<text[^>]* x="([\d.]+)" y="([\d.]+)"[^>]*>order \d+<', svg):
        rows.setdefault(y, []).append(float(x))
    assert 1 <= len(rows) <= 3
    assert all(np.diff(sorted(found)).min(initial=999) >= 70 for found in rows.values())


def test_figures_of_a_bearing_take_the_place_of_the_usual_range():
    usual = order_marks(GIVEN)["blows"]
    assert any(mark.title == "pinion bearings" and mark.high > mark.low * 1.5 for mark in usual)
    bearings = {"wheel": (9, 0.3126, 1.537, 0.0)}
    typed = order_marks(Given("phone", GIVEN.speed, 2.2, 11, 41, bearings=bearings))["blows"]
    outer = next(mark for mark in typed if mark.title == "wheel-outer")
    assert outer.high == pytest.approx(3.585, abs=0.001)
    assert outer.low < outer.high
    assert {one.name for one in known_orders(GIVEN.machine)} >= {"mesh", "shaft", "tread"}


def test_a_place_of_the_map_is_a_moment_and_a_frequency():
    levels = np.zeros((96, 160), dtype=int)
    levels[48, :] = 24
    mapped = Mapped(40.0, 1600.0, levels=levels.tolist(), turns=[10.0] * 160)
    assert pointed_at(mapped, SIZE[0] // 2, SIZE[1] // 4) == (20.0, 1200.0)
    assert pointed_at(mapped, -5, 9999) == (0.0, 0.0)
    picture = np.asarray(Image.open(io.BytesIO(time_map(mapped, [41.0]))).convert("L")).astype(int)
    assert picture.shape == (SIZE[1], SIZE[0])
    # The loud row is dark, half way up; the order's line lies at 410 Hz.
    assert picture[:, 3].argmin() == pytest.approx(SIZE[1] * (1 - 48.5 / 96), abs=3)
    at = SIZE[1] * (1 - 410 / 1600)
    assert np.ptp(picture[int(at) - 2 : int(at) + 3, 2]) > 60


def test_by_speed_an_order_is_a_ray_and_a_body_that_rings_a_level_line():
    times = np.arange(40 * 8000) / 8000
    angle = 5 * times + 0.125 * times**2
    sound = np.cos(2 * np.pi * 41 * angle) + np.cos(2 * np.pi * 900 * times)
    sound = sound + 0.3 * np.random.default_rng(2).standard_normal(len(times))
    given = Given("phone", ToldSpeed("marks", marks=((0.0, 11.0), (40.0, 33.0))), 2.2, 11, 41)
    mapped = analyse(split(iter([sound / 5]), 8000), given).map
    levels = np.array(mapped.by_speed)
    hertz = (np.arange(len(levels)) + 0.5) * mapped.highest / len(levels)
    turns = np.linspace(mapped.slowest, mapped.fastest, levels.shape[1])
    ray = [levels[np.abs(hertz - 41 * t).argmin(), at] for at, t in enumerate(turns)]
    assert np.mean(ray) > np.mean(levels) + 6
    picture = np.asarray(Image.open(io.BytesIO(speed_map(mapped, []))).convert("L")).astype(int)
    assert picture.shape == (SIZE[1], SIZE[0])
    steady = Given("phone", ToldSpeed("marks", marks=((0.0, 22.0),)), 2.2, 11, 41)
    assert analyse(split(iter([sound / 5]), 8000), steady).map.by_speed == []
