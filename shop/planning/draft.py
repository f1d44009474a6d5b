"""Drafts of a job's money: what an estimate, a supplement or an account would say now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.ledger.estimate import small_things, work_lines
from axle.ledger.sums import Against, Group, Line, Terms, Totals, add_up, against
from axle.parts.bill import parts
from axle.parts.lines import COUNTED, LineState
from axle.procedure.flow import may_do
from axle.procedure.stations import station_groups
from axle.schedule.durations import StepTimes
from axle.schedule.job_work import JobWork
from axle.schedule.promise import Range80, hours_of, range_of
from shop.jobs.actions.part_lines import cheapest
from shop.jobs.models import Job, MoneySheet, PartLine
from shop.jobs.work_left import job_work
from shop.people.hours import terms_of
from shop.people.models import PersonHours, Role, Shop, ShopTerms
from shop.planning.inputs import kept_work, learned, planned_people
from shop.stock.models import ShimLot
from shop.stock.queries import out_for

# A fixed price of a set-up stands for the hours of these stations.
_SET_UP: Final = frozenset({"depth", "pinion_preload", "carrier_preload", "backlash", "pattern"})
_SHIMS_AT: Final[Mapping[str, str]] = {"depth": "depth_shims", "preload": "preload_shims"}
_GROUP_OF: Final[Mapping[str, Group]] = {
    PartLine.Kind.CONSUMABLE: Group.CONSUMABLES,
    PartLine.Kind.OUTSIDE: Group.OUTSIDE,
    PartLine.Kind.CORE: Group.OTHER,
}


@dataclass(frozen=True)
class Draft:
    """Lines and their sum, not written yet.

    :param lines: as they would be written.
    :param totals: their sum.
    :param hours: of work, with its range; nothing where it is no estimate.
    :param without_price: parts that have no price yet, in words.
    :param jobs: jobs that the hours rest on.
    :param assemblies: further ones that are to be expected, on the average.
    """

    lines: tuple[Line, ...]
    totals: Totals
    hours: Range80 | None = None
    without_price: tuple[str, ...] = ()
    jobs: int = 0
    assemblies: float = 0.0


def ledger_terms(terms: ShopTerms) -> Terms:
    """A shop's terms as the ledger takes them."""
    return Terms(
        {role: Decimal(str(rate)) for role, rate in terms.rates.items()},
        margin=terms.margin,
        consumables=terms.consumables,
        tax=terms.tax,
        deposit=terms.deposit,
        set_up=terms.set_up,
    )


def estimate(job: Job) -> Draft:
    """What a job is to be expected to cost from here on: hours as a range, parts, small things, tax."""
    shop = _shop_of(job)
    terms = ledger_terms(terms_of(shop))
    times, assemblies = learned(shop)
    work = job_work(kept_work(job), str(job.number), assemblies)
    hours = range_of(hours_of(work, times))
    worked = tuple(_work_lines(work, times, terms, hours, roles=_roles_by_station(shop, terms)))
    bought, without_price = _part_lines(job, terms, planned=True)
    lines = (*worked, *bought, *_small_things(worked, terms))
    return Draft(
        lines,
        add_up(lines, terms, _paid(job)),
        hours=hours,
        without_price=without_price,
        jobs=times.jobs,
        assemblies=work.expected_further,
    )


def _work_lines(
    work: JobWork, times: StepTimes, terms: Terms, hours: Range80, roles: Mapping[str, str]
) -> Iterable[Line]:
    """Hours by stage and rate, each with its share of the range; a fixed price in place of the set-up's.

    :param roles: by station, the role whose hour is charged.
    """
    minutes: dict[tuple[str, str], float] = {}
    titles = {name: group.title for group in station_groups() for name in group.stations}
    fixed = 0.0
    for step in work.steps:
        took = times.minutes(step, layout=work.layout)
        if terms.set_up is not None and step.station in _SET_UP:
            fixed += took
            continue
        key = (titles.get(step.station, step.station), roles.get(step.station, ""))
        minutes[key] = minutes.get(key, 0.0) + took
    again = work.expected_further * work.further_minutes
    if again and terms.set_up is None:
        minutes["Further assemblies, expected", ""] = again
    elif again:
        fixed += again
    ends = (hours.low, hours.median, hours.high)
    yield from work_lines(minutes, ends, terms.rates, rate_of(terms), fixed)
    if terms.set_up is not None and fixed:
        words = "Set-up, fixed price"
        yield Line(Group.WORK, words, Decimal(1), "", terms.set_up, stage=words)


def _roles_by_station(shop: Shop, terms: Terms) -> dict[str, str]:
    """By station, the role that does it for least of those who are planned for it."""
    people = planned_people(shop)
    own = {row.user_id: row.may for row in PersonHours.objects.filter(user__in=people)}
    found: dict[str, str] = {}
    for person in sorted(people, key=lambda person: terms.rates.get(person.role, Decimal(0))):
        if person.role in terms.rates:
            for station in may_do(person.role, own.get(person.pk, ())):
                found.setdefault(station, person.role)
    return found


def rate_of(terms: Terms) -> Decimal:
    """The rate that an hour is estimated at: the builder's, else any that there is."""
    for role in (Role.BUILDER, Role.OWNER, Role.APPRENTICE):
        if role.value in terms.rates:
            return terms.rates[role.value]
    return Decimal(0)


def _part_lines(job: Job, terms: Terms, *, planned: bool) -> tuple[tuple[Line, ...], tuple[str, ...]]:
    """Lines of parts, and what has no price yet; an account counts what was ordered or is here."""
    lines, without_price = [], []
    for row in job.part_lines.all():
        state = LineState(row.state)
        wanted = state not in (LineState.NOT_NEEDED, LineState.RETURNED) if planned else state in COUNTED
        if row.kind == PartLine.Kind.CORE and state is LineState.RETURNED:
            lines.append(_line(row, Group.OTHER, row.price or Decimal(0), credit=True))
            continue
        if not wanted or row.kind in (PartLine.Kind.WASTED, PartLine.Kind.TOOL):
            # What was spoilt here, and a tool that stays here, is not the customer's.
            continue
        if row.owner == PartLine.Owner.CUSTOMER:
            lines.append(_line(row, Group.PARTS, Decimal(0), words=f"{row.words}, the customer's own"))
            continue
        price = row.charge if row.charge is not None else None
        if price is None and row.price is not None:
            price = terms.charged(row.price)
        if price is None:
            without_price.append(row.words)
            continue
        lines.append(_line(row, _GROUP_OF.get(row.kind, Group.PARTS), price))
        if row.credit:
            lines.append(
                _line(row, Group.OTHER, row.credit, words=f"Claim settled: {row.words}", credit=True)
            )
    return tuple(lines), tuple(without_price)


def _line(row: PartLine, group: Group, price: Decimal, *, words: str = "", credit: bool = False) -> Line:
    once = bool(words) and credit
    return Line(
        group,
        words or row.words,
        Decimal(1) if once else row.quantity,
        row.unit,
        price,
        stage="Parts",
        credit=credit,
    )


def _small_things(worked: Iterable[Line], terms: Terms) -> tuple[Line, ...]:
    line = small_things(sum((each.amount for each in worked), Decimal(0)), terms)
    return (line,) if line is not None else ()


def account(job: Job, hours: Decimal | None) -> Draft:
    """What a job comes to: hours as recorded or as given, parts that came, credits, less what was paid."""
    shop = _shop_of(job)
    terms = ledger_terms(terms_of(shop))
    lines: list[Line] = []
    if terms.set_up is not None:
        lines.append(Line(Group.WORK, "Set-up, fixed price", Decimal(1), "", terms.set_up, stage="Work"))
        beside = hours_beside_set_up(job) if hours is None else hours
        if beside:
            lines.append(
                Line(Group.WORK, "Work beside the set-up", beside, "h", rate_of(terms), stage="Work")
            )
    else:
        lines += _worked_lines(job, terms, hours)
    bought, without_price = _part_lines(job, terms, planned=False)
    shims, unpriced = _shims_used(job, terms)
    lines += [*bought, *shims, *_small_things(lines, terms)]
    without_price += unpriced
    if job.belongs_to_id is None:
        # One vehicle has one account: on the job that the others belong to.
        for other in job.with_it.order_by("number"):
            found = account(other, None)
            lines += [
                replace(line, words=f"Job {other.shown_number}: {line.words}") for line in found.lines
            ]
            without_price += found.without_price
    return Draft(tuple(lines), add_up(lines, terms, _paid(job)), without_price=without_price)


def _shims_used(job: Job, terms: Terms) -> tuple[tuple[Line, ...], tuple[str, ...]]:
    """Pieces in the axle: of the drawer at the price of the list, the customer's own for nothing."""
    out = out_for(job.shop, job.number)
    own = set(ShimLot.objects.on_tray(job.shop, job.number).values_list("pk", flat=True))
    counts: dict[tuple[str, bool], int] = {}
    for (lot, place), count in out.items():
        key = (_SHIMS_AT.get(place, "side_shims"), lot in own)
        counts[key] = counts.get(key, 0) + max(count, 0)
    prices = cheapest(job.shop, {name for name, _ in counts})
    lines, unpriced = [], []
    for (name, is_own), count in counts.items():
        words = f"{parts()[name].title} used" + (", the customer's own" if is_own else "")
        price = Decimal(0) if is_own else terms.charged(prices[name].price) if name in prices else None
        if price is None:
            unpriced.append(words.lower())
        elif count:
            lines.append(Line(Group.PARTS, words, Decimal(count), "", price, stage="Parts"))
    return tuple(lines), tuple(unpriced)


def _worked_lines(job: Job, terms: Terms, hours: Decimal | None) -> Iterable[Line]:
    """Hours as recorded, by role; or as they were given, at the builder's rate."""
    roles = job.summary.get("roles", {})
    if hours is None and not roles:
        # Kept before roles were: all of it at the builder's rate.
        hours = hours_worked(job)
    if hours:
        yield Line(Group.WORK, "Work", hours, "h", rate_of(terms), stage="Work")
        return
    for role, spent in roles.items():
        rate = terms.rates.get(role, rate_of(terms))
        words = f"Work, {Role(role).label}" if role in Role.values else "Work"
        yield Line(Group.WORK, words, Decimal(str(spent)), "h", rate, stage="Work")


def hours_worked(job: Job) -> Decimal:
    """Hours that somebody was at a job, as its record shows them."""
    return sum((Decimal(str(h)) for h in job.summary.get("hours", {}).values()), Decimal(0))


def hours_beside_set_up(job: Job) -> Decimal:
    """The same without the stations of the set-up."""
    stages = job.summary.get("stages", {})
    return sum((Decimal(str(h)) for name, h in stages.items() if name not in _SET_UP), Decimal(0))


def supplement(job: Job, words: str, quantity: Decimal, part: Decimal | None, hours: Decimal) -> Draft:
    """A change that a finding makes: a part, the hours that it takes, or both."""
    terms = ledger_terms(terms_of(_shop_of(job)))
    lines = []
    if hours:
        lines.append(Line(Group.WORK, f"Work: {words}", hours, "h", rate_of(terms), stage="Work"))
    if part is not None:
        lines.append(Line(Group.PARTS, words, quantity, "", part, stage="Parts"))
    return Draft(tuple(lines), add_up(lines, terms))


def compared(job: Job) -> tuple[tuple[Against, ...], tuple[Against, ...]]:
    """The agreed or newest estimate against what came: hours by stage, and money by group."""
    sheets = list(job.money_sheets.all())
    said = next((s for s in reversed(sheets) if s.kind == MoneySheet.Kind.ESTIMATE), None)
    if said is None:
        return (), ()
    titles = {name: group.title for group in station_groups() for name in group.stations}
    estimated: dict[str, Decimal] = {}
    for line in said.lines:
        if line["unit"] == "h":
            estimated[line["stage"]] = estimated.get(line["stage"], Decimal(0)) + Decimal(line["quantity"])
    actual: dict[str, Decimal] = {}
    for station, hours in job.summary.get("stages", {}).items():
        title = titles.get(station, station)
        actual[title] = actual.get(title, Decimal(0)) + Decimal(str(hours))
    final = next((s for s in reversed(sheets) if s.kind == MoneySheet.Kind.ACCOUNT), None)
    money = () if final is None else against(_groups(said), _groups(final))
    return against(estimated, actual), money


def _groups(sheet: MoneySheet) -> dict[str, Decimal]:
    return {name: Decimal(amount) for name, amount in sheet.totals.get("groups", {}).items()}


def _paid(job: Job) -> Decimal:
    return sum((payment.amount for payment in job.payments.all()), Decimal(0))


def _shop_of(job: Job) -> Shop:
    assert job.shop is not None  # every job is a shop's
    return job.shop
