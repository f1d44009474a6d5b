"""What a page of the bench was asked to show, and what it keeps of a form that was not stored."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from shop.jobs.actions.steps import OutOfOrder


@dataclass(frozen=True)
class PageRequest:
    """What the page was asked to show, and what it must keep from a form that was not stored.

    :param station: the station to show; the one in hand when empty.
    :param kind: the reading kind to enter, or "".
    :param place: the place around the ring, or 0.
    :param typed: what was typed and not stored.
    :param error: why it was not stored, in words.
    :param question: a question about it; sending it again stores it.
    :param suggestion: what it may have been meant to be, as it would be typed.
    :param notice: what was done.
    :param moves_on: whether to go on to the station in hand once this one is done.
    :param entry: identity of the entry, kept when the same one is sent again.
    :param view: what is shown instead of the usual: "axle" or "mark".
    :param harm: what positions of the adjusters would do that were not recorded yet.
    :param kept: fields beside the value, kept from a form that was not stored.
    """

    station: str = ""
    kind: str = ""
    place: int = 0
    typed: str = ""
    error: str = ""
    question: str = ""
    suggestion: str = ""
    notice: str = ""
    moves_on: bool = False
    entry: str = ""
    step: str = ""
    view: str = ""
    kept: Mapping[str, str] = field(default_factory=dict)
    out_of_order: OutOfOrder | None = None
    harm: str = ""
