"""The layout of an axle: the choices from which every sign follows.

Nothing else in the project decides which way a shim acts. A page or a report that needs a sign
asks the layout.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from itertools import product

from axle.errors import AxleError


class Place(Enum):
    """Something in the axle that a builder sets. ``RING`` and ``FAR`` are the carrier's sides.

    The first four hold a pack or an adjuster. ``CLOCK`` is how many bolt holes the ring gear was
    turned on its flange, ``BEARINGS`` and ``SLINGER`` count changes of those parts, ``CAPS`` is the
    torque of the bearing caps.
    """

    DEPTH = "depth"
    PRELOAD = "preload"
    RING = "ring"
    FAR = "far"
    CLOCK = "clock"
    BEARINGS = "bearings"
    SLINGER = "slinger"
    CAPS = "caps"


class DepthShim(Enum):
    """Where the depth shim sits."""

    HEAD = "head"
    CUP = "cup"
    CARTRIDGE = "cartridge"


class PreloadBy(Enum):
    """What sets the pinion bearing preload."""

    SLEEVE = "sleeve"
    SPACER = "spacer"
    STEP = "step"


class CarrierBy(Enum):
    """What positions the carrier."""

    OUTBOARD = "outboard"
    UNDER_CONE = "under_cone"
    COVERS = "covers"
    ADJUSTERS = "adjusters"


class Housing(Enum):
    """The kind of housing; decides which steps and cautions apply."""

    INTEGRAL = "integral"
    DROP_OUT = "drop_out"
    SIDE_COVER = "side_cover"


class Side(Enum):
    """Left or right, as seen with the pinion flange towards the builder."""

    LEFT = "left"
    RIGHT = "right"


class SpacerSeat(Enum):
    """What the preload spacer or its shims bear on."""

    SHOULDER = "shoulder"
    BETWEEN_CONES = "between_cones"


class Flank(Enum):
    """A flank of the ring gear tooth."""

    CONVEX = "convex"
    CONCAVE = "concave"


class Hand(Enum):
    """The hand of the ring gear bolts' thread."""

    RIGHT = "right"
    LEFT = "left"


@dataclass(frozen=True)
class Layout:
    """Where an axle keeps its shims, and so which way each of them acts.

    :param depth_shim: where the depth shim sits.
    :param preload_by: what sets the pinion bearing preload.
    :param carrier_by: what positions the carrier.
    :param housing: kind of housing.
    :param ring_side: side of the housing on which the ring gear is bolted.
    :param spacer_seat: what the preload spacer bears on.
    :param drive_flank: ring gear flank that carries forward load.
    :param bolt_hand: hand of the ring gear bolts.
    :raises AxleError: for a combination that no axle can have.
    :source: common practice.

    >>> Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS).depth_sign
    -1
    """

    depth_shim: DepthShim
    preload_by: PreloadBy
    carrier_by: CarrierBy
    housing: Housing = Housing.INTEGRAL
    ring_side: Side = Side.LEFT
    spacer_seat: SpacerSeat = SpacerSeat.BETWEEN_CONES
    drive_flank: Flank = Flank.CONVEX
    bolt_hand: Hand = Hand.RIGHT

    def __post_init__(self) -> None:
        reason = impossible(self)
        if reason:
            raise AxleError("layout", given=reason[0], wanted=reason[1], do="Change one of the two.")

    @property
    def depth_sign(self) -> int:
        """+1 where a thicker depth shim sets the pinion deeper, −1 where it sets it shallower."""
        return -1 if self.depth_shim is DepthShim.CARTRIDGE else 1

    @property
    def slinger_depth_sign(self) -> int:
        """+1: a slinger between head and inner cone sets the pinion deeper on every layout."""
        return 1

    @property
    def preload_sign(self) -> int:
        """Change of pinion bearing interference per thickness of preload shim: −1, or 0 (sleeve)."""
        return 0 if self.preload_by is PreloadBy.SLEEVE else -1

    @property
    def preload_per_depth(self) -> int:
        """How much thicker the preload pack must become per thickness added to the depth shim.

        1 where the stacks are coupled, 0 where they are not. A sleeve is crushed afterwards.
        """
        if self.preload_by is PreloadBy.SLEEVE or self.depth_shim is DepthShim.CARTRIDGE:
            return 0
        if self.spacer_seat is SpacerSeat.SHOULDER:
            return 1
        return 1 if self.depth_shim is DepthShim.CUP else 0

    @property
    def depth_spoils_sleeve(self) -> bool:
        """Whether a change of the depth shim takes a crushed sleeve apart; a cartridge's does not."""
        return self.preload_by is PreloadBy.SLEEVE and self.depth_shim is not DepthShim.CARTRIDGE

    @property
    def carrier_sign(self) -> int:
        """+1 where a thicker side shim adds carrier preload, −1 under bolted side covers."""
        return -1 if self.carrier_by is CarrierBy.COVERS else 1

    @property
    def has_preload_pack(self) -> bool:
        """Whether the pinion preload is set by shims rather than by crushing a sleeve."""
        return self.preload_by is not PreloadBy.SLEEVE

    @property
    def has_adjusters(self) -> bool:
        """Whether the carrier is positioned by threaded adjusters rather than shims."""
        return self.carrier_by is CarrierBy.ADJUSTERS

    @property
    def shim_places(self) -> tuple[Place, ...]:
        """The places of this axle that hold shims, pinion first."""
        pinion = (Place.DEPTH, Place.PRELOAD) if self.has_preload_pack else (Place.DEPTH,)
        return pinion if self.has_adjusters else (*pinion, Place.RING, Place.FAR)

    @property
    def opens_backlash(self) -> Place:
        """The side whose thicker shim (or adjuster turned in) opens the backlash."""
        return Place.FAR if self.carrier_sign > 0 else Place.RING

    def flank_side(self, name: str) -> Flank:
        """The ring gear's flank that is a tooth's drive or coast flank.

        :param name: "drive" or "coast".
        """
        other = {Flank.CONVEX: Flank.CONCAVE, Flank.CONCAVE: Flank.CONVEX}
        return self.drive_flank if name == "drive" else other[self.drive_flank]

    def side_of(self, place: Place) -> Side:
        """Name a carrier place by hand: the ring side is where the ring gear is bolted.

        :param place: ``Place.RING`` or ``Place.FAR``.
        :raises AxleError: for a place on the pinion, which has no hand.
        """
        if place not in (Place.RING, Place.FAR):
            raise AxleError("side", given=f"the {place.value} pack", wanted="a side of the carrier")
        other = {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}
        return self.ring_side if place is Place.RING else other[self.ring_side]


def impossible(layout: Layout) -> tuple[str, str] | None:
    """Name what makes a combination impossible, and what would be possible.

    :param layout: the combination; only its values are looked at.
    :returns: (what was given, what is wanted), or nothing when an axle can have it.
    :source: common practice.
    """
    if layout.preload_by is PreloadBy.STEP and layout.spacer_seat is not SpacerSeat.SHOULDER:
        return (
            "preload shims against a step with the spacer between the cones",
            "a step that is the shaft's shoulder",
        )
    if layout.preload_by is PreloadBy.SLEEVE and layout.spacer_seat is SpacerSeat.SHOULDER:
        return (
            "a collapsible sleeve with shims on a shoulder",
            "a sleeve between the cones, or a solid spacer on a shoulder",
        )
    if layout.carrier_by is CarrierBy.COVERS and layout.housing is not Housing.SIDE_COVER:
        return (
            f"side-cover shims in a housing of the kind “{layout.housing.value}”",
            "a housing with side covers",
        )
    return None


def every_layout() -> tuple[Layout, ...]:
    """Build every combination that an axle can have.

    :source: the choices of this module.

    >>> len({layout.ring_side for layout in every_layout()})
    2
    """
    layouts = []
    kinds = (DepthShim, PreloadBy, CarrierBy, Housing, Side, SpacerSeat, Flank, Hand)
    for choice in product(*kinds):
        try:
            layouts.append(Layout(*choice))
        except AxleError:
            continue
    return tuple(layouts)
