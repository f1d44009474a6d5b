"""The book of one job's adjusters and caps, as its rows tell it."""

from axle.carrier.adjuster_log import AdjusterEntry, AdjusterEvent, AdjusterLog, adjuster_log_of
from shop.jobs.models import Job


def adjuster_log(job: Job) -> AdjusterLog:
    """How adjusters and caps stand now."""
    rows = job.carrier_lines.order_by("id")
    return adjuster_log_of(
        AdjusterEntry(AdjusterEvent(row.done), float(row.ring), float(row.far)) for row in rows
    )
