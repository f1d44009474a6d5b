"""How often a photograph is refused as it should be: python -m benchmarks.photo_refusals COUNT [FIRST].

Pictures of painted gears on which nothing was wiped: how often a patch is found all the same. Pictures
whose paste is another than the chosen one: how often it is named. Mild and usual world by turns, two
processes.
"""

from __future__ import annotations

import sys
from multiprocessing import Pool

from axle.contact.compound import Compound
from axle.contact.cut import cut, families
from axle.errors import AxleError
from axle.photo.reading import read_photo
from axle.photo.refusals import Cause
from axle.simulator.ring_scenes import Snap, some_snap

_FAMILIES = sorted(families())
_LEVELS = ("mild", "usual")
_COLOURED = tuple(compound for compound in Compound if compound is not Compound.WHITE)


def main() -> None:
    """Draw, read, say."""
    count = int(sys.argv[1])
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 55_000
    seeds = range(first, first + count)
    with Pool(2) as pool:
        nothing = pool.map(_nothing_wiped, seeds, chunksize=4)
        named = [row for rows in pool.map(_other_colours, seeds, chunksize=4) for row in rows]
    print(f"nothing wiped: {count} pictures, a patch found on {sum(nothing) / count:.3f}")
    for level in _LEVELS:
        rows = [right for at, right in named if at == level]
        share = sum(rows) / len(rows)
        print(f"{level}: another colour chosen {len(rows)} times, refused and named {share:.3f}")


def _read(snap: Snap, seed: int, compound: Compound) -> AxleError | None:
    item = cut(_FAMILIES[seed % len(_FAMILIES)], 11, 41, 222.0)
    try:
        read_photo(
            snap.shot.image, snap.taps(seed + 1), item, compound, convex=snap.scene.convex, focal=snap.focal
        )
    except AxleError as refused:
        return refused
    return None


def _snap(seed: int, **more: object) -> Snap:
    item = cut(_FAMILIES[seed % len(_FAMILIES)], 11, 41, 222.0)
    return some_snap(_LEVELS[seed % 2], seed, item, **more)


def _nothing_wiped(seed: int) -> bool:
    snap = _snap(seed, outlines={})
    return _read(snap, seed, Compound(snap.scene.paint.colour)) is None


def _other_colours(seed: int) -> list[tuple[str, bool]]:
    """For a coloured paste, each other compound chosen: whether it is refused and named."""
    snap = _snap(seed)
    painted = Compound(snap.scene.paint.colour)
    if painted not in _COLOURED:
        return []
    rows = []
    for chosen in Compound:
        if chosen is painted:
            continue
        refused = _read(snap, seed, chosen)
        is_named = getattr(refused, "cause", None) is Cause.COLOUR and painted.value in str(refused)
        rows.append((_LEVELS[seed % 2], is_named))
    return rows


if __name__ == "__main__":
    main()
