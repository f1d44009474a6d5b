"""Levels over the floor by orders: what was heard, what was before, and what the axle can make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from shop.drawing.axis import Axis
from shop.drawing.svg import Svg, number

_WIDE: Final = 860
_HIGH: Final = 300
_LEFT: Final = 52
_RIGHT: Final = 14
_TOP: Final = 62
_FOOT: Final = 258
# Words of two orders nearer than this stand on different lines.
_APART: Final = 74
_LINES: Final = 3


@dataclass(frozen=True)
class OrderMark:
    """An order that the axle can make.

    :param title: a few words.
    :param low: its order, or the least.
    :param high: the most.
    """

    title: str
    low: float
    high: float


@dataclass(frozen=True)
class OrderLine:
    """One spectrum.

    :param orders: places.
    :param levels: over the floor [dB].
    :param words: what it is.
    :param style: of the line.
    """

    orders: Sequence[float]
    levels: Sequence[float]
    words: str
    style: str = "tick"


def order_spectrum(
    lines: Sequence[OrderLine], marks: Sequence[OrderMark], most: float = 130.0, unheard: float = 0.0
) -> Svg:
    """Draw spectra over each other, with the orders above.

    :param most: the highest order that is drawn.
    :param unheard: under this order the recorder hears nothing.
    """
    svg = Svg(_WIDE, _HIGH, label="Levels by turns of the ring gear", name="order-spectrum")
    top = max([20.0, *(max(line.levels, default=0.0) for line in lines)])
    x = Axis(0.0, most, _LEFT, _WIDE - _RIGHT)
    y = Axis(-3.0, min(top * 1.05, 45.0), _FOOT, _TOP)
    if unheard > 0:
        svg.rect("closed-day", _LEFT, _TOP, x.at(unheard) - _LEFT, _FOOT - _TOP)
        if x.at(unheard) - _LEFT > 74:
            svg.text("title", _LEFT + 4, _TOP + 16, "not heard")
    _marks(svg, marks, x, unheard)
    for line in lines:
        points = [(x.at(o), y.at(v)) for o, v in zip(line.orders, line.levels, strict=True) if o <= most]
        if points:
            svg.path(line.style, "M" + " L".join(f"{number(a)} {number(b)}" for a, b in points))
    svg.path("tick", f"M{number(_LEFT)} {number(_FOOT)} H{number(_WIDE - _RIGHT)}")
    for value in x.ticks(14):
        svg.text("title", x.at(value), _FOOT + 18, f"{value:g}", text_anchor="middle")
    for value in y.ticks(5):
        svg.text("title", _LEFT - 8, y.at(value) + 5, f"{value:g}", text_anchor="end")
    svg.text("title", _WIDE - _RIGHT, _FOOT + 36, "times a turn of the ring gear", text_anchor="end")
    svg.text("title", 4, _TOP - 8, "dB")
    for index, line in enumerate(lines):
        if line.words:
            at = _LEFT + 10 + index * 210
            svg.path(line.style, f"M{number(at)} {number(_FOOT + 31)} h26")
            svg.text("title", at + 32, _FOOT + 36, line.words)
    return svg


def _marks(svg: Svg, marks: Sequence[OrderMark], x: Axis, unheard: float) -> None:
    """Words above, on as many lines as keep them apart."""
    ends = [-1e9] * _LINES
    for mark in sorted(marks, key=lambda one: one.low):
        if mark.low > x.high or mark.high < unheard:
            continue
        left, right = x.at(mark.low), x.at(mark.high)
        if mark.high > mark.low * 1.05:
            svg.rect("curve-band", left, _TOP, right - left, _FOOT - _TOP)
        else:
            svg.path("target", f"M{number((left + right) / 2)} {number(_TOP)} V{number(_FOOT)}")
        middle = (left + right) / 2
        row = next((n for n in range(_LINES) if ends[n] + 6 < middle - _APART / 2), None)
        if row is None:
            continue
        ends[row] = middle + _APART / 2
        svg.text("title", middle, 16 + 17 * row, mark.title, text_anchor="middle")
