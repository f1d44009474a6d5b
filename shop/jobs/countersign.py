"""A builder's countersignature at hold points, where a job asks for it: an apprentice's first jobs."""

from axle.procedure.stations import station_of, stations
from shop.jobs.bridge import Axle
from shop.people.models import Role


def asked(axle: Axle) -> bool:
    """Whether this job asks for it."""
    return bool(axle.plan.facts["countersign"] == "yes") and not axle.job.practice


def waiting(axle: Axle) -> tuple[str, ...]:
    """Stations in range by an apprentice's readings that nobody has countersigned since."""
    if not asked(axle):
        return ()
    newest: dict[str, tuple[int, bool]] = {}
    rows = [(row.pk, row.person, station_of(row.kind)) for row in axle.valid_readings()]
    people = {person.pk: person for _, person, _ in rows}
    for order, person, station in rows:
        newest[station] = (order, people[person.pk].role == Role.APPRENTICE)
    for pattern in axle.patterns:
        newest["pattern"] = (pattern.pk, pattern.person.role == Role.APPRENTICE)
    return tuple(
        name
        for name, (_, by_apprentice) in newest.items()
        if by_apprentice
        and name in axle.standings
        and name != "sheet"
        and axle.standings[name].is_done
        and axle.standings[name].signature is None
    )


def words_for(names: tuple[str, ...]) -> str:
    """What still waits for a countersignature, in words."""
    return ", ".join(stations()[name].title.lower() for name in names)
