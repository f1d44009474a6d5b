"""What a workshop does to an axle: hands, instruments, seats and bearings, drawn from its world.

A shop has its persons' hands and its instruments, and works on bearings of its own size; each axle then
differs from the shop's usual one. Whoever draws no shop gets another one for each axle.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass
from typing import Final

from axle.simulator.world import World

_STILL: Final = (0.0, 0.0)


@dataclass(frozen=True)
class Hands:
    """A person with his instruments.

    :param feel: what his feelers show over the gap [mm].
    :param feel_scatter: how far two of his feelers' readings differ, one standard deviation [mm].
    :param wrench_scale: what his wrench shows over the torque, a share.
    :param wrench_zero: what it still shows at nothing, read both ways [N·m].
    :param torque_std: scatter of one turning [N·m].
    :param torque_share: the same as a share of the torque.
    :param indicator_std: scatter of his indicator [mm].
    :param indicator_share: what it shows of a movement, since it leans.
    :param mic_zero: what his micrometer shows at nothing [mm].
    :param gauge_zero: what his depth gauge shows over the distance [mm].
    :param eye: where he sees the middle of a patch over where it is, along and up the flank.
    :param print_std: scatter of the middle of each patch, share of the flank.
    :param print_common_std: of both patches of one print together.
    :param faint_chance: how often a print is faint or smeared.
    :param faint_times: by how much it then scatters more.
    :param misread_chance: how often a figure is misread.
    """

    feel: float = 0.0
    feel_scatter: float = 0.0
    wrench_scale: float = 0.0
    wrench_zero: float = 0.0
    torque_std: float = 0.0
    torque_share: float = 0.0
    indicator_std: float = 0.0
    indicator_share: float = 1.0
    mic_zero: float = 0.0
    gauge_zero: float = 0.0
    eye: tuple[float, float] = _STILL
    print_std: float = 0.0
    print_common_std: float = 0.0
    faint_chance: float = 0.0
    faint_times: float = 1.0
    misread_chance: float = 0.0


@dataclass(frozen=True)
class Usual:
    """What the bearings of one shop have in common: logarithms over the world's usual ones."""

    pinion_log: float = 0.0
    carrier_log: float = 0.0
    mesh_log: float = 0.0
    bed_log: float = 0.0


@dataclass(frozen=True)
class Shop:
    """A simulated shop: its hands, and the bearings that it usually has."""

    hands: Hands
    usual: Usual


@dataclass(frozen=True)
class Wear:
    """What happens to the parts of one axle in the shop.

    :param hands: of whoever works on it.
    :param pinion_factor: stiffness of the pinion's pair over the usual one.
    :param carrier_factor: of the carrier's, likewise.
    :param power: of the interference, both pairs.
    :param pinion_drag: torque without interference [N·m].
    :param carrier_drag: likewise.
    :param soft: interference that goes into the seats before it loads [mm].
    :param give: interference at which the case has given way by a third or so [mm].
    :param pinion_bed: what the pinion's interference loses at first load [mm].
    :param carrier_bed: what the carrier's does [mm].
    :param bed_depth: by how much the pinion comes shallower at first load [mm].
    :param mesh_drag: of the mesh at the pinion [N·m].
    :param depth_seat: scatter of the depth at each coming together, one standard deviation [mm].
    :param pinion_seat: of the pinion's interference [mm].
    :param side_seat: of each side of the carrier [mm].
    :param squeeze: what each joint between two pieces of a pack loses [mm].
    :param piece_std: error of each piece as it was measured [mm].
    :param slack: travel an adjuster loses when it is turned the other way [mm].
    :param stick_chance: how often a cup stays behind an adjuster that is backed out.
    :param stick: by how much it then does [mm].
    """

    hands: Hands
    pinion_factor: float
    carrier_factor: float
    power: float
    pinion_drag: float
    carrier_drag: float
    soft: float
    give: float
    pinion_bed: float
    carrier_bed: float
    bed_depth: float
    mesh_drag: float
    depth_seat: float
    pinion_seat: float
    side_seat: float
    squeeze: float
    piece_std: float
    slack: float
    stick_chance: float
    stick: float


def draw_shop(world: World, seed: int) -> Shop:
    """Draw a shop of a world.

    :param world: in which it stands; lengths [mm], torques [N·m].
    :param seed: any whole number; the same one gives the same shop.
    :source: the world's file.

    >>> from axle.simulator.world import world_named
    >>> draw_shop(world_named("mild"), 3) == draw_shop(world_named("mild"), 3)
    True
    """
    source = random.Random(f"shop {world.name} {seed}")

    def hand(name: str) -> float:
        return world.figure("hands", name)

    def differs(value: float) -> float:
        return value * math.exp(source.gauss(0.0, 0.25))

    lean = math.radians(source.gauss(0.0, hand("lean_std")))
    hands = Hands(
        feel=source.gauss(hand("feel_mean"), hand("feel_std")),
        feel_scatter=differs(hand("feel_scatter")),
        wrench_scale=source.gauss(0.0, hand("wrench_scale_std")),
        wrench_zero=source.gauss(0.0, hand("wrench_zero_std")),
        torque_std=differs(hand("torque_std")),
        torque_share=differs(hand("torque_share")),
        indicator_std=differs(hand("indicator_std")),
        indicator_share=math.cos(lean),
        mic_zero=source.gauss(0.0, world.figure("packs", "mic_zero_std")),
        gauge_zero=source.gauss(0.0, world.figure("depth", "gauge_zero_std")),
        eye=(source.gauss(0.0, hand("eye_std")), source.gauss(0.0, hand("eye_std"))),
        print_std=differs(hand("print_std")),
        print_common_std=differs(hand("print_common_std")),
        faint_chance=hand("faint_chance"),
        faint_times=hand("faint_times"),
        misread_chance=hand("misread_chance"),
    )
    between = math.sqrt(world.figure("bearings", "shop_share"))
    usual = Usual(
        pinion_log=source.gauss(0.0, between * world.figure("bearings", "pinion_log_std")),
        carrier_log=source.gauss(0.0, between * world.figure("bearings", "carrier_log_std")),
        mesh_log=source.gauss(0.0, between * world.figure("mesh", "log_std")),
        bed_log=source.gauss(0.0, between * world.figure("bearings", "bed_log_std")),
    )
    return Shop(hands, usual)


def draw_wear(world: World, shop: Shop, seed: int, *, used: bool) -> Wear:
    """Draw what happens to one axle in a shop.

    :param world: in which it stands; lengths [mm], torques [N·m].
    :param shop: whose hands it is in.
    :param seed: the axle's.
    :param used: its bearings were run before, and settle less.
    :source: the world's file.
    """
    source = random.Random(f"wear {world.name} {seed}")
    own = math.sqrt(1.0 - world.figure("bearings", "shop_share"))

    def log(shops: float, group: str, name: str) -> float:
        return math.exp(shops + source.gauss(0.0, own * world.figure(group, name)))

    settle = world.figure("bearings", "bed_used") if used else 1.0

    def bed(name: str) -> float:
        return settle * world.figure("bearings", name) * log(shop.usual.bed_log, "bearings", "bed_log_std")

    pinion_bed = bed("pinion_bed")
    sticks = world.within("adjusters", "stick", source)
    return Wear(
        hands=shop.hands,
        pinion_factor=log(shop.usual.pinion_log, "bearings", "pinion_log_std"),
        carrier_factor=log(shop.usual.carrier_log, "bearings", "carrier_log_std"),
        power=world.within("bearings", "power", source),
        pinion_drag=world.within("bearings", "pinion_drag", source),
        carrier_drag=world.within("bearings", "carrier_drag", source),
        soft=world.within("bearings", "soft", source),
        give=world.within("bearings", "give", source),
        pinion_bed=pinion_bed,
        carrier_bed=bed("carrier_bed"),
        bed_depth=world.figure("bearings", "bed_depth_share") * pinion_bed,
        mesh_drag=world.figure("mesh", "drag") * log(shop.usual.mesh_log, "mesh", "log_std"),
        depth_seat=world.figure("seats", "depth_std"),
        pinion_seat=world.figure("seats", "pinion_std"),
        side_seat=world.figure("seats", "side_std"),
        squeeze=world.within("packs", "squeeze", source),
        piece_std=world.figure("packs", "piece_std"),
        slack=world.within("adjusters", "slack", source),
        stick_chance=world.figure("adjusters", "stick_chance"),
        stick=sticks,
    )
