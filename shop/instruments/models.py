"""The register of instruments: what a shop measures with, and whether it can be believed."""

from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned


class Instrument(ShopOwned):
    """One gauge, micrometer or wrench."""

    class Shows(models.TextChoices):
        TRAVEL = "travel", "its travel"
        FIGURE = "figure", "the figure pointed at"

    name = models.CharField(max_length=60)
    # As in axle/procedure/data/instruments.toml.
    kind = models.CharField(max_length=20)
    # In the core's unit, and as it was typed.
    resolution = models.DecimalField(max_digits=14, decimal_places=8)
    resolution_typed = models.CharField(max_length=40)
    # Its largest figure in the core's unit, where it has one: beyond it nothing is read.
    full_scale = models.DecimalField(max_digits=14, decimal_places=8, null=True)
    shows = models.CharField(max_length=6, choices=Shows, default=Shows.TRAVEL)
    # One revolution of its dial in mm, where the figure pointed at is meant.
    revolution = models.DecimalField(max_digits=9, decimal_places=5, null=True)
    calibrated_on = models.DateField(null=True)
    due_on = models.DateField(null=True)
    retired = models.BooleanField(default=False)
    # Its name on the line protocol of docs/instruments.md, or "" where nothing is connected to it.
    line = models.CharField(max_length=20, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["kind", "name"]
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="instrument_once_per_shop")]

    def __str__(self) -> str:
        return self.name
