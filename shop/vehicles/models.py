"""A vehicle as somebody described it: kept as typed, shared by its jobs."""

import uuid

from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned


class Vehicle(ShopOwned):
    """One vehicle of a customer, or of the yard."""

    # What tells it from every other, here and in files.
    identity = models.UUIDField(default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    note = models.CharField(max_length=200, blank=True)
    # Text by field of axle/gearing/data/vehicle.toml, as typed.
    figures = models.JSONField(default=dict, blank=True)
    version = models.PositiveIntegerField(default=1)
    touched_at = models.DateTimeField()
    by = models.CharField(max_length=120)
    history = HistoricalRecords()

    class Meta:
        ordering = ["name", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["shop", "identity"], name="vehicle_once_per_shop"),
            models.UniqueConstraint(fields=["shop", "name"], name="vehicle_name_once_per_shop"),
        ]

    def __str__(self) -> str:
        return self.name
