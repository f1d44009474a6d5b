"""Whether a delivery comes in time."""

from __future__ import annotations

import math
from datetime import date
from typing import Final

from axle.errors import AxleError
from axle.schedule.durations import assumptions

# A build wants its parts so many days before it is promised.
_BUILD: Final = 1
# A delivery of the same day still scatters as one of a day.
_SHORTEST: Final = 1.0


def days_left(today: date, promised: date) -> int:
    """Days from an order today to when a build wants its parts.

    :param today: the day of the order.
    :param promised: the day that was promised to the customer.
    :returns: days, below 0 where it is too late.
    :source: a build takes its last working day; common practice, no source.

    >>> days_left(date(2026, 12, 1), date(2026, 12, 8))
    6
    """
    return (promised - today).days - _BUILD


def chance_in_time(days: float, until: float) -> float:
    """Chance that what takes so many days as a rule is here in time.

    :param days: from order to delivery, as a rule [days], 0 to 365.
    :param until: from the order to when it is wanted [days]; below 0 it is too late already.
    :returns: chance [1]: the time scatters as a logarithm's normal about the rule.
    :raises AxleError: for days out of range.
    :source: widths of suppliers and deliveries in ``data/spreads.toml``.

    >>> chance_in_time(4, 3) < 0.5 < chance_in_time(4, 5)
    True
    """
    if not 0 <= days <= 365:
        raise AxleError("days of delivery", given=f"{days:g}", wanted="0 to 365")
    if until <= 0:
        return 0.0
    width = assumptions().width
    spread = math.hypot(width.supplier, width.delivery)
    scale = max(days, _SHORTEST)
    factor = 1 + (until - days) / scale
    if factor <= 0:
        return 0.0
    # The factor's mean is 1, as in the plan's own draws.
    return 0.5 * (1 + math.erf((math.log(factor) + spread**2 / 2) / spread / math.sqrt(2)))
