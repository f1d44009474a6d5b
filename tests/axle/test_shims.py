"""Choosing packs, against trying every choice there is."""

from __future__ import annotations

from decimal import Decimal
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.shims import Pack, Piece, choose, named_pieces

sizes = st.sampled_from(["0.0508", "0.0762", "0.127", "0.254", "0.26", "0.50", "0.5055", "1.016", "1.524"])
drawers = st.lists(st.tuples(sizes, st.booleans()), min_size=1, max_size=9).map(
    lambda rows: [Piece(i, Decimal(size), damaged) for i, (size, damaged) in enumerate(rows)]
)
wants = st.decimals(min_value="0.05", max_value="4", places=3)


def every_pack(drawer: list[Piece], most: int) -> list[Pack]:
    """Every pack there is, by brute force."""
    sound = [piece for piece in drawer if not piece.damaged]
    return [Pack(tuple(chosen)) for count in range(1, most + 1) for chosen in combinations(sound, count)]


@given(drawers, wants, st.sampled_from(["0", "0.0127", "0.05"]))
@settings(max_examples=200)
def test_the_choice_is_the_best_there_is(drawer, wanted, tolerance):
    tolerance = Decimal(tolerance)
    found = choose(wanted, tolerance, drawer, most=5)
    fitting = [p for p in every_pack(drawer, 5) if abs(p.thickness - wanted) <= tolerance]
    if not fitting:
        assert found.pack is None
        return
    fewest = min(len(pack.pieces) for pack in fitting)
    nearest = min(abs(p.thickness - wanted) for p in fitting if len(p.pieces) == fewest)
    assert found.pack is not None
    assert len(found.pack.pieces) == fewest
    assert abs(found.pack.thickness - wanted) == nearest


@given(drawers, wants)
@settings(max_examples=200)
def test_the_nearest_two_packs_that_can_be_made(drawer, wanted):
    found = choose(wanted, Decimal(0), drawer, most=5)
    sums = {pack.thickness for pack in every_pack(drawer, 5)}
    below = [total for total in sums if total <= wanted]
    above = [total for total in sums if total >= wanted]
    made = {pack.thickness for pack in found.nearest}
    expected = ({max(below)} if below else set()) | ({min(above)} if above else set())
    reach = wanted + max((p.thickness for p in drawer if not p.damaged), default=Decimal(0))
    assert made == {total for total in expected if total <= reach + Decimal("0.1")}


@given(drawers, wants)
def test_pieces_are_used_once_never_damaged_and_thick_first(drawer, wanted):
    found = choose(wanted, Decimal("0.05"), drawer)
    for pack in (found.pack, *found.nearest):
        if pack is None:
            continue
        keys = [piece.key for piece in pack.pieces]
        assert len(keys) == len(set(keys))
        assert not any(piece.damaged for piece in pack.pieces)
        thick = [piece.thickness for piece in pack.pieces]
        assert thick == sorted(thick, reverse=True)
        assert sum(thick) == pack.thickness


def test_few_thick_pieces_are_preferred():
    # Common practice, no source: several thin shims spring, few thick are better.
    drawer = [Piece(1, Decimal("0.5"))] + [Piece(i, Decimal("0.1")) for i in range(2, 8)]
    found = choose(Decimal("0.5"), Decimal("0.01"), drawer)
    assert [piece.key for piece in found.pack.pieces] == [1]


def test_a_damaged_piece_is_left_though_it_fits():
    drawer = [Piece(1, Decimal("0.5"), damaged=True), Piece(2, Decimal("0.3")), Piece(3, Decimal("0.2"))]
    found = choose(Decimal("0.5"), Decimal(0), drawer)
    assert [piece.key for piece in found.pack.pieces] == [2, 3]


def test_an_empty_drawer_makes_nothing():
    found = choose(Decimal("0.5"), Decimal("0.01"), [])
    assert found.pack is None
    assert found.nearest == ()


def test_thou_and_micrometre_sizes_mix_exactly():
    # 0.0297 in is 0.75438 mm exactly; with 0.245 62 mm it makes a millimetre to the last place.
    drawer = [Piece(1, Decimal("0.75438")), Piece(2, Decimal("0.24562"))]
    assert choose(Decimal(1), Decimal(0), drawer).pack.thickness == 1


def test_named_pieces_are_found_to_a_fifth_of_a_thou():
    drawer = [Piece(1, Decimal("0.508")), Piece(2, Decimal("0.5105")), Piece(3, Decimal("0.254"))]
    found = named_pieces([Decimal("0.254"), Decimal("0.51")], drawer)
    assert [piece.key for piece in found.pieces] == [2, 3]


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: choose(Decimal(0), Decimal(0), []), "wanted pack: 0.000 mm was given"),
        (lambda: choose(Decimal(60), Decimal(0), []), "under 50 mm is wanted"),
        (lambda: choose(Decimal(1), Decimal("-0.1"), []), "pack rule"),
        (lambda: choose(Decimal(1), Decimal(0), [], most=0), "1 to 12 pieces is wanted"),
        (lambda: Piece(1, Decimal(0)), "shim: 0 mm was given"),
        (lambda: Piece(1, Decimal(30)), "under 25 mm is wanted"),
        (lambda: choose(Decimal(1), Decimal(0), [Piece(1, Decimal("0.1234567"))]), "five places"),
        (lambda: named_pieces([Decimal("0.4")], [Piece(1, Decimal("0.5"))]), "piece: 0.4 mm was given"),
        (
            lambda: named_pieces([Decimal("0.5")] * 2, [Piece(1, Decimal("0.5"))]),
            "a sound piece of that size",
        ),
    ],
)
def test_what_cannot_be_is_refused(call, words):
    with pytest.raises(AxleError) as refused:
        call()
    assert words in str(refused.value)
