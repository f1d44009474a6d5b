"""The book of one job's adjusters and caps, as its rows tell it."""

from axle.carrier.book import Book, Done, Line, book_of
from shop.jobs.models import Job


def book(job: Job) -> Book:
    """How adjusters and caps stand now."""
    rows = job.carrier_lines.order_by("id")
    return book_of(Line(Done(row.done), float(row.ring), float(row.far)) for row in rows)
