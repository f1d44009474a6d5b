"""The time at which a change is recorded: now, or a moment of the demo's past."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import datetime, timedelta

from django.utils import timezone

_past: ContextVar[list[datetime] | None] = ContextVar("past", default=None)
_STEP = timedelta(seconds=47)


def now() -> datetime:
    """The moment to record; each call in a demo's past is a little later than the last."""
    past = _past.get()
    if past is None:
        return timezone.now()
    past[0] += _STEP
    return past[0]


@contextmanager
def beginning(moment: datetime) -> Iterator[None]:
    """Record as if it were then; for the demo's data only."""
    token = _past.set([moment])
    try:
        yield
    finally:
        _past.reset(token)


def between(one: datetime, other: datetime) -> str:
    """The time between two moments as a clock shows it."""
    minutes, seconds = divmod(int(abs((other - one).total_seconds())), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02d}:{seconds:02d}" if hours else f"{minutes}:{seconds:02d}"


def in_hours(minutes: int) -> str:
    """Minutes as hours and minutes."""
    hours, rest = divmod(minutes, 60)
    return f"{hours} h {rest:02d} min"
