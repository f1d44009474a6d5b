"""The shim drawer: lots of like pieces, each measured, and every movement in and out."""

from typing import Self

from django.core.validators import MaxValueValidator
from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import Shop, ShopOwned, ShopQuerySet, User


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


class ShimRole(models.TextChoices):
    """What part a piece plays in a pack."""

    SELECT = "select", "select"
    BASE = "base", "base"
    MASTER = "master", "master"
    SPACER = "spacer", "solid spacer"


class LotQuerySet(ShopQuerySet):
    """Lots of shims; those of the practice bench, and of an axle on a job's tray, are apart."""

    def of(self, shop: Shop | None) -> Self:
        """The lots of the shop's drawer."""
        return super().of(shop).filter(practice=False, tray_job=None)

    def on_tray(self, shop: Shop | None, job_number: int) -> Self:
        """What came out of one job's axle and lies on its tray."""
        return super().of(shop).filter(practice=False, tray_job=job_number)

    def for_job(self, shop: Shop | None, job_number: int) -> Self:
        """The drawer, and the job's own tray."""
        ours = super().of(shop).filter(practice=False)
        return ours.filter(models.Q(tray_job=None) | models.Q(tray_job=job_number))

    def for_practice(self, shop: Shop | None) -> Self:
        """The drawer of the practice bench."""
        return super().of(shop).filter(practice=True)


class ShimLot(ShopOwned):
    """Pieces of one family and shape, one mic'd thickness and one condition."""

    objects = LotQuerySet.as_manager()  # type: ignore[misc]  # narrower than a shop's rows

    family = models.CharField(max_length=8, choices=Family)
    nominal = models.DecimalField("nominal, mm", max_digits=9, decimal_places=5)
    miced = models.DecimalField("mic'd, mm", max_digits=9, decimal_places=5)
    typed = models.CharField(max_length=40, help_text="as typed")
    quantity = models.PositiveSmallIntegerField(default=1, validators=[MaxValueValidator(500)])
    condition = models.CharField(max_length=8, choices=Condition, default=Condition.NEW)
    bin = models.CharField("bin", max_length=20, blank=True)
    # What fits together beyond the place: the shape's name as the shop calls it.
    shape = models.CharField(max_length=40, blank=True)
    role = models.CharField(max_length=8, choices=ShimRole, default=ShimRole.SELECT)
    cast = models.BooleanField(default=False)
    kit = models.CharField(max_length=60, blank=True)
    # Every reading of the micrometer in mm, as text; their mean is the mic'd thickness.
    readings = models.JSONField(default=list, blank=True)
    is_miced = models.BooleanField(default=True)
    # Fewer than this and it is on the list of what runs low.
    low_at = models.PositiveSmallIntegerField(default=0)
    practice = models.BooleanField(default=False)
    # An axle's own pieces lie on its job's tray, by the register's item they were measured as.
    tray_job = models.PositiveIntegerField(null=True)
    tray_item = models.CharField(max_length=20, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["family", "miced", "id"]
        indexes = [models.Index(fields=["shop", "family"])]


class Kit(ShopOwned):
    """An assortment that is bought and received as a unit."""

    name = models.CharField(max_length=60)
    # [{family, shape, role, cast, nominal (as typed), unit, quantity}]
    lines = models.JSONField(default=list)
    history = HistoricalRecords()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="kit_once_per_shop")]


class Supplier(ShopOwned):
    """Who sends parts, or does work outside."""

    name = models.CharField(max_length=80)
    contact = models.CharField(max_length=120, blank=True)
    # Days from an order to its delivery, as a rule.
    days = models.PositiveSmallIntegerField(default=3, validators=[MaxValueValidator(365)])
    note = models.CharField(max_length=200, blank=True)
    retired = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="supplier_once_per_shop")]

    def __str__(self) -> str:
        return self.name


class PriceLine(ShopOwned):
    """What one supplier asks for a part, or for a kit of several."""

    supplier = models.ForeignKey(Supplier, on_delete=models.CASCADE, related_name="prices")
    # As in axle/parts/data/parts.toml; "" for a kit.
    part = models.CharField(max_length=30, blank=True)
    words = models.CharField(max_length=80)
    price = models.DecimalField(max_digits=10, decimal_places=2)
    # Of a kit: how many of each part it holds.
    holds = models.JSONField(default=dict, blank=True)
    # A deposit on the old part, paid back when it is returned.
    core = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    history = HistoricalRecords()

    class Meta:
        ordering = ["words", "pk"]


class GearOffer(ShopOwned):
    """A ring and pinion that can be had, as in axle/gearing/offers.py."""

    pinion = models.PositiveSmallIntegerField()
    ring = models.PositiveSmallIntegerField()
    sold_as = models.CharField(max_length=8, blank=True)
    # Diameter of the ring gear in mm; nothing where it goes into any axle of the shop.
    ring_diameter = models.FloatField(null=True, blank=True)
    supplier = models.ForeignKey(
        Supplier, on_delete=models.CASCADE, null=True, blank=True, related_name="gear_sets"
    )
    price = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    days = models.PositiveSmallIntegerField(null=True, blank=True)
    # Ratios of the carrier that it bolts to, and the ring gear's thickness in mm.
    carrier_low = models.FloatField(null=True, blank=True)
    carrier_high = models.FloatField(null=True, blank=True)
    thickness = models.FloatField(null=True, blank=True)
    thick = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["ring_diameter", "pk"]


class StockMovement(models.Model):
    """Pieces that went into or came out of the drawer, and why."""

    class Kind(models.TextChoices):
        IN = "in", "received"
        OUT = "out", "taken for a job"
        BACK = "back", "back from a job"
        SCRAP = "scrap", "scrapped"
        SORT = "sort", "sorted into another lot"

    kind = models.CharField(max_length=5, choices=Kind, default=Kind.IN)
    # The job by its number, so that stock need not know jobs.
    job_number = models.PositiveIntegerField(null=True)
    place = models.CharField(max_length=8, blank=True)
    lot = models.ForeignKey(ShimLot, on_delete=models.PROTECT, related_name="movements")
    change = models.SmallIntegerField()
    reason = models.CharField(max_length=120)
    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
