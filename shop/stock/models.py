"""The shim drawer: lots of like pieces, each measured, and every movement in and out."""

from django.core.validators import MaxValueValidator
from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned, User


class Family(models.TextChoices):
    """What a shim fits."""

    DEPTH = "depth", "pinion depth"
    PRELOAD = "preload", "pinion preload"
    SIDE = "side", "either side"
    LEFT = "left", "left side"
    RIGHT = "right", "right side"


class Condition(models.TextChoices):
    """Whether a shim may be used; a damaged one is never chosen."""

    NEW = "new", "new"
    GOOD = "good", "good, used"
    DAMAGED = "damaged", "damaged"


class ShimLot(ShopOwned):
    """Pieces of one family, one mic'd thickness and one condition."""

    family = models.CharField(max_length=8, choices=Family)
    nominal = models.DecimalField("nominal, mm", max_digits=9, decimal_places=5)
    miced = models.DecimalField("mic'd, mm", max_digits=9, decimal_places=5)
    typed = models.CharField(max_length=40, help_text="as typed")
    quantity = models.PositiveSmallIntegerField(default=1, validators=[MaxValueValidator(500)])
    condition = models.CharField(max_length=8, choices=Condition, default=Condition.NEW)
    bin = models.CharField("bin", max_length=20, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["family", "miced", "id"]
        indexes = [models.Index(fields=["shop", "family"])]


class StockMovement(models.Model):
    """Pieces that went into or came out of the drawer, and why."""

    lot = models.ForeignKey(ShimLot, on_delete=models.PROTECT, related_name="movements")
    change = models.SmallIntegerField()
    reason = models.CharField(max_length=120)
    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
