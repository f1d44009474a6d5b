"""The carrier's arithmetic: `.venv/bin/python -m benchmarks.carrier`.

One advice on an axle with play, with load and on adjusters; a move planned by hand; the ratio learned from
twelve moves; and, over made-up axles on the tests' own rig, how often one planned move after the first fit
puts preload and backlash in range, by carrier and school.
"""

from __future__ import annotations

import random
from dataclasses import replace
from decimal import Decimal

from axle.decision.carrier.what_if import what_if
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.layout import CarrierBy, Place
from axle.measure.units import IMPERIAL
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.backlash import learned_ratios
from benchmarks.pinion import timed
from tests.axle.rig import THOU, Builder, Rig
from tests.axle.test_advice import PACKS, standing_axle
from tests.axle.test_carrier import LOOSE, SCHOOLS, by


def with_lash(state: AxleState, smallest: float, settings: dict[Place, Decimal], order: int) -> AxleState:
    """The state with backlash read at four places on some settings."""
    rows = tuple(
        Reading(
            "backlash",
            place,
            value=(smallest + 0.2 * place) * THOU,
            order=order + place,
            assembly=1,
            settings=settings,
            conditions={"places": 4},
        )
        for place in (1, 2, 3, 4)
    )
    return replace(state, settings=settings, readings=(*state.readings, *rows))


def many_moves(count: int) -> AxleState:
    """An axle whose sides were moved to and fro."""
    state, source = standing_axle(lash=()), random.Random(4)
    for step in range(count + 1):
        ring = PACKS[Place.RING] + Decimal(source.randint(-6, 6)) * Decimal("0.0254")
        settings = {**PACKS, Place.RING: ring, Place.FAR: PACKS[Place.FAR] + PACKS[Place.RING] - ring}
        moved = float(ring - PACKS[Place.RING]) / THOU
        state = with_lash(state, 12 - 0.93 * moved + source.gauss(0, 0.2), settings, 100 * step + 100)
    return state


def speed() -> None:
    """Time one advice and its parts."""
    one, many = with_lash(standing_axle(lash=()), 13, PACKS, 100), many_moves(12)
    timed("next move, backlash loose", lambda _: next_move(one), target="(target 300 ms)")
    timed("next move after twelve moves", lambda _: next_move(many), target="(target 300 ms)")
    timed("depth and sides planned by hand", lambda _: what_if(one, IMPERIAL, deeper=3 * THOU))
    timed("ratio learned from twelve moves", lambda _: learned_ratios(many))


def one_move(axles: int = 60) -> None:
    """How often the first planned move is the only one, on axles whose ratio and zero nobody told."""
    print(f"one planned move after the first fit, {axles} axles each:")
    for carrier, school, method in SCHOOLS:
        right = 0
        for seed in range(axles):
            source = random.Random(seed)
            rig = Rig(
                by(carrier),
                seed,
                per_ring=source.gauss(0.95, 0.1),
                lash_there=source.uniform(0.15, 0.35),
                side_zero=10.0 + source.gauss(0, 0.03),
            )
            trial = {Place.DEPTH: 0.75, Place.PRELOAD: 1.2}
            if method not in ("feelers", "gaps"):
                trial |= dict(zip((Place.RING, Place.FAR), LOOSE[carrier], strict=True))
            builder = Builder(rig, trial, school=school, method=method)
            end = builder.work()
            right += end.act is Act.SIGN and builder.carrier_changes <= 1
        kind = "adjusters" if carrier is CarrierBy.ADJUSTERS else carrier.value
        print(f"  {kind:12s} {school:12s} {method:8s} {right / axles:6.0%}")


if __name__ == "__main__":
    speed()
    one_move()
