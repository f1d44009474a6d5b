"""A builder's countersignature at hold points, where a job asks for it: an apprentice's first jobs."""

from axle.procedure.stations import station_of, stations
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Reading
from shop.people.models import Role, User


def asked(axle: JobAxle) -> bool:
    """Whether this job asks for it."""
    return bool(axle.plan.facts["countersign"] == "yes") and not axle.job.practice


def waiting(axle: JobAxle) -> tuple[str, ...]:
    """Stations in range by an apprentice's readings that nobody has countersigned since."""
    if not asked(axle):
        return ()
    newest: dict[str, tuple[int, bool]] = {}
    rows = [*axle.valid_readings(), *axle.patterns]
    apprentices = set(
        User.objects.filter(pk__in={row.person_id for row in rows}, role=Role.APPRENTICE).values_list(
            "pk", flat=True
        )
    )
    for row in rows:
        station = station_of(row.kind) if isinstance(row, Reading) else "pattern"
        newest[station] = (row.pk, row.person_id in apprentices)
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
