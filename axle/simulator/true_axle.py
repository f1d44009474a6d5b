"""What nobody at the bench knows of a simulated axle: its lengths, springs, cut and faults.

An axle is drawn from a seed: the same subject and seed give the same axle. How far axles differ stands in
``spreads.toml``. Signs follow from where the parts stand here, not from the layout's own.
"""

from __future__ import annotations

import cmath
import math
import random
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from typing import Any, Final

from axle.contact.cut import Cut, tooth
from axle.contact.gears import cut_of
from axle.contact.reading import usual_middles
from axle.contact.response import pair, response
from axle.data_file import read_table
from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy, SpacerSeat
from axle.simulator.fault import Fault
from axle.simulator.workshop import Shop, Wear, draw_shop, draw_wear
from axle.simulator.world import World

_THOU: Final = 0.0254
_CENTRING_ROUNDS: Final = 3


@dataclass(frozen=True)
class Subject:
    """What anybody may know of an axle before it is measured.

    :param layout: where it keeps its shims.
    :param gears: its gear set, as the sheet has it.
    :param backlash: middle of the sheet's backlash range [mm], more than 0.
    :param pinion_torque: middle of the sheet's pinion preload [N·m], more than 0.
    :param pitch: thread pitch of its adjusters [mm]; not looked at without adjusters.
    :param holes: adjuster holes per turn.
    :param nut_pitch: thread pitch of the pinion nut [mm].
    :param used: the bearings are used ones, which turn at half the torque.
    :param nominal: ring axis to the pinion's face for a zero mark [mm].
    :param head: head height of the pinion [mm].
    :raises AxleError: for a figure that is not more than 0.
    """

    layout: Layout
    gears: GearSet
    backlash: float = 0.20
    pinion_torque: float = 2.26
    pitch: float = 1.5
    holes: int = 24
    nut_pitch: float = 1.5
    used: bool = False
    nominal: float = 90.0
    head: float = 40.0

    def __post_init__(self) -> None:
        for what in ("backlash", "pinion_torque", "pitch", "holes", "nut_pitch", "nominal", "head"):
            if getattr(self, what) <= 0:
                raise AxleError(
                    what.replace("_", " "), given=f"{getattr(self, what):g}", wanted="more than 0"
                )


@dataclass(frozen=True)
class Spring:
    """How a pair of bearings answers interference with rotating torque.

    :param coefficient: torque at 1 mm of interference [N·m].
    :param power: of the interference [1].
    :param drag: torque that is there without interference [N·m].
    :param soft: interference that goes into the seats before it loads [mm].
    :param give: interference at which the case has given way by a third or so [mm]; 0 where it gives none.
    """

    coefficient: float
    power: float
    drag: float = 0.0
    soft: float = 0.0
    give: float = 0.0

    def torque(self, interference: float) -> float:
        """Rotating torque [N·m] at an interference [mm]; below zero it is play."""
        return float(self.drag + self.coefficient * self._loads(max(interference, 0.0)) ** self.power)

    def _loads(self, interference: float) -> float:
        """What of an interference loads the rollers [mm]."""
        if self.soft and interference:
            interference = interference**2 / (interference + self.soft)
        return self.give * math.log1p(interference / self.give) if self.give else interference

    def interference(self, torque: float) -> float:
        """Interference [mm] at a torque [N·m]."""
        loads = (max(torque - self.drag, 0.0) / self.coefficient) ** (1 / self.power)
        if self.give:
            loads = self.give * math.expm1(loads / self.give)
        if self.soft and loads:
            loads = (loads + math.sqrt(loads**2 + 4 * loads * self.soft)) / 2
        return float(loads)


@dataclass(frozen=True)
class TrueAxle:
    """The truth of one axle.

    :param subject: what anybody may know of it.
    :param seed: it was drawn from.
    :param fault: what is wrong with it, or nothing.
    :param distance: from the ring axis to the pinion's face at which this set runs right [mm].
    :param bare: the same as the housing and bearings place it without a depth shim [mm].
    :param mark: what is etched on the pinion [mm], longer is plus.
    :param gauge_off: what a gauge's result is off on this axle [mm].
    :param zero_pack: preload pack at zero play with the depth right [mm].
    :param pinion: the pinion pair.
    :param slack: turn of the nut that takes the play out of a new sleeve [degrees].
    :param sleeve_share: share of the nut's advance that loads the bearings.
    :param zero: sum of both sides at zero play, counted so that more is tighter [mm].
    :param ring_right: the ring side's part of it at which the ring gear is right [mm].
    :param share: of the interference that the ring side gives way to, 0 to 1.
    :param carrier: the carrier pair.
    :param mesh_drag: of the mesh at the pinion [N·m].
    :param lash_right: mean backlash with ring gear and pinion right [mm].
    :param per_ring: backlash per ring gear movement [1].
    :param per_depth: backlash per depth [1].
    :param gear_wobble: the gear's own first-order runout, amplitude and angle, as a complex number [mm].
    :param flange_wobble: the flange's, likewise [mm].
    :param second: amplitude of what comes twice a turn [mm].
    :param bend: amplitude of the pinion's own wobble in the backlash [mm].
    :param proud: by how much a cup was not home before the first print [mm].
    :param slinger: thickness of the slinger that was left out after gauging [mm], 0 where none was.
    :param shim_off: what the first new pack holds over its label [mm].
    :param wrench_off: what the rotating-torque wrench shows at nothing [N·m].
    :param scatter: relative scatter of the pinion's rotating torque.
    :param caps_pinch: torque that swapped caps add at the carrier [N·m].
    :param cut: how the set was truly cut.
    :param world: in which it is built, or nothing on the bench of practice.
    :param wear: what the shop does to it, likewise.
    """

    subject: Subject
    seed: int
    fault: Fault | None
    distance: float
    bare: float
    mark: float
    gauge_off: float
    zero_pack: float
    pinion: Spring
    slack: float
    sleeve_share: float
    zero: float
    ring_right: float
    share: float
    carrier: Spring
    mesh_drag: float
    lash_right: float
    per_ring: float
    per_depth: float
    gear_wobble: complex
    flange_wobble: complex
    second: float
    bend: float
    proud: float
    slinger: float
    shim_off: float
    wrench_off: float
    scatter: float
    caps_pinch: float
    cut: Cut
    world: World | None = None
    wear: Wear | None = None

    @property
    def shim_pushes_in(self) -> bool:
        """A shim under head or behind cup pushes the pinion in; under a cartridge it holds it out."""
        return self.subject.layout.depth_shim is not DepthShim.CARTRIDGE

    @property
    def right_pack(self) -> float:
        """Depth pack at which the pinion is right [mm]."""
        return self.bare - self.distance if self.shim_pushes_in else self.distance - self.bare

    @property
    def stack_follows(self) -> bool:
        """Whether the outer cone comes along when the depth shim moves the pinion or the inner cup."""
        layout = self.subject.layout
        if layout.preload_by is PreloadBy.SLEEVE or layout.depth_shim is DepthShim.CARTRIDGE:
            return False
        return layout.spacer_seat is SpacerSeat.SHOULDER or layout.depth_shim is DepthShim.CUP

    @property
    def covers(self) -> bool:
        """Whether a thicker side pack holds its bearing further out."""
        return self.subject.layout.carrier_by is CarrierBy.COVERS


@cache
def spreads() -> Mapping[str, Mapping[str, Any]]:
    """How simulated axles differ, by group and name.

    :source: ``spreads.toml``: from memory and common practice.

    >>> spreads()["depth"]["guess_sigma"]
    0.127
    """
    return read_table(__file__, "spreads.toml", dict[str, dict[str, Any]])


def figures(world: World | None, group: str) -> Mapping[str, Any]:
    """Figures of a group: those of ``spreads.toml`` with a world's own over them.

    :param world: or nothing on the bench of practice.
    :param group: name of the group.
    :source: ``spreads.toml`` and the world's file.
    """
    own = world.groups.get(group, {}) if world else {}
    return {**spreads().get(group, {}), **own}


def sample_axle(
    subject: Subject,
    seed: int,
    fault: Fault | None = None,
    *,
    world: World | None = None,
    shop: Shop | None = None,
) -> TrueAxle:
    """Draw an axle.

    :param subject: what anybody may know of it; lengths [mm].
    :param seed: any whole number; the same one gives the same axle.
    :param fault: what is to be wrong with it.
    :param world: in which it is built; the bench of practice when left out.
    :param shop: in whose hands it is; each axle has a shop of its own when left out.
    :raises AxleError: where the gears cannot be computed.
    :source: ``spreads.toml``; the world's file.

    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> sample_axle(Subject(layout, GearSet(11, 41)), 7) == sample_axle(Subject(layout, GearSet(11, 41)), 7)
    True
    """
    source = random.Random(seed)
    groups = ("depth", "pinion", "carrier", "backlash")
    depth, pinion, carrier, lash = (figures(world, name) for name in groups)
    layout = subject.layout
    cut = _cut(subject, source, figures(world, "cut"))
    per_ring, per_depth = _ratios(cut)
    scale = 1 + source.gauss(0, figures(world, "cut")["indicator_sigma"])
    pushes_in = layout.depth_shim is not DepthShim.CARTRIDGE
    right = source.uniform(*depth["right_head" if pushes_in else "right_cartridge"])
    mark = source.randint(-depth["mark_steps"], depth["mark_steps"]) * _THOU
    distance = subject.nominal + mark
    zero = source.uniform(*carrier["zero"])
    if layout.carrier_by is CarrierBy.COVERS:
        zero = -zero
    runout = source.uniform(0, lash["ring_runout_most"]) / 2
    gear = cmath.rect(runout * source.random(), source.uniform(0, math.tau))
    flange = cmath.rect(runout - abs(gear), source.uniform(0, math.tau))
    true_axle = TrueAxle(
        subject=subject,
        seed=seed,
        fault=fault,
        distance=distance,
        bare=distance + (right if pushes_in else -right),
        mark=mark,
        gauge_off=source.gauss(0, depth["gauge_sigma"]),
        zero_pack=source.uniform(*pinion["zero_pack"]),
        pinion=_spring(pinion, source, 0.5 if subject.used else 1.0),
        slack=source.uniform(*pinion["sleeve_slack"]),
        sleeve_share=source.uniform(*pinion["sleeve_share"]),
        zero=zero,
        ring_right=zero / 2 + source.uniform(-0.35, 0.35),
        share=min(max(source.gauss(0.5, carrier["share_sigma"]), 0.25), 0.75),
        carrier=_spring(carrier, source, 1.0),
        mesh_drag=source.uniform(*carrier["mesh_drag"]),
        lash_right=subject.backlash + source.gauss(0, lash["right_sigma"]),
        per_ring=per_ring * scale,
        per_depth=per_depth * scale,
        gear_wobble=gear,
        flange_wobble=flange,
        second=lash["second_share"] * runout,
        bend=0.0,
        proud=0.0,
        slinger=0.0,
        shim_off=0.0,
        wrench_off=0.0,
        scatter=0.0,
        caps_pinch=0.0,
        cut=cut,
    )
    if world is not None:
        true_axle = _worn(true_axle, world, shop or draw_shop(world, seed))
    return plant(true_axle, fault, source) if fault is not None else true_axle


def _worn(sound: TrueAxle, world: World, shop: Shop) -> TrueAxle:
    """An axle as its shop's bearings and gauges have it."""
    wear = draw_wear(world, shop, sound.seed, used=sound.subject.used)
    source = random.Random(f"gauge {world.name} {sound.seed}")
    depth = figures(world, "depth")
    tail = depth["gauge_tail_times"] if source.random() < depth["gauge_tail_chance"] else 1.0
    share = 0.5 if sound.subject.used else 1.0
    return replace(
        sound,
        gauge_off=sound.gauge_off * tail + wear.hands.gauge_zero,
        pinion=_worn_spring("pinion", wear, share * wear.pinion_factor, wear.pinion_drag),
        carrier=_worn_spring("carrier", wear, wear.carrier_factor, wear.carrier_drag),
        mesh_drag=wear.mesh_drag,
        world=world,
        wear=wear,
    )


def _worn_spring(name: str, wear: Wear, factor: float, drag: float) -> Spring:
    group = spreads()[name]
    give = wear.give if name == "carrier" else 0.0
    coefficient = factor * group["torque"] / group["interference"] ** wear.power
    return Spring(coefficient, wear.power, drag=drag, soft=wear.soft, give=give)


def plant(sound: TrueAxle, fault: Fault, source: random.Random) -> TrueAxle:
    """Put a fault into a sound axle.

    :param sound: the axle.
    :param fault: what is to be wrong with it.
    :param source: random numbers.
    :source: ``spreads.toml``, sizes [mm or N·m] that a bench would notice.
    """
    sizes = spreads()["faults"]
    angle = source.uniform(0, math.tau)

    def size(name: str) -> float:
        return float(source.uniform(*sizes[name]))

    sign = source.choice((-1, 1))
    changed: Mapping[Fault, Mapping[str, Any]] = {
        Fault.GEAR_RUNOUT: {"gear_wobble": cmath.rect(size("runout") / 2, angle)},
        Fault.FLANGE_BURR: {"flange_wobble": cmath.rect(size("burr") / 2, angle)},
        Fault.BENT_PINION: {"bend": size("bent")},
        Fault.UNSEATED_CUP: {"proud": size("unseated")},
        Fault.DRY_BEARING: {
            "pinion": replace(sound.pinion, coefficient=sound.pinion.coefficient * size("dry")),
            "scatter": sizes["dry_scatter"],
        },
        Fault.WRONG_MARK: {"mark": -_wrong_mark(sound, source.randint(*sizes["mark_off"]))},
        Fault.SLINGER_OUT: {"slinger": source.uniform(*spreads()["depth"]["slinger"])},
        Fault.SWAPPED_CAPS: {"caps_pinch": size("caps_drag")},
        Fault.MISLABELLED_SHIM: {"shim_off": sign * size("shim_off")},
        Fault.WRENCH_NOT_ZERO: {"wrench_off": size("wrench_off")},
    }
    true_axle = replace(sound, fault=fault, **changed[fault])
    if fault is Fault.WRONG_MARK:
        # The set's distance follows what was truly measured by the maker, the mark says the opposite.
        moved = -true_axle.mark - sound.mark
        true_axle = replace(true_axle, distance=sound.distance + moved, bare=sound.bare + moved)
    return true_axle


def _wrong_mark(sound: TrueAxle, steps: int) -> float:
    return math.copysign(steps * _THOU, sound.mark or 1.0)


def _spring(group: Mapping[str, Any], source: random.Random, share: float) -> Spring:
    power = source.uniform(*group["power"])
    stiffness = share * (1 + source.uniform(-group["stiffness"], group["stiffness"]))
    return Spring(stiffness * group["torque"] / group["interference"] ** power, power)


def _ratios(made: Cut) -> tuple[float, float]:
    """Backlash per ring gear movement and per depth, as an indicator along the heel's motion shows it."""
    told = response(made).backlash
    heel = made.ring_diameter / 2 / tooth(made).pitch.mean_radius
    return told["ring"] * heel, told["depth"] * heel


def _cut(subject: Subject, source: random.Random, wide: Mapping[str, Any]) -> Cut:
    """The set as it was truly cut: near its family's figures, its patches near the usual middles."""
    centroids = {
        name: tuple(at + source.gauss(0, wide["centre_sigma"]) for at in usual_middles()[name])
        for name in ("drive", "coast")
    }
    for _ in range(8):
        item = _jittered(cut_of(subject.gears), source)
        try:
            return _centred(item, centroids, subject.gears.drive_convex)
        except AxleError:
            continue  # no cutter makes this one
    return _centred(cut_of(subject.gears), centroids, subject.gears.drive_convex)


def _jittered(item: Cut, source: random.Random) -> Cut:
    wide = spreads()["cut"]
    angle = math.radians(wide["angle_sigma"])
    crown = math.exp(source.gauss(0, wide["crown_sigma"])), math.exp(source.gauss(0, wide["crown_sigma"]))
    convex, concave = (
        replace(ease, lengthwise=ease.lengthwise * crown[0], profile=ease.profile * crown[1])
        for ease in (item.convex_ease, item.concave_ease)
    )
    return replace(
        item,
        spiral=item.spiral + math.radians(source.gauss(0, wide["spiral_sigma"])),
        cutter_radius=item.cutter_radius * (1 + source.gauss(0, wide["cutter_sigma"])),
        convex_angle=item.convex_angle + source.gauss(0, angle),
        concave_angle=item.concave_angle + source.gauss(0, angle),
        convex_ease=convex,
        concave_ease=concave,
    )


def _centred(item: Cut, centroids: Mapping[str, tuple[float, ...]], drive_convex: bool) -> Cut:
    """Move both crowns until the patches at the right place have their middles where they were drawn."""
    drive, coast = centroids["drive"], centroids["coast"]
    wanted = (*drive, *coast) if drive_convex else (*coast, *drive)
    at = list(wanted)
    for _ in range(_CENTRING_ROUNDS):
        item = replace(
            item,
            convex_ease=replace(item.convex_ease, centre=(at[0], at[1])),
            concave_ease=replace(item.concave_ease, centre=(at[2], at[3])),
        )
        shown = pair(item).centroids
        at = [min(max(a + w - float(s), -0.2), 1.2) for a, w, s in zip(at, wanted, shown, strict=True)]
    return item


@lru_cache(maxsize=64)
def drawn(subject: Subject, seed: int, fault: Fault | None = None) -> TrueAxle:
    """As :func:`sample_axle`, kept: a page asks for the same axle again and again.

    :param subject: as there; lengths [mm].
    :param seed: likewise.
    :param fault: likewise.
    :source: :func:`sample_axle`.
    """
    return sample_axle(subject, seed, fault)
