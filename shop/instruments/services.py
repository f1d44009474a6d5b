"""Every change to the register of instruments."""

from dataclasses import dataclass
from datetime import date

from axle.errors import AxleError
from axle.measure.units import Quantity
from axle.procedure.instruments import instrument_kinds
from shop.instruments import line
from shop.instruments.models import Instrument
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right


@dataclass(frozen=True)
class Given:
    """What is known of an instrument."""

    name: str
    kind: str
    resolution: Quantity
    shows: str = Instrument.Shows.TRAVEL
    revolution: Quantity | None = None
    calibrated_on: date | None = None
    due_on: date | None = None
    line: str = ""
    full_scale: Quantity | None = None


def keep(user: User, given: Given, instrument_id: int | None = None) -> Instrument:
    """Put an instrument into the register, or correct one that is there."""
    rules.require_right(user, Right.INSTRUMENTS)
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    kind = instrument_kinds().get(given.kind)
    if kind is None:
        raise AxleError("instrument", given=f"“{given.kind[:20]}”", wanted="a kind that the register knows")
    if given.resolution.unit.dimension is not kind.dimension:
        raise AxleError(
            "resolution",
            given=f"“{given.resolution.text}”",
            wanted=f"a {kind.dimension.value} for a {kind.title}",
        )
    if given.calibrated_on and given.due_on and given.due_on <= given.calibrated_on:
        raise AxleError("due", given=f"{given.due_on}", wanted="a day after its calibration")
    if given.shows == Instrument.Shows.FIGURE and given.revolution is None:
        raise AxleError("dial", given="no revolution", wanted="how much one revolution of its dial is")
    others = Instrument.objects.of(user.shop).exclude(pk=instrument_id)
    if others.filter(name=given.name).exists():
        raise AxleError("name", given=f"“{given.name}”", wanted="a name that no other instrument has")
    instrument = _own(user, instrument_id) if instrument_id is not None else Instrument(shop=user.shop)
    instrument.name, instrument.kind = given.name, given.kind
    instrument.resolution, instrument.resolution_typed = given.resolution.core, given.resolution.text
    instrument.full_scale = given.full_scale.core if given.full_scale else None
    instrument.shows = given.shows
    instrument.revolution = given.revolution.core if given.revolution else None
    instrument.calibrated_on, instrument.due_on = given.calibrated_on, given.due_on
    instrument.line = given.line
    instrument.save()
    return instrument


def order(user: User, instrument_id: int, what: str) -> str:
    """Ask a connected instrument something, or set it; gives what it says."""
    instrument = _own(user, instrument_id)
    if not instrument.line:
        raise AxleError(
            "instrument",
            given=f"“{instrument.name}”, which is not connected",
            wanted="one with a name on the line",
        )
    return f"{instrument.name}: {line.order(instrument.line, what)}."


def retire(user: User, instrument_id: int, *, retired: bool) -> Instrument:
    """Take an instrument out of use, or bring it back; its readings stay as they were."""
    rules.require_right(user, Right.INSTRUMENTS)
    instrument = _own(user, instrument_id)
    instrument.retired = retired
    instrument.save(update_fields=["retired"])
    return instrument


def _own(user: User, instrument_id: int) -> Instrument:
    instrument: Instrument | None = Instrument.objects.of(user.shop).filter(pk=instrument_id).first()
    if instrument is None:
        raise Rejected("That instrument is not in this shop's register.")
    return instrument
