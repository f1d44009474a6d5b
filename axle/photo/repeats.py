"""A print repeats from tooth to tooth; a spot that the brush missed does not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Final

import numpy as np
from skimage.measure import label

from axle.photo.patches import Wiped, patches_in

# A spot is on another tooth too where so much of it is wiped there; so many others have to be read.
_COVERED: Final = 0.25
_OTHERS: Final = 2


def repeated(teeth: Sequence[Wiped]) -> tuple[Wiped, ...]:
    """Patches of teeth of one print, with the small ones that other teeth have too and without single ones.

    :param teeth: patches of each tooth that was read.
    :returns: the same in order; as they were where fewer than three teeth were read. The largest patch of a
        tooth stays.
    :source: common practice, no source: contact repeats from tooth to tooth, a missed spot does not.
    """
    if len(teeth) <= _OTHERS:
        return tuple(teeth)
    return tuple(_held_to(tooth, [other for other in teeth if other is not tooth]) for tooth in teeth)


def _held_to(tooth: Wiped, others: Sequence[Wiped]) -> Wiped:
    """One tooth, held to the others."""
    numbers = label(tooth.mask | tooth.small)
    largest = np.bincount(numbers[tooth.mask]).argmax()
    mask, dropped = tooth.mask.copy(), 0
    for number in range(1, numbers.max() + 1):
        here = numbers == number
        if number == largest:
            continue
        shared = sum((other.mask | other.small)[here].mean() >= _COVERED for other in others)
        if tooth.mask[here].any() and not shared:
            mask[here], dropped = False, dropped + 1
        elif shared >= _OTHERS:
            mask[here] = True
    if np.array_equal(mask, tooth.mask):
        return tooth
    return replace(tooth, mask=mask, patches=patches_in(mask), bare=tooth.bare + dropped)
