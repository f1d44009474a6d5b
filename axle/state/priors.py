"""What is held of hands, instruments and parts before a job has shown its own."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError


class Quantity(StrEnum):
    """A figure of the workshop that the judgement has to believe something of."""

    PINION_STIFFNESS = "pinion_stiffness"
    CARRIER_STIFFNESS = "carrier_stiffness"
    MESH_DRAG = "mesh_drag"
    IDLE_DRAG = "idle_drag"
    PINION_BED = "pinion_bed"
    CARRIER_BED = "carrier_bed"
    BED_OF_USED = "bed_of_used"
    PINION_SEAT = "pinion_seat"
    SIDE_SEAT = "side_seat"
    DEPTH_SEAT = "depth_seat"
    TORQUE_SCATTER = "torque_scatter"
    TORQUE_SHARE = "torque_share"
    WRENCH_SCALE = "wrench_scale"
    WRENCH_ZERO = "wrench_zero"
    FEELER_FEEL = "feeler_feel"
    FEELER_SCATTER = "feeler_scatter"
    INDICATOR_SCATTER = "indicator_scatter"
    INDICATOR_LEAN = "indicator_lean"
    GAUGE_LEAVES = "gauge_leaves"
    OLD_PACK = "old_pack"
    USUAL_PACK = "usual_pack"
    PIECE = "piece"
    MIC_ZERO = "mic_zero"
    JOINT = "joint"
    PRINT_SCATTER = "print_scatter"
    PRINT_COMMON = "print_common"
    EYE = "eye"
    CUT_CENTRE = "cut_centre"
    LAPPED = "lapped"
    WORN = "worn"
    RATIO = "ratio"
    MISREAD = "misread"


@dataclass(frozen=True)
class Width:
    """What is held of one quantity.

    :param centre: what is expected, in ``unit``.
    :param std: one standard deviation about it, in ``unit``; of the logarithm where ``is_log``.
    :param is_log: the quantity is more than 0, and its logarithm is spread.
    :param shop: share of the variance that lies between shops rather than between axles, 0 to 1.
    :param unit: "mm", "N·m" or "" for a share.
    :param title: what it is, in plain words.
    :param source: where the figures come from.
    :raises AxleError: for a width under 0, a share outside 0 to 1, or a logarithm of nothing.
    """

    centre: float
    std: float
    is_log: bool = False
    shop: float = 0.0
    unit: str = ""
    title: str = ""
    source: str = ""

    def __post_init__(self) -> None:
        if self.std < 0 or (self.is_log and self.centre <= 0):
            given = f"{self.centre:g} ± {self.std:g}"
            raise AxleError(
                "width", given=given, wanted="a width of 0 or more, and more than 0 as a logarithm"
            )
        if not 0 <= self.shop <= 1:
            raise AxleError("share between shops", given=f"{self.shop:g}", wanted="0 to 1")

    @property
    def spread(self) -> float:
        """One standard deviation in the quantity's own unit."""
        if not self.is_log:
            return self.std
        return self.centre * math.sqrt(math.expm1(self.std**2)) * math.exp(self.std**2 / 2)

    @property
    def mean(self) -> float:
        """Mean in the quantity's own unit: over the centre where the logarithm is spread."""
        return self.centre * math.exp(self.std**2 / 2) if self.is_log else self.centre


def band_words(width: Width) -> str:
    """A width in words: what lies within one standard deviation, in its unit.

    :param width: of a quantity.
    :source: the centre, and a standard deviation either way; of a logarithm a factor either way.

    >>> band_words(Width(1.0, 0.3, is_log=True))
    '0.741 to 1.35'
    >>> band_words(Width(0.0, 0.028, unit="mm"))
    '−0.028 to 0.028 mm'
    """
    low, high = width.centre - width.std, width.centre + width.std
    if width.is_log:
        low, high = width.centre * math.exp(-width.std), width.centre * math.exp(width.std)
    return f"{low:.3g} to {high:.3g} {width.unit}".rstrip().replace("-", "−")


@cache
def starting_widths() -> Mapping[Quantity, Width]:
    """What is held of every quantity before a shop has finished a job.

    :source: ``priors.toml``, which names each figure's own.

    >>> starting_widths()[Quantity.OLD_PACK].std
    0.135
    """
    rows = read_table(__file__, "priors.toml", dict[str, dict[str, Any]])
    return {
        Quantity(name): Width(
            row["centre"],
            row.get("log_std", row.get("std", 0.0)),
            is_log="log_std" in row,
            shop=row["shop"],
            unit=row["unit"],
            title=row["title"],
            source=row["source"],
        )
        for name, row in rows.items()
    }


@dataclass(frozen=True)
class Priors:
    """What is held of every quantity for one axle: the starting widths, and what was learned over them.

    :param learned: by quantity, where finished jobs have shown more.
    """

    learned: Mapping[Quantity, Width] = field(default_factory=dict)

    def of(self, quantity: Quantity) -> Width:
        """What is held of a quantity."""
        return self.learned.get(quantity) or starting_widths()[quantity]

    def std(self, quantity: Quantity) -> float:
        """One standard deviation of a quantity about its centre."""
        return self.of(quantity).std

    def centre(self, quantity: Quantity) -> float:
        """What is expected of a quantity."""
        return self.of(quantity).centre

    def told(self, figures: Mapping[Quantity, float], share: float = 0.05) -> Priors:
        """The same with some quantities known.

        :param figures: what they are.
        :param share: what is left of their widths.
        """
        known = {
            name: replace(self.of(name), centre=value, std=self.of(name).std * share)
            for name, value in figures.items()
        }
        return Priors({**self.learned, **known})

    def __hash__(self) -> int:
        return hash(tuple(sorted(self.learned.items())))
