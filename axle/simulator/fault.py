"""What can be wrong with a simulated axle."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from typing import Final


class Fault(Enum):
    """Something that is wrong with an axle and that no shim cures."""

    GEAR_RUNOUT = "gear_runout"
    FLANGE_BURR = "flange_burr"
    BENT_PINION = "bent_pinion"
    UNSEATED_CUP = "unseated_cup"
    DRY_BEARING = "dry_bearing"
    WRONG_MARK = "wrong_mark"
    SLINGER_OUT = "slinger_out"
    SWAPPED_CAPS = "swapped_caps"
    MISLABELLED_SHIM = "mislabelled_shim"
    WRENCH_NOT_ZERO = "wrench_not_zero"


FAULT_WORDS: Final[Mapping[Fault, str]] = {
    Fault.GEAR_RUNOUT: "the ring gear runs out",
    Fault.FLANGE_BURR: "a burr between ring gear and flange",
    Fault.BENT_PINION: "the pinion is bent",
    Fault.UNSEATED_CUP: "a pinion bearing cup was not home",
    Fault.DRY_BEARING: "a pinion bearing is dry",
    Fault.WRONG_MARK: "the pinion's mark means the opposite of what it says",
    Fault.SLINGER_OUT: "the oil slinger was left out after gauging",
    Fault.SWAPPED_CAPS: "the bearing caps were swapped",
    Fault.MISLABELLED_SHIM: "a shim is not of the size it is labelled",
    Fault.WRENCH_NOT_ZERO: "the rotating-torque wrench does not zero",
}
