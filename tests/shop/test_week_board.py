"""The board's geometry: where a minute lies, and what a place on it means."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from shop.drawing.week_board import Bar, Board, BoardDay, BoardRow, week_board

DAYS = tuple(BoardDay(f"Day {n}", n * 1440 + 450, n * 1440 + 990) for n in range(5))


def board(*bars: Bar, width: float = 1180.0) -> Board:
    return Board(
        DAYS, (BoardRow("Ines", bars), BoardRow("Press", (), is_person=False)), now=500, width=width
    )


@given(day=st.integers(0, 4), minute=st.integers(451, 989))
def test_a_place_on_the_board_is_the_minute_that_is_drawn_there(day, minute):
    for drawn in (board(), board(width=760.0)):
        at = day * 1440 + minute
        assert drawn.minute(drawn.x(at) / drawn.width) == pytest.approx(at, abs=1e-6)


def test_a_minute_outside_all_days_lies_nowhere_and_a_place_outside_at_the_nearest_end():
    drawn = board()
    assert drawn.x(1440) is None
    assert drawn.minute(-3) == DAYS[0].low
    assert drawn.minute(7) == pytest.approx(DAYS[-1].high, abs=0.01)


def test_work_over_a_night_is_drawn_in_two_pieces_as_long_as_its_work():
    drawn = board()
    pieces = list(drawn.pieces(900, 1440 + 500))
    assert len(pieces) == 2
    scale = drawn.x(960) - drawn.x(900)
    assert sum(right - left for left, right in pieces) == pytest.approx(scale / 60 * (90 + 50))


def test_every_mark_is_closed_and_escaped_and_late_is_a_shape_as_well_as_a_colour():
    bars = [
        Bar(460, 700, "0412\nA very long title that does not fit", "", late=True),
        Bar(
            460, 700, "", "job <0412> & more", kind="part", key="412:x", link="/plan?at=412:x", pinned=True
        ),
        Bar(700, 760, "0412", "a wait", kind="wait"),
    ]
    drawn, plain = (str(week_board(board(*shown))) for shown in (bars, [Bar(460, 700, "0412", "")]))
    assert drawn.count("<polygon") == 1
    assert drawn.count("<circle") == 1
    assert "<polygon" not in plain
    assert "job &lt;0412&gt; &amp; more" in drawn
    assert "<0412>" not in drawn
    for tag in ("a", "g", "svg", "title", "text"):
        opened = drawn.count(f"<{tag} ") + drawn.count(f"<{tag}>")
        assert opened == drawn.count(f"</{tag}>"), tag


def test_a_narrow_screen_shows_the_first_days():
    assert board().narrow.days == DAYS[:3]
    assert board().narrow.width < board().width
