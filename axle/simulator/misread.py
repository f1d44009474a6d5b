"""Figures that are read and are not there: a digit, a pair of digits, a turn of the dial, another place."""

from __future__ import annotations

import random
from typing import Final

_THOU: Final = 0.0254
_INCH_POUND: Final = 0.1129848
# Turns that a dial's small hand is misread by, in thou.
_TURNS: Final = (50, 100)


def misread(
    shown: float,
    source: random.Random,
    *,
    torque: bool,
    dial: bool,
    step: float,
    elsewhere: float | None = None,
) -> float:
    """What somebody writes down who misreads an instrument.

    :param shown: what it shows [mm or N·m], 0 or more.
    :param source: random numbers.
    :param torque: whether it is a torque, read in inch-pounds; else a length, read in thou.
    :param dial: whether it is read on a dial that turns more than once.
    :param step: the instrument's [mm or N·m].
    :param elsewhere: what there is to read at another place [mm], or nothing.
    :returns: [mm or N·m], 0 or more.
    :source: common practice, no source: the usual slips of eye and pencil.

    >>> misread(0.2032, random.Random(1), torque=False, dial=False, step=0.00254) != 0.2032
    True
    """
    unit = _INCH_POUND if torque else _THOU
    figure = round(shown / unit, 1)
    slips = [_slipped(figure, source), _transposed(figure)]
    if dial:
        slips.append(figure + source.choice((-1, 1)) * source.choice(_TURNS))
    if elsewhere is not None:
        slips.append(round(elsewhere / unit, 1))
    real = [slip for slip in slips if slip >= 0 and abs(slip - figure) * unit > step / 2]
    return source.choice(real) * unit if real else shown


def _slipped(figure: float, source: random.Random) -> float:
    """One digit read as its neighbour: the ones, or the tens of a longer figure."""
    size = source.choice((1, 10)) if figure >= 10 else 1
    return figure + source.choice((-1, 1)) * size


def _transposed(figure: float) -> float:
    """Two neighbouring digits written the other way round: 18.5 as 81.5, 8.5 as 5.8."""
    whole, tenth = divmod(round(figure * 10), 10)
    if whole >= 10:
        tens, ones = divmod(whole % 100, 10)
        return float(whole // 100 * 100 + ones * 10 + tens) + tenth / 10
    return tenth + whole / 10
