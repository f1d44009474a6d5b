"""A careful builder with the rules of thumb of the trade, on the same axles and instruments.

Backlash by ten of shim to seven of backlash, depth in steps of five and three thou by what the pattern's
heights say, preloads in steps of three thou (common practice). Everything is read, and nothing is signed
before it reads in range; both sides are changed together.
"""

from __future__ import annotations

from decimal import Decimal
from typing import Final

from axle.carrier.schools import usual_interference
from axle.contact.mark import Flanked
from axle.contact.reading import read_pattern
from axle.depth.marks import Mark
from axle.layout import CarrierBy, DepthShim, Place
from axle.measure.range import BacklashLevel, Range, RangeSide
from axle.shims.choose import choose
from benchmarks.closed_loop.bench import Bench
from benchmarks.closed_loop.lash_follower import Outcome
from benchmarks.closed_loop.shop import LASH_PLACES, THOU, Case, drawer

_MOST_BUILDS: Final = 12
_RING_PER_LASH: Final = 10 / 7
_STEP: Final = 3 * THOU
_DEPTH_STEPS: Final = (5 * THOU, 3 * THOU, 3 * THOU, 2 * THOU)
_BITE: Final = 15.0
_FIRST_PLAY: Final = 0.004


class _Builder:
    def __init__(self, case: Case) -> None:
        self.case, self.bench, self.out = case, Bench(case), Outcome(case)
        self.first = self.bench.first
        self.steps, self.said, self.pinion = 0, "", 0.0

    def work(self) -> Outcome:
        self._pinion_in()
        self._carrier_in()
        for _ in range(_MOST_BUILDS):
            self.bench.read_all()
            if not self._change():
                self.out.done = True
                break
        out, bench = self.out, self.bench
        out.builds, out.pinions, out.carriers = bench.builds, bench.pinions, bench.carriers
        out.readings, out.wrong = bench.readings, bench.wrong
        out.right = out.done and not out.wrong
        return out

    # The pinion

    def _pinion_in(self) -> None:
        layout, case = self.case.layout, self.case
        wanted = float(self.first[Place.DEPTH])
        if case.depth_method != "trial":
            if layout.depth_shim is DepthShim.CARTRIDGE:
                self._fit({Place.DEPTH: wanted})
            growth = self.bench.read("dial_travel", 1, 1)
            mark = Mark(case.true_axle.mark).value
            trial = wanted if layout.depth_shim is DepthShim.CARTRIDGE else 0.0
            sign = -1 if layout.depth_shim is DepthShim.CARTRIDGE else 1
            wanted = trial + sign * (growth - mark)
        self._fit({Place.DEPTH: wanted})
        if layout.has_preload_pack:
            start = float(self.first[Place.PRELOAD]) if case.preloads else float(self.bench.preloaded)
            self._fit({Place.PRELOAD: start})
        self._preload_pinion()

    def _preload_pinion(self) -> None:
        """By steps of three thou, the pinion out and in at each; a sleeve by small bites."""
        limits = self.case.limits.pinion
        if not self.case.layout.has_preload_pack:
            self._bites(limits or Range(1.7, 2.8))
            return
        if limits is None:
            return
        step, before = _STEP, 0
        for _ in range(8):
            play = self.bench.read("pinion_end_play", 1, 1)
            torque = self.pinion = sum(self.bench.both("pinion_torque")) / 2
            side = limits.side(torque)
            if side is RangeSide.IN_RANGE:
                return
            direction = -1 if side is RangeSide.UNDER else 1
            if direction == -before:
                step /= 2
            before = direction
            change = -(play + step) if play > _FIRST_PLAY else direction * step
            # Whatever a dial showed, nobody takes half of a pack away at once.
            pack = float(self.bench.settings[Place.PRELOAD])
            self._fit({Place.PRELOAD: max(pack + change, pack / 2)})

    def _bites(self, limits: Range) -> None:
        self.bench.tighten(self.case.true_axle.slack + 4.0)
        for _ in range(40):
            torque = self.pinion = sum(self.bench.both("pinion_torque")) / 2
            side = limits.side(torque)
            if side is RangeSide.IN_RANGE:
                return
            if side is RangeSide.OVER:
                self._new_sleeve()
                self.bench.tighten(self.case.true_axle.slack + 4.0)
            else:
                self.bench.tighten(_BITE if torque < limits.low / 2 else _BITE / 2)

    def _new_sleeve(self) -> None:
        now = self.bench.settings.get(Place.PRELOAD, Decimal(0))
        self.bench.fit({Place.PRELOAD: (now + 1, None)})

    # The carrier

    def _carrier_in(self) -> None:
        if self.case.school == "both_sides":
            # By feelers both sides: just sliding, then what the school adds to each.
            kinds = ("gap_ring", "gap_far")
            ring, far = (self.bench.read(kind, 1, 1) for kind in kinds)
            add = self._adds() / 2
            sign = -1 if self.case.layout.carrier_by is CarrierBy.COVERS else 1
            self._fit({Place.RING: ring + sign * add, Place.FAR: far + sign * add})
            return
        self._fit({p: float(self.first[p]) for p in (Place.RING, Place.FAR)})

    def _adds(self) -> float:
        covers = self.case.layout.carrier_by is CarrierBy.COVERS
        usual = usual_interference()["cover_loose" if covers else "both_sides"]
        return (usual.low + usual.high) / 2

    def _change(self) -> bool:
        """Read everything; make the next change, or say that it is done."""
        change: dict[Place, float] = {}
        inside = self._carrier_step()
        places = range(1, LASH_PLACES + 1)
        lash = [self.bench.read("backlash", place, LASH_PLACES, "away") for place in places]
        moved = self._lash_step(min(lash))
        sign = -1 if self.case.layout.carrier_by is CarrierBy.COVERS else 1
        if inside or moved:
            # > 0 away from the pinion: the far side tighter, the ring side looser; more preload far.
            change[Place.RING] = -sign * moved
            change[Place.FAR] = sign * (moved + inside)
        else:
            depth = self._pattern_step()
            if not depth:
                return False
            push = depth if self.case.true_axle.shim_pushes_in else -depth
            change[Place.DEPTH] = push
            if self.case.true_axle.stack_follows:
                change[Place.PRELOAD] = push
        if not self._fit({p: self._now(p) + by for p, by in change.items()}):
            return False
        if Place.DEPTH in change:
            if not self.case.layout.has_preload_pack:
                self._new_sleeve()
            self._preload_pinion()
        return True

    def _now(self, place: Place) -> float:
        value = float(self.bench.settings.get(place, Decimal(0)))
        each = self.case.true_axle.subject.pitch / self.case.true_axle.subject.holes
        sides = self.case.layout.has_adjusters and place in (Place.RING, Place.FAR)
        return value * each if sides else value

    def _carrier_step(self) -> float:
        limits = self.case.limits.carrier
        if limits is None:
            return 0.0
        play = self.bench.read("carrier_end_play", 1, 1)
        if play > _FIRST_PLAY:
            return play + 2 * _STEP
        total = sum(self.bench.both("total_torque")) / 2
        # In mesh a wrench turns the whole: the pinion's own torque is the one read before the carrier went
        # in.
        side = limits.side((total - self.pinion) * self.case.true_axle.subject.gears.ratio)
        return {RangeSide.UNDER: _STEP, RangeSide.OVER: -_STEP}.get(side, 0.0)

    def _lash_step(self, smallest: float) -> float:
        limits = self.case.limits.backlash
        assert limits is not None
        if limits.low <= smallest <= limits.high:
            return 0.0
        return (limits.middle - smallest) * _RING_PER_LASH

    def _pattern_step(self) -> float:
        """Deeper is positive; nothing once the heights are right, or after as many steps as there are."""
        flanks = {name: Flanked.of(patch) for name, patch in self.bench.mark().items()}
        says = read_pattern(flanks["drive"], flanks["coast"], backlash=BacklashLevel.IN_RANGE).says
        if says not in ("too deep", "too shallow"):
            return 0.0
        if self.said and says != self.said:
            self.steps += 1
        self.said = says
        step = _DEPTH_STEPS[min(self.steps, len(_DEPTH_STEPS) - 1)]
        self.steps += 1
        return step if says == "too shallow" else -step

    def _fit(self, wanted: dict[Place, float]) -> bool:
        """The nearest packs of the drawer, or whole holes; says whether anything changed."""
        packs = {}
        for place, value in wanted.items():
            if self.case.layout.has_adjusters and place in (Place.RING, Place.FAR):
                each = self.case.true_axle.subject.pitch / self.case.true_axle.subject.holes
                first = place not in self.bench.settings
                holes = value if first else value / each
                packs[place] = (Decimal(str(round(holes * 2) / 2)), None)
                continue
            asked = Decimal(str(round(value, 5)))
            found = choose(asked, Decimal("0.0127"), drawer(place, self.case.number))
            near = found.pack or min(found.nearest, key=lambda p: abs(p.thickness - asked))
            packs[place] = (near.thickness, near)
        changed = any(self.bench.settings.get(p) != v for p, (v, _) in packs.items())
        if changed:
            self.bench.fit(packs)
        return changed


def build(case: Case) -> Outcome:
    """Build an axle by the rules of thumb, until everything reads in range."""
    return _Builder(case).work()
