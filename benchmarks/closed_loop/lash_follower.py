"""Somebody who does what Lash says, and nothing else."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from axle.contact.mark import Flanked
from axle.contact.patch import Patch
from axle.decision.move import Act, Move
from axle.decision.next_move import next_move
from axle.depth.marks import Mark
from axle.layout import DepthShim, Place
from axle.measure.units import IMPERIAL
from axle.practice.follower import Follower
from axle.procedure.conditions import has_seal
from axle.simulator.fault import Fault
from axle.state.axle_state import AxleState
from axle.state.reading import Print, Reading, average_repeats
from axle.state.settings import Settings
from axle.stations.station_state import Standing, stand
from axle.stations.zero_play import sides_are_set
from benchmarks.closed_loop.bench import Bench, ImpossibleReading
from benchmarks.closed_loop.shop import LASH_PLACES, Case, drawer
from benchmarks.closed_loop.told import put_right, told_priors

_MOST: Final = 120
_FIRST_BITE: Final = 15.0


@dataclass
class Outcome:
    """How one axle went.

    :param case: which one.
    :param builds: assemblies until it was called done, or given up.
    :param pinions: times the pinion was assembled.
    :param carriers: times the carrier was.
    :param done: it was called done.
    :param right: it was truly in range when it was.
    :param wrong: what was out.
    :param named: suspects that were named, with the build at which.
    :param moves: by change: its chance, and whether all was truly in range afterwards.
    :param slowest: slowest advice [s].
    :param log: what was done.
    :param planted: the shim that lies went in, where there is one.
    :param signed: chance that all is in range, as it was said at the signature.
    :param stop: what it stopped at, in words.
    :param impossible: readings asked for that nobody can take.
    """

    case: Case
    builds: int = 0
    pinions: int = 0
    carriers: int = 0
    readings: int = 0
    done: bool = False
    right: bool = False
    wrong: tuple[str, ...] = ()
    named: list[tuple[str, int]] = field(default_factory=list)
    stopped: bool = False
    moves: list[tuple[float, bool]] = field(default_factory=list)
    times: list[float] = field(default_factory=list)
    log: list[str] = field(default_factory=list)
    planted: bool = True
    signed: float = 0.0
    stop: str = ""
    impossible: int = 0


def build(case: Case, *, told: bool = False) -> Outcome:
    """Build an axle by Lash's word, from the first shim to the signature.

    :param case: the axle.
    :param told: Lash is told what this axle's hands, instruments and bearings truly are like.
    """
    return _Worker(case, told=told).work()


def finish(case: Case) -> tuple[Outcome, AxleState]:
    """Build an axle, and give its state beside the outcome.

    :param case: the axle.
    """
    worker = _Worker(case)
    return worker.work(), worker.state


class _Worker(Follower):
    def __init__(self, case: Case, *, told: bool = False) -> None:
        self.bench, self.case, self.told = Bench(case), case, told
        layout = case.layout
        first = self.bench.first
        self.state = AxleState(
            layout,
            case.true_axle.subject.gears,
            case.sheet,
            mark=Mark(case.true_axle.mark),
            school=case.school,
            methods={"depth": case.depth_method, "carrier_preload": case.carrier_method},
            old_packs={p: first[p] for p in layout.shim_places},
            drawer={place: drawer(place, case.number) for place in layout.shim_places},
            lash_places=LASH_PLACES,
            stations=case.stations,
            priors=told_priors(case) if told else case.priors,
        )
        self.order, self.out = 0, Outcome(case)
        self.taken: list[Reading] = []

    def work(self) -> Outcome:
        last = self.follow(_MOST)
        out = self.out
        out.done = last is not None and last.act is Act.SIGN
        out.stopped = last is not None and last.act is Act.LOOK
        out.stop = f"{last.station}: {last.title}. {' '.join(last.why[:1])}" if last and out.stopped else ""
        out.signed = (last.probability or 0.0) if last is not None and out.done else 0.0
        out.builds, out.pinions, out.carriers = self.bench.builds, self.bench.pinions, self.bench.carriers
        out.readings, out.wrong = self.bench.readings, self.bench.wrong
        out.right = out.done and not out.wrong
        lies = self.case.true_axle.fault is Fault.MISLABELLED_SHIM
        out.planted = self.bench.mislabelled or not lies
        return out

    def advice(self) -> Move:
        began = time.perf_counter()
        move = next_move(self.state, IMPERIAL)
        self.out.times.append(time.perf_counter() - began)
        self.out.log.append(f"{self.bench.builds} {move.station}: {move.title}")
        self.out.named += [(key, self.bench.builds) for key in move.faults]
        return move

    def standings(self) -> Mapping[str, Standing]:
        return stand(self.state)

    def replace_sleeve(self) -> None:
        self.bench.fit({Place.PRELOAD: (self.state.setting(Place.PRELOAD) + 1, None)})
        self._fitted()

    def _wrong(self) -> tuple[str, ...]:
        wrong = self.bench.wrong
        if self.state.layout.has_preload_pack:
            return wrong
        # A new sleeve is bitten after the change: its preload is judged once it is.
        return tuple(w for w in wrong if w != "pinion preload")

    def prepare(self) -> None:
        """What goes in before anything can be read: a trial under a cartridge, loose adjusters."""
        first, layout = self.bench.first, self.state.layout
        if layout.depth_shim is DepthShim.CARTRIDGE and not self.state.setting(Place.DEPTH):
            self.bench.fit({Place.DEPTH: (first[Place.DEPTH], None)})
            self._fitted()
        bare = layout.has_preload_pack and not self.state.setting(Place.PRELOAD)
        if not self.case.preloads and self.state.setting(Place.DEPTH) and bare:
            # The first table takes the preload as given.
            self.bench.fit({Place.PRELOAD: (self.bench.preloaded, None)})
            self._fitted()
        station = next(name for name, s in stand(self.state).items() if not s.is_done)
        if station == "carrier_preload" and layout.has_adjusters and not self.state.setting(Place.RING):
            self.bench.fit({p: (first[p], None) for p in (Place.RING, Place.FAR)})
            self._fitted()

    def _fitted(self) -> None:
        self.state = replace(self.state, settings=Settings(self.bench.settings), assembly=self.bench.builds)

    def change(self, move: Move) -> None:
        self.bench.fit({swap.place: (swap.after, swap.pack) for swap in move.swaps})
        self._fitted()
        if move.probability is not None:
            self.out.moves.append((move.probability, not self._wrong()))

    def choose_method(self, move: Move) -> None:
        """Play or torque, by what a hand feels; subtraction once the pinion is in."""
        methods = dict(self.state.methods)
        axle = self.bench.axle
        if move.station == "pinion_preload" and self.state.layout.has_preload_pack and not move.asks:
            methods["pinion_preload"] = "play" if axle.pinion_interference < -0.005 else "torque"
        by_torque = self.case.school in ("subtraction", "alone")
        if move.station == "carrier_preload" and by_torque and not move.asks and sides_are_set(self.state):
            # With the pinion in, the carrier is no longer turned alone.
            usual = "subtraction" if self.bench.pinion_in else self.case.carrier_method
            methods["carrier_preload"] = "play" if axle.carrier_interference < -0.005 else usual
        self.state = replace(self.state, methods=methods)

    def wanted(self, move: Move) -> Sequence[tuple[str, int]]:
        slots = tuple(super().wanted(move))
        if move.station == "backlash":
            self.bench.read_all()
        return slots

    def read(self, kind: str, place: int, *, again: bool) -> None:
        try:
            self._take(kind, place, again=again)
        except ImpossibleReading:
            # Nobody can take it as the axle stands: the carrier comes out for it, and is another assembly.
            self.out.impossible += 1
            self.out.log.append(f"impossible: {kind}")
            self.bench.part_mesh()
            self._fitted()
            self._take(kind, place, again=again, parted=True)

    def _take(
        self,
        kind: str,
        place: int,
        *,
        again: bool = False,
        turned: float | None = None,
        parted: bool = False,
    ) -> None:
        self.order += 1
        how: dict[str, object] = {"again": True} if again else {}
        places = self.state.places_of(kind)
        if kind == "backlash" and self.bench.axle.carrier_interference < 0:
            how["pushed"] = "away"
        if has_seal(kind):
            # A careful hand reads a torque both ways.
            one, other = self.bench.both(kind)
            value = (one + other) / 2
            how["both"] = [one, other]
        else:
            value = self.bench.read(kind, place, places)
        if self.told:
            value = put_right(self.case.true_axle, kind, value)
        if turned is not None:
            how["turned"] = turned
        if parted and has_seal(kind):
            how["mesh"] = "parted"
        if kind == "backlash":
            how["places"] = LASH_PLACES
        taken = Reading(
            kind,
            place,
            value=value,
            order=self.order,
            assembly=self.bench.builds,
            settings=self.state.settings,
            conditions=how,
            step=0.0565 if has_seal(kind) else None,
        )
        self.state = replace(self.state, readings=self._brought_together(taken))

    def _brought_together(self, taken: Reading) -> tuple[Reading, ...]:
        self.taken.append(taken)
        return average_repeats(self.taken, [p.order for p in self.state.prints], self.state.priors)

    def make_print(self) -> None:
        self.order += 1
        flanks = {name: Flanked.of(patch) for name, patch in self._seen().items()}
        number = 1 + sum(1 for p in self.state.prints if p.assembly == self.bench.builds)
        made = Print(
            self.bench.builds, self.order, settings=self.state.settings, flanks=flanks, number=number
        )
        self.state = replace(self.state, prints=(*self.state.prints, made))

    def _seen(self) -> Mapping[str, Patch]:
        """Patches as they are drawn; without the eye's own error where that is told."""
        seen, wear = self.bench.mark(), self.case.true_axle.wear
        if not self.told or wear is None:
            return seen
        along, up = wear.hands.eye
        return {
            name: Patch(tuple((_on_flank(u - along), _on_flank(v - up)) for u, v in patch.outline))
            for name, patch in seen.items()
        }

    def tighten(self, move: Move) -> None:
        """Until the play is gone by feel; then as far as is said, read after each bite."""
        if not move.amount:
            turn = self.case.true_axle.slack + 4.0 if not self.bench.turned else _FIRST_BITE
        else:
            turn = move.amount
        parted = self.bench.in_mesh
        if parted:
            # In mesh nobody reads what the nut does to the pinion: the carrier comes out for it.
            self.bench.part_mesh()
            self._fitted()
        self.bench.tighten(turn)
        self._take("pinion_torque", 1, turned=round(turn, 1), parted=parted)


def _on_flank(share: float) -> float:
    return min(max(share, 0.0), 1.0)
