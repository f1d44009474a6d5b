"""The hours that a shop and its people work, read from their rows."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date, timedelta
from functools import lru_cache
from typing import Final

import holidays as public_holidays

from axle.errors import AxleError
from axle.schedule.calendars import DAY, Span, WorkingTime, parse_hours, working_time
from shop.config.currency import Currency
from shop.people.models import Absence, PersonHours, Shop, ShopTerms, User

# A shop that said nothing works so.
USUAL_WEEK: Final = {str(day): "8-12, 13-17" for day in range(5)}
WEEKDAYS: Final = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def terms_of(shop: Shop) -> ShopTerms:
    """A shop's terms; as usual, and not stored, where it said nothing."""
    try:
        return shop.terms
    except ShopTerms.DoesNotExist:
        return ShopTerms(shop=shop, week=USUAL_WEEK)


def currency_of(shop: Shop) -> Currency:
    """A shop's currency, in the form of its country."""
    return Currency(shop.currency, terms_of(shop).country)


def week_of(typed: Mapping[str, str]) -> dict[int, tuple[Span, ...]]:
    """Hours by weekday from what was typed."""
    return {int(day): parse_hours(text, WEEKDAYS[int(day)]) for day, text in typed.items()}


def hours_of_person(
    person: User,
    own: PersonHours | None,
    terms: ShopTerms,
    away: Iterable[Absence],
    span: tuple[date, int],
    closed: Iterable[date],
) -> WorkingTime:
    """When one person works.

    :param person: who.
    :param own: where that is not as the shop does.
    :param terms: of the shop.
    :param away: the person's absences.
    :param span: the Monday with which the clock begins, and days.
    :param closed: public holidays.
    """
    monday, days = span
    typed = own.week if own is not None and any(own.week.values()) else terms.week
    hours = working_time(monday, days, week_of(typed), closed)
    return hours.without(
        ((row.first - monday).days * DAY, ((row.last - monday).days + 1) * DAY)
        for row in away
        if row.user_id == person.pk
    )


def closed_days(country: str, region: str, first: date, days: int) -> frozenset[date]:
    """Public holidays of so many days; none where no country is chosen."""
    if not country:
        return frozenset()
    last = first + timedelta(days=days)
    found = _holidays(country, region, first.year, last.year)
    return frozenset(day for day in found if first <= day <= last)


@lru_cache(maxsize=32)
def _holidays(country: str, region: str, first: int, last: int) -> frozenset[date]:
    known = public_holidays.country_holidays(country, subdiv=region or None, years=range(first, last + 1))
    return frozenset(known)


@lru_cache(maxsize=1)
def countries() -> Mapping[str, tuple[str, ...]]:
    """Countries whose public holidays are known, with their regions."""
    known = public_holidays.list_supported_countries()
    return {name: tuple(regions) for name, regions in sorted(known.items())}


def check_place(country: str, region: str) -> None:
    """Refuse a country or region whose holidays are not known.

    :raises AxleError: naming what there is.
    """
    if not country:
        if region:
            raise AxleError(
                "region", given=f"“{region[:10]}” without a country", wanted="the country first"
            )
        return
    if country not in countries():
        raise AxleError("country", given=f"“{country[:4]}”", wanted="two letters of ISO 3166, as AT or NO")
    regions = countries()[country]
    if region and region not in regions:
        some = ", ".join(regions[:12]) or "none for this country"
        raise AxleError("region", given=f"“{region[:10]}”", wanted=some)
