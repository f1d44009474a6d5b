"""How long the contact engine takes, and the memory it holds: run as ``python -m benchmarks.contact``.

Wanted: geometry of a set under 0.5 s, both flanks' pattern after it under 20 ms, a chart of 7 × 7 under
1 s, a photo of 12 megapixels under 2 s.
"""

from __future__ import annotations

import io
import resource
import time
from collections.abc import Callable
from itertools import count

import numpy as np
from PIL import Image

from axle.contact.compound import Compound
from axle.contact.cut import Cut, cut, families
from axle.contact.estimate import PatchCentroids, place
from axle.contact.pattern import EaseOff
from axle.contact.response import pair, response
from axle.contact.set_chart import set_chart
from axle.photo.reading import read_photo
from axle.simulator.ring_scenes import Snap, as_file, print_snap

_TEETH = ((11, 41), (9, 41), (13, 40), (7, 43), (10, 41))
_PATCH = ((0.28, 0.3), (0.4, 0.22), (0.6, 0.3), (0.62, 0.6), (0.5, 0.74), (0.34, 0.66))
_DIAMETERS = count(160)


def main() -> None:
    """Measure each and print it."""
    cut("large_cutter", 11, 41, 222.0).meshing(convex=True).pattern(_crown())  # imports, first BLAS
    _say("geometry of a set, both flanks", _timed(_geometry, 40))
    gears = cut("large_cutter", 11, 41, 222.0)
    response(gears)
    draw = np.random.default_rng(5)
    _say(
        "both patterns",
        _timed(lambda: pair(gears, depth=draw.normal(0, 0.1), ring=draw.normal(0, 0.05)), 200),
    )
    _say("chart of 7 × 7, nearest cell marked", _timed(lambda: _chart(gears, draw), 20))
    _say("a print placed on the map", _timed(lambda: place(gears, _print(draw)), 60))
    _say_memory("most memory held by 45 sets")
    snap = print_snap(gears, _PATCH, convex=True, colour="yellow", seed=1, size=(4000, 3000))
    raw = as_file(snap)
    _say("12 megapixels read, from the JPEG", _timed(lambda: _from_file(raw, snap, gears), 5))
    _say_memory("most memory held, the drawn photo too")


def _crown() -> EaseOff:
    """Any crown: the first pattern pays for the imports."""
    return cut("large_cutter", 11, 41, 222.0).convex_ease


def _geometry() -> None:
    number = next(_DIAMETERS)
    family = sorted(families())[number % 5]
    made = cut(family, *_TEETH[number % 5], float(number % 130 + 160))
    for convex in (True, False):
        made.meshing(convex=convex).pattern(made.ease(convex=convex))


def _chart(gears: Cut, draw: np.random.Generator) -> None:
    # Other steps each time: a chart that was computed once is not computed again.
    steps = tuple(draw.uniform(0.02, 0.03) * n for n in (-9, -6, -3, 0, 3, 6, 9))
    set_chart(gears, steps, steps, _print(draw))


def _print(draw: np.random.Generator) -> PatchCentroids:
    return PatchCentroids(tuple(draw.normal(0.45, 0.06, 2)), tuple(draw.normal(0.45, 0.06, 2)))


def _from_file(raw: bytes, snap: Snap, gears: Cut) -> None:
    image = np.asarray(Image.open(io.BytesIO(raw)).convert("RGB"))
    read_photo(image, snap.taps(1), gears, Compound.YELLOW, convex=True, focal=snap.focal)


def _timed(work: Callable[[], object], times: int) -> list[float]:
    found = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        found.append(time.perf_counter() - began)
    return found


def _say_memory(what: str) -> None:
    print(f"{what:42s} {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:7.0f} MB")


def _say(what: str, seconds: list[float]) -> None:
    found = np.array(seconds) * 1000
    print(
        f"{what:42s} {np.median(found):7.1f} ms, 95th {np.percentile(found, 95):7.1f}, "
        f"most {found.max():7.1f}"
    )


if __name__ == "__main__":
    main()
