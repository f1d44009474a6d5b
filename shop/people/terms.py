"""Changes to how a shop works and what it asks: hours, machines, rates, absences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal

from axle.errors import AxleError
from axle.ledger.sums import Terms, parse_amount
from axle.procedure.flow import ALL, machines
from axle.procedure.stations import stations
from axle.schedule.calendars import hours_words, parse_hours
from shop.people import rules
from shop.people.hours import WEEKDAYS, check_place, terms_of
from shop.people.models import Absence, PersonHours, Role, Shop, User
from shop.people.request import day_in, whole_number
from shop.people.rules import Rejected, Right

_MOST_MACHINES = 50
_LONGEST_ABSENCE = 400


def change(user: User, given: Mapping[str, str], may: Sequence[str] = ()) -> str:
    """Change one part of a shop's terms; says what was kept.

    :param given: "do" names the part: hours, machines, money or person, with its fields.
    """
    rules.require_right(user, Right.SHOP)
    shop = rules.shop_of(user)
    acts = {"hours": _hours, "machines": _machines, "money": _money}
    part = given.get("do", "")
    if part == "person":
        return _person(shop, given, may)
    if part not in acts:
        raise AxleError(
            "part of the page", given=f"“{part[:20]}”", wanted="hours, machines, money or person"
        )
    return acts[part](shop, given)


def _hours(shop: Shop, given: Mapping[str, str]) -> str:
    row = terms_of(shop)
    row.week = _week(given)
    if not any(row.week.values()):
        raise AxleError(
            "hours of the week",
            given="no hours on any day",
            wanted="hours on one day or more, as 8-12, 13-17",
        )
    country, region = given.get("country", "").strip().upper(), given.get("region", "").strip()
    check_place(country, region)
    row.country, row.region = country, region
    row.save()
    return "The hours are kept: the plan follows them."


def _week(given: Mapping[str, str]) -> dict[str, str]:
    return {
        str(number): hours_words(parse_hours(given.get(f"day-{number}", ""), name))
        for number, name in enumerate(WEEKDAYS)
    }


def _machines(shop: Shop, given: Mapping[str, str]) -> str:
    row = terms_of(shop)
    found = {}
    for name, machine in machines().items():
        text = given.get(f"machine-{name}", "").strip() or "0"
        if not (text.isascii() and text.isdigit()) or int(text) > _MOST_MACHINES:
            raise AxleError(machine.title, given=f"“{text[:12]}”", wanted=f"0 to {_MOST_MACHINES}")
        found[name] = int(text)
    if not found.get("bench"):
        raise AxleError("benches", given="0", wanted="1 or more: an axle lies somewhere while it is apart")
    row.machines = found
    row.save()
    return "The machines are kept: the plan follows them."


def _money(shop: Shop, given: Mapping[str, str]) -> str:
    row = terms_of(shop)
    rates = {
        role.value: str(parse_amount(given[f"rate-{role.value}"], f"rate of the {role.label}"))
        for role in Role
        if given.get(f"rate-{role.value}", "").strip()
    }
    shares = {
        name: parse_amount(given.get(name, "").strip() or "0", name)
        for name in ("margin", "consumables", "tax", "deposit")
    }
    set_up = given.get("set_up", "").strip()
    fixed = parse_amount(set_up, "fixed price of a set-up") if set_up else None
    # The ledger's own limits speak where a figure makes no sense.
    Terms({role: Decimal(rate) for role, rate in rates.items()}, set_up=fixed, **shares)
    text = given.get("promise_at", "").strip() or "80"
    if not (text.isascii() and text.isdigit()) or not 50 <= int(text) <= 99:
        raise AxleError("chance of a promise", given=f"“{text[:8]}”", wanted="50 to 99 %")
    row.rates, row.set_up, row.promise_at = rates, fixed, int(text)
    for name, share in shares.items():
        setattr(row, name, share)
    row.not_included = given.get("not_included", "").strip()[:400]
    row.save()
    return "Rates and terms are kept; what was written before stays as it is."


def _person(shop: Shop, given: Mapping[str, str], may: Sequence[str]) -> str:
    person = _person_of(shop, given)
    unknown = [name for name in may if name != ALL and name not in stations()]
    if unknown:
        raise AxleError("stations", given=f"“{unknown[0][:20]}”", wanted="stations of the work")
    row = PersonHours.objects.filter(user=person).first() or PersonHours(user=person)
    row.week = _week(given)
    row.may = list(may)
    row.planned = given.get("planned") == "on"
    row.save()
    return f"{person.called}: kept."


def add_absence(user: User, given: Mapping[str, str]) -> Absence:
    """Take an absence down: one's own, or for the owner anybody's."""
    shop = rules.shop_of(user)
    person = _person_of(shop, given)
    if person.pk != user.pk:
        rules.require_right(user, Right.SHOP)
    first, last = (
        day_in(given.get("first"), "first day"),
        day_in(given.get("last") or given.get("first"), "last day"),
    )
    if not 0 <= (last - first).days <= _LONGEST_ABSENCE:
        raise AxleError(
            "last day", given=f"{last}", wanted=f"{first} or later, within {_LONGEST_ABSENCE} days"
        )
    reason = given.get("reason", "").strip()[:80]
    return Absence.objects.create(user=person, first=first, last=last, reason=reason)


def drop_absence(user: User, absence_id: int) -> None:
    """Take an absence back."""
    row = Absence.objects.filter(user__shop=rules.shop_of(user), pk=absence_id).first()
    if row is None:
        raise Rejected("That absence is gone already.")
    if row.user_id != user.pk:
        rules.require_right(user, Right.SHOP)
    row.delete()


def _person_of(shop: Shop, given: Mapping[str, str]) -> User:
    number = whole_number(given.get("person"), "person")
    person = User.objects.filter(shop=shop, is_active=True, pk=number).first()
    if person is None:
        raise Rejected("That person does not work in this shop.")
    return person
