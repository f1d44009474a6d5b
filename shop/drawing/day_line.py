"""Waits on a line of the hours to come: where each ends, and what is due already."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from shop.drawing.svg import Svg, number

_WIDE, _LEFT, _ROW, _TOP, _FOOT = 420, 10, 26, 22, 24
_SHORTEST: Final = timedelta(hours=2)
_TICKS: Final = 4
_HALF: Final = 2


@dataclass(frozen=True)
class Wait:
    """One wait.

    :param title: what is waited for.
    :param began: when.
    :param due: when it ends.
    """

    title: str
    began: datetime
    due: datetime


def day_line(waits: Sequence[Wait], now: datetime) -> str:
    """Draw waits from now on: a bar to where each ends, the next due on top; what is due is full.

    :param waits: at least one.
    :param now: by the shop's clock.
    """
    last = max([*(wait.due for wait in waits), now + _SHORTEST])
    span = (last - now) / timedelta(seconds=1)
    spoken = "; ".join(f"{wait.title}, due {wait.due:%a %H:%M}" for wait in waits)
    svg = Svg(_WIDE, _TOP + _ROW * len(waits) + _FOOT, label=f"Waits: {spoken}", name="day-line")

    def x(moment: datetime) -> float:
        share = (moment - now) / timedelta(seconds=1) / span
        return _LEFT + max(share, 0.0) * (_WIDE - 2 * _LEFT)

    foot = _TOP + _ROW * len(waits)
    for step in range(_TICKS + 1):
        moment = now + (last - now) * step / _TICKS
        anchor = "start" if step == 0 else "end" if step == _TICKS else "middle"
        svg.path("axis", f"M{number(x(moment))} {_TOP - 4} V{foot}")
        day = f"{moment:%a} " if moment.date() != now.date() else ""
        words = "now" if step == 0 else f"{day}{moment:%H:%M}"
        svg.text("title", x(moment), foot + 18, words, text_anchor=anchor)
    for row, wait in enumerate(sorted(waits, key=lambda one: one.due)):
        top, end = _TOP + row * _ROW, x(wait.due)
        is_due = wait.due <= now
        svg.rect("in-hand" if is_due else "wanting", _LEFT, top, max(end - _LEFT, 8), _ROW - 8)
        on_left = end > _WIDE / _HALF
        at = end - 6 if on_left else max(end, _LEFT + 8) + 6
        svg.text("words", at, top + 14, wait.title, text_anchor="end" if on_left else "start")
    return str(svg)
