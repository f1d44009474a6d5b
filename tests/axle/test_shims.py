"""Choosing packs, against trying every choice there is."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from itertools import combinations, combinations_with_replacement

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.shims.choose import broken_rules, choose, named_pieces, reachable, to_order
from axle.shims.pieces import Pack, Piece, PieceRole, Rules, miced

sizes = st.sampled_from(["0.0508", "0.0762", "0.127", "0.254", "0.26", "0.50", "0.5055", "1.016", "1.524"])
pieces = st.tuples(sizes, st.booleans(), st.booleans(), st.sampled_from(PieceRole))
drawers = st.lists(pieces, min_size=1, max_size=9).map(
    lambda rows: [
        Piece(i, Decimal(size), damaged=damaged, role=role, cast=cast)
        for i, (size, damaged, cast, role) in enumerate(rows)
    ]
)
wants = st.decimals(min_value="0.05", max_value="4", places=3)
rules = st.builds(
    Rules, st.sampled_from([1, 2, 5]), st.just(Decimal("0.1")), st.integers(0, 3), st.booleans()
)


def every_pack(drawer: list[Piece], rules: Rules) -> list[Pack]:
    """Every pack there is within the rules, by brute force."""
    sound = [piece for piece in drawer if not piece.damaged]
    packs = [Pack(c) for count in range(1, rules.most + 1) for c in combinations(sound, count)]
    based = rules.base_first and any(p.role in (PieceRole.BASE, PieceRole.MASTER) for p in sound)
    return [pack for pack in packs if allowed(pack, rules, based=based)]


def allowed(pack: Pack, rules: Rules, *, based: bool) -> bool:
    """The rules, written out: few thin ones, no cast ones stacked, one base shim."""
    loose = [
        p for p in pack.pieces if not (rules.base_first and p.role in (PieceRole.BASE, PieceRole.MASTER))
    ]
    bases = len(pack.pieces) - len(loose)
    thin = sum(p.thickness < rules.thin and not p.cast for p in loose)
    return thin <= rules.most_thin and sum(p.cast for p in loose) <= 1 and bases == int(based)


@given(drawers, wants, st.sampled_from(["0", "0.0127", "0.05"]), rules)
@settings(max_examples=300)
def test_the_choice_is_the_best_there_is(drawer, wanted, tolerance, rules):
    tolerance = Decimal(tolerance)
    found = choose(wanted, tolerance, drawer, rules)
    fitting = [p for p in every_pack(drawer, rules) if abs(p.thickness - wanted) <= tolerance]
    if not fitting:
        assert found.pack is None
        return
    fewest = min(len(pack.pieces) for pack in fitting)
    nearest = min(abs(p.thickness - wanted) for p in fitting if len(p.pieces) == fewest)
    assert found.pack is not None
    assert len(found.pack.pieces) == fewest
    assert abs(found.pack.thickness - wanted) == nearest
    assert found.pack in fitting or sorted(p.key for p in found.pack.pieces) in [
        sorted(p.key for p in pack.pieces) for pack in fitting
    ]


@given(drawers, wants, rules)
@settings(max_examples=200)
def test_the_nearest_two_packs_that_can_be_made(drawer, wanted, rules):
    found = choose(wanted, Decimal(0), drawer, rules)
    # As many pieces as the pack itself needs: up to 2, 4, or all.
    most = next((m for m in (2, 4) if found.pack and len(found.pack.pieces) <= m), rules.most)
    packs = every_pack(drawer, replace(rules, most=min(most, rules.most)))
    sums = {pack.thickness for pack in packs}
    below = [total for total in sums if total <= wanted]
    above = [total for total in sums if total >= wanted]
    made = {pack.thickness for pack in found.nearest}
    expected = ({max(below)} if below else set()) | ({min(above)} if above else set())
    reach = wanted + max((p.thickness for p in drawer if not p.damaged), default=Decimal(0))
    assert made == {total for total in expected if total <= reach + Decimal("0.1")}


@given(drawers, wants, rules)
@settings(max_examples=150)
def test_every_reachable_thickness_and_no_other(drawer, wanted, rules):
    window = Decimal("0.3")
    fewest: dict[Decimal, int] = {}
    for pack in every_pack(drawer, rules):
        if abs(pack.thickness - wanted) <= window:
            count = len(pack.pieces)
            fewest[pack.thickness] = min(count, fewest.get(pack.thickness, count))
    found = {r.thickness: r.pieces for r in reachable(wanted, window, drawer, rules)}
    assert found == fewest


@given(drawers, wants, st.sets(sizes, min_size=1, max_size=4), rules)
@settings(max_examples=150)
def test_an_order_makes_the_pack_possible(drawer, wanted, catalogue, rules):
    # One piece if one will do, else two: held to fitting the ordered pieces by brute force.
    tolerance, ordered = Decimal("0.02"), [Decimal(size) for size in sorted(catalogue)]
    orders = to_order(wanted, tolerance, drawer=drawer, sizes=ordered, rules=rules)
    sound = [p for p in drawer if not p.damaged]

    def possible(group: tuple[Decimal, ...]) -> bool:
        bought = [Piece(100 + n, size) for n, size in enumerate(group)]
        keys = {piece.key for piece in bought}
        return any(
            abs(pack.thickness - wanted) <= tolerance and keys <= {p.key for p in pack.pieces}
            for pack in every_pack([*sound, *bought], rules)
        )

    one = [(size,) for size in ordered if possible((size,))]
    two = [pair for pair in combinations_with_replacement(ordered, 2) if possible(pair)]
    assert bool(orders) == bool(one or two)
    for order in orders:
        assert len(order.sizes) == (1 if one else 2)
        assert possible(tuple(order.sizes))


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


def test_the_fitted_one_of_two_equals_stays_in():
    # Common practice, no source: what is in and right is not taken out for its twin.
    drawer = [Piece(1, Decimal("0.5")), Piece(2, Decimal("0.5"), fitted=True), Piece(3, Decimal("0.5"))]
    assert [p.key for p in choose(Decimal("0.5"), Decimal(0), drawer).pack.pieces] == [2]


def test_a_piece_is_the_mean_of_its_readings_to_the_last_place():
    # By hand, in thou: 30.1, 30.2 and 30.3 are 30.2; a single tenth of a thou stays exact.
    assert miced([Decimal(n) * Decimal("0.00254") for n in (301, 302, 303)]) == Decimal("0.76708")
    assert miced([Decimal("0.00254")]) == Decimal("0.00254")
    for readings, words in (
        ([], "one reading or more"),
        ([Decimal("0.5"), Decimal("0.53")], "or it is two"),
    ):
        with pytest.raises(AxleError, match=words):
            miced(readings)


def test_broken_rules_are_named():
    # Common practice, no source: cast shims are not stacked, thin ones are few, base shims first.
    thin = [Piece(n, Decimal("0.1")) for n in range(4)]
    base = [Piece(9, Decimal(2), role=PieceRole.BASE)]
    said = broken_rules(thin, base, Rules(base_first=True))
    assert "4 thin pieces spring" in said[0]
    assert "base shims go in on both sides first" in said[1]
    assert broken_rules(base, base, Rules(base_first=True)) == ()


def test_a_large_drawer_is_named_back_to_its_pieces():
    # More pieces than one checkpoint of the search: what is named must still add up.
    drawer = [Piece(n, Decimal(20 + n) * Decimal("0.00254")) for n in range(400)]
    found = choose(Decimal("5.1"), Decimal("0.0013"), drawer)
    assert abs(found.pack.thickness - Decimal("5.1")) <= Decimal("0.0013")
    assert len({p.key for p in found.pack.pieces}) == len(found.pack.pieces)


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
    pack = named_pieces([Decimal("0.254"), Decimal("0.51")], drawer)
    assert [piece.key for piece in pack.pieces] == [2, 3]


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: choose(Decimal(0), Decimal(0), []), "wanted pack: 0.000 mm was given"),
        (lambda: choose(Decimal(60), Decimal(0), []), "under 50 mm is wanted"),
        (lambda: choose(Decimal(1), Decimal("-0.1"), []), "pack rule"),
        (lambda: Rules(0), "1 to 12 pieces, 0 or more thin ones is wanted"),
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
