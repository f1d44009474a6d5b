"""Whether a torque that does not come back speaks of dirt in a bearing, or of figures that were misread."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Final

import numpy as np
from scipy.stats import cauchy, norm

from axle.errors import AxleError

# How often a bearing is dry or dirty, and how often a figure is misread. From memory.
_DIRTY: Final = 0.02
_MISREAD: Final = 0.02
# A misread figure may be off by anything: Cauchy's, so many times wider than the scatter of a hand.
_TIMES_WIDER: Final = 12.0
# A hand scatters as is held of it, or by so much more; dirt by so much of the torque. From memory.
_HANDS: Final = (1.0, 1.6, 2.5)
_DIRT: Final = (0.10, 0.15, 0.25)


def chance_of_dirt(offs: Sequence[float], std: float, torque: float) -> float:
    """Chance that a torque scatters by dirt, and not by a hand with now and then a figure misread.

    :param offs: what each figure lies off that torque, those of either way by themselves [N·m].
    :param std: σ, of one figure in a usual hand [N·m], more than 0.
    :param torque: T, that was read [N·m], 0 or more.
    :returns: 0 to 1.
    :raises AxleError: for a spread that is not more than 0, or a torque under 0.
    :source: Bayes: a normal hand with wide misread figures (Box and Tiao, Biometrika 55, 1968) against a
        scatter in proportion to the torque; both of several widths.

    >>> chance_of_dirt([0.45, -0.35, 0.2, -0.5, 0.3], 0.07, 2.4) > 0.8
    True
    >>> chance_of_dirt([1.13, -0.03, 0.02, -0.06], 0.07, 2.4) < 0.1
    True
    """
    if std <= 0 or torque < 0:
        raise AxleError("torque", given=f"{torque:g} ± {std:g} N·m", wanted="0 or more, ± more than 0")
    off = np.asarray(offs, dtype=float)
    misread = _MISREAD * cauchy.pdf(off, scale=_TIMES_WIDER * std)
    sound = np.mean(
        [np.prod((1 - _MISREAD) * norm.pdf(off, scale=times * std) + misread) for times in _HANDS]
    )
    dirty = np.mean([np.prod(norm.pdf(off, scale=math.hypot(std, share * torque))) for share in _DIRT])
    weighed = _DIRTY * float(dirty)
    return weighed / (weighed + (1 - _DIRTY) * float(sound) + 1e-300)
