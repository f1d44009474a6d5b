"""The shop's week as a board: a row for each person and machine, a column for each day, bars for work."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from html import escape
from typing import Final

from shop.drawing.svg import Svg, number

_WIDE, _NARROW = 1180.0, 760.0
# A narrow screen shows so many days.
_FEW: Final = 3
_LEFT: Final = 118.0
_TOP: Final = 44.0
_PERSON, _MACHINE = 62.0, 30.0
_GAP: Final = 8.0
# A bar that is narrower carries no words.
_WORDY: Final = 46.0
_LETTER: Final = 7.4


@dataclass(frozen=True)
class BoardDay:
    """One day of the board.

    :param title: as its head says it.
    :param low: clock minute with which it begins.
    :param high: clock minute with which it ends.
    :param closed: why nobody works, or "".
    """

    title: str
    low: float
    high: float
    closed: str = ""


@dataclass(frozen=True)
class Bar:
    """Work, a wait or an absence on a row.

    :param start: clock minute.
    :param end: clock minute.
    :param words: on the bar.
    :param title: in full.
    :param kind: "work" in a row on one job, "part" of it without words, "wait" or "away".
    :param key: of the stretch, or "".
    :param link: where it leads, or "".
    :param late: the job is late.
    :param pinned: somebody set it.
    :param begun: somebody is at it.
    :param chosen: it is shown beside the board.
    """

    start: float
    end: float
    words: str
    title: str
    kind: str = "work"
    key: str = ""
    link: str = ""
    late: bool = False
    pinned: bool = False
    begun: bool = False
    chosen: bool = False


@dataclass(frozen=True)
class BoardRow:
    """A person or a machine.

    :param title: its name.
    :param bars: in order.
    :param is_person: whether it is somebody.
    :param link: the person's day, or "".
    """

    title: str
    bars: tuple[Bar, ...]
    is_person: bool = True
    link: str = ""


@dataclass(frozen=True)
class Board:
    """What is drawn.

    :param days: in order, one or more.
    :param rows: people first.
    :param now: clock minute of the now line.
    :param width: of the drawing.
    """

    days: tuple[BoardDay, ...]
    rows: tuple[BoardRow, ...]
    now: float
    width: float = _WIDE

    @property
    def narrow(self) -> Board:
        """The first days of it, for a narrow screen."""
        return replace(self, days=self.days[:_FEW], width=_NARROW)

    @property
    def height(self) -> float:
        """Height of the drawing."""
        return _TOP + sum(_height(row) + _GAP for row in self.rows) + 24

    def x(self, minute: float) -> float | None:
        """Where a clock minute lies across the drawing; nothing where it is outside all days."""
        width = (self.width - _LEFT) / len(self.days)
        for place, day in enumerate(self.days):
            if day.low <= minute <= day.high:
                return _LEFT + place * width + (minute - day.low) / (day.high - day.low) * width
        return None

    def minute(self, share: float) -> float:
        """The clock minute at a share of the drawing's width, 0 to 1."""
        width = (self.width - _LEFT) / len(self.days)
        at = min(max(share * self.width - _LEFT, 0.0), self.width - _LEFT - 1e-6)
        place = int(at // width)
        day = self.days[place]
        return day.low + (at - place * width) / width * (day.high - day.low)

    def pieces(self, start: float, end: float) -> Iterator[tuple[float, float]]:
        """Where a span lies, day by day: (from, to) across the drawing."""
        for day in self.days:
            low, high = max(start, day.low), min(end, day.high)
            if high > low:
                left, right = self.x(low), self.x(high)
                if left is not None and right is not None:
                    yield left, right


def _height(row: BoardRow) -> float:
    return _PERSON if row.is_person else _MACHINE


def week_board(board: Board) -> str:
    """Draw a board.

    :param board: what is drawn.
    """
    svg = Svg(
        round(board.width), round(board.height), "The week: people and machines", "week-board", role="group"
    )
    svg.raw(
        '<defs><pattern id="wait-hatch" width="8" height="8" patternUnits="userSpaceOnUse" '
        'patternTransform="rotate(45)"><path class="s-hatch" d="M0 0V8" stroke="#9aa5ab"/></pattern></defs>'
    )
    _columns(svg, board)
    top = _TOP
    for row in board.rows:
        _row(svg, board, row, top)
        top += _height(row) + _GAP
    at = board.x(board.now)
    if at is not None:
        svg.path("now-line", f"M{number(at)} {number(_TOP - 8)}V{number(board.height - 20)}")
        anchor = "start" if at < _LEFT + 40 else "end" if at > board.width - 40 else "middle"
        svg.text("no", at, board.height - 5, "now", text_anchor=anchor)
    return str(svg)


def _columns(svg: Svg, board: Board) -> None:
    width = (board.width - _LEFT) / len(board.days)
    for place, day in enumerate(board.days):
        left = _LEFT + place * width
        svg.path("axis", f"M{number(left)} 8V{number(board.height - 24)}")
        svg.text("words", left + 8, 22, day.title)
        if day.closed:
            svg.rect("closed-day", left, _TOP - 6, width, board.height - _TOP - 18)
            svg.text("title", left + 8, board.height - 32, _fitted(day.closed, width - 12))


def _row(svg: Svg, board: Board, row: BoardRow, top: float) -> None:
    height = _height(row)
    name = _fitted(row.title, _LEFT - 14)
    svg.rect("lane", _LEFT, top, board.width - _LEFT, height)
    if row.link:
        svg.raw(f'<a href="{escape(row.link)}">')
    svg.text("part-name" if row.is_person else "bin-note", 6, top + height / 2 + 5, name)
    if row.link:
        svg.raw("</a>")
    for bar in row.bars:
        _bar(svg, board, bar, top=top, height=height)
    # Words come last: no line of a part runs through them.
    for bar in row.bars:
        pieces = list(board.pieces(bar.start, bar.end))
        if pieces and bar.words:
            _words(svg, bar, max(pieces, key=lambda piece: piece[1] - piece[0]), top, height=height)


def _bar(svg: Svg, board: Board, bar: Bar, top: float, height: float) -> None:
    pieces = list(board.pieces(bar.start, bar.end))
    if not pieces:
        return
    if bar.link:
        svg.raw(
            f'<a class="bar" href="{escape(bar.link)}" data-stretch="{escape(bar.key)}" '
            f'aria-label="{escape(bar.title)}">'
        )
    else:
        svg.raw("<g>")
    if bar.title:
        svg.raw(f"<title>{escape(bar.title)}</title>")
    style = {"wait": "bar-wait", "away": "closed-day", "part": "bar-part"}.get(bar.kind, "bar")
    if bar.begun:
        style = "bar-begun"
    elif bar.late and bar.kind == "work":
        style = "bar-late"
    for left, right in pieces:
        svg.rect(style, left + 1, top + 2, max(right - left - 2, 2.0), height - 4)
        if bar.chosen:
            svg.rect("bar-chosen", left - 1, top, max(right - left + 2, 4.0), height)
    if bar.late and bar.kind == "work":
        # A corner that is cut off: late is a shape as well as a colour.
        svg.polygon(
            "no",
            [(pieces[-1][1] - 13, top + 2), (pieces[-1][1] - 1, top + 2), (pieces[-1][1] - 1, top + 14)],
        )
    if bar.pinned:
        svg.circle("ink", pieces[0][0] + 9, top + height - 10, 4)
    svg.raw("</a>" if bar.link else "</g>")


def _words(svg: Svg, bar: Bar, piece: tuple[float, float], top: float, height: float) -> None:
    left, right = piece
    room = right - left - 12
    if room < _WORDY:
        return
    lines = bar.words.split("\n") if height > _MACHINE else [bar.words.replace("\n", " ")]
    for place, line in enumerate(lines[:2]):
        style = "part-name" if place == 0 and height > _MACHINE else "bin-note"
        svg.text(style, left + 7, top + 20 + 20 * place, _fitted(line, room))


def _fitted(text: str, room: float) -> str:
    """A text cut to the room that there is."""
    count = int(room / _LETTER)
    return text if len(text) <= count else f"{text[: max(count - 1, 1)].rstrip()}…"
