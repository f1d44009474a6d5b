"""Between a person's choice of units and the core's."""

from axle.measure.units import IMPERIAL, METRIC, Display
from shop.people.models import Units, User


def display_for(user: User | None) -> Display:
    """The units in which a person reads."""
    return METRIC if user is not None and user.units == Units.MM else IMPERIAL
