"""How parts seat: anew at each coming together, adjusters with slack, cups that stay behind."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

from axle.layout import DepthShim, Place
from axle.simulator.true_axle import TrueAxle

_PINION: Final = frozenset({Place.DEPTH, Place.PRELOAD})
_SIDES: Final = (Place.RING, Place.FAR)


@dataclass
class Seats:
    """The seats of one axle as it is put together again and again.

    :param true_axle: whose.
    :param source: random numbers.
    :param off: what each place holds over its pack, or its adjuster over its holes [mm or holes].
    """

    true_axle: TrueAxle
    source: random.Random
    off: dict[Place, float] = field(default_factory=dict)
    _at: dict[Place, float] = field(default_factory=dict)
    _behind: dict[Place, float] = field(default_factory=dict)

    def come_apart(self, places: frozenset[Place] | set[Place], settings: Mapping[Place, float]) -> None:
        """Seat anew whatever the change of some places takes apart.

        :param places: what is changed.
        :param settings: what is set there [mm or holes].
        :source: the world's file: scatter of each seat.
        """
        wear, layout = self.true_axle.wear, self.true_axle.subject.layout
        if wear is None or not places:
            return
        if places & _PINION:
            self.off[Place.DEPTH] = self.source.gauss(0, wear.depth_seat)
            whole = layout.depth_shim is DepthShim.CARTRIDGE and Place.PRELOAD not in places
            # A cartridge comes out whole, with its bearings as they are.
            if layout.has_preload_pack and not whole:
                self.off[Place.PRELOAD] = self.source.gauss(0, wear.pinion_seat)
        if layout.has_adjusters:
            for place in _SIDES:
                if place in places:
                    self._wind(place, settings[place])
            return
        for place in _SIDES:
            # The carrier comes out for the pinion, and for either side.
            self.off[place] = self.source.gauss(0, wear.side_seat)

    def _wind(self, place: Place, holes: float) -> None:
        """Turn an adjuster: what it loses on turning back, and a cup that does not follow."""
        wear = self.true_axle.wear
        assert wear is not None
        each = self.true_axle.subject.pitch / self.true_axle.subject.holes
        before = self._at.get(place)
        self._at[place] = holes
        lost = 0.0
        if before is not None and holes < before:
            # Backed out, the cup stays where it is until the slack is out, and now and then further.
            lost = min((before - holes) * each, wear.slack)
            if self.source.random() < wear.stick_chance:
                self._behind[place] = min(wear.stick, (before - holes) * each) / each
        elif before is not None:
            self._behind.pop(place, None)
        seat = self.source.gauss(0, wear.side_seat / 2)
        self.off[place] = (lost + seat) / each + self._behind.get(place, 0.0)

    def come_home(self) -> None:
        """Load the axle: cups that stayed behind come home."""
        for place, holes in self._behind.items():
            self.off[place] -= holes
        self._behind.clear()

    def pack_off(self, pieces: Sequence[float]) -> float:
        """What a pack holds over its sum: its pieces' errors, and what its joints lose [mm].

        :param pieces: error of each piece [mm].
        :source: the world's file.
        """
        wear = self.true_axle.wear
        joints = max(len(pieces) - 1, 0)
        return sum(pieces) - (wear.squeeze * joints if wear is not None else 0.0)
