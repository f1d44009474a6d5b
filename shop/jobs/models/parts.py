"""Parts of a job: what is wanted and why, from whom, and where it stands; orders and what came of them."""

import uuid
from decimal import Decimal

from django.db import models
from simple_history.models import HistoricalRecords

from shop.jobs.models.job import Job
from shop.people.models import ShopOwned, User
from shop.stock.models import Family, Supplier


class Order(ShopOwned):
    """What is ordered from one supplier at once, for one job or several."""

    number = models.PositiveIntegerField()
    supplier = models.ForeignKey(Supplier, on_delete=models.PROTECT, related_name="orders")
    entry = models.UUIDField(default=uuid.uuid4, editable=False)
    placed_at = models.DateTimeField()
    placed_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    by = models.CharField(max_length=120)
    due_on = models.DateField()
    note = models.CharField(max_length=200, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["shop", "number"], name="order_number_once_per_shop"),
            models.UniqueConstraint(fields=["shop", "entry"], name="order_stored_once"),
        ]


class PartLine(models.Model):
    """One line of a job's parts."""

    class Kind(models.TextChoices):
        """As in axle/parts/bill.py."""

        PART = "part", "part"
        CONSUMABLE = "consumable", "consumable"
        SHIM = "shim", "shims"
        TOOL = "tool", "tool bought for the job"
        OUTSIDE = "outside", "work done outside"
        CORE = "core", "core deposit"
        WASTED = "wasted", "spoilt here"

    class State(models.TextChoices):
        """As in axle/parts/lines.py."""

        NEEDED = "needed", "needed"
        QUOTED = "quoted", "quoted"
        ORDERED = "ordered", "ordered"
        ON_ITS_WAY = "on its way", "on its way"
        HERE = "here", "here"
        FITTED = "fitted", "fitted"
        RETURNED = "returned", "returned"
        NOT_NEEDED = "not needed", "not needed"

    class Owner(models.TextChoices):
        SHOP = "shop", "the shop's"
        CUSTOMER = "customer", "the customer's own"

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="part_lines")
    entry = models.UUIDField(default=uuid.uuid4, editable=False)
    # As in axle/parts/data/parts.toml; "" for something of its own.
    part = models.CharField(max_length=30, blank=True)
    words = models.CharField(max_length=120)
    kind = models.CharField(max_length=10, choices=Kind, default=Kind.PART)
    quantity = models.DecimalField(max_digits=8, decimal_places=2, default=1)
    unit = models.CharField(max_length=8, blank=True)
    # Which rule or finding asks for it.
    why = models.CharField(max_length=200, blank=True)
    state = models.CharField(max_length=12, choices=State, default=State.NEEDED)
    owner = models.CharField(max_length=8, choices=Owner, default=Owner.SHOP)
    supplier = models.ForeignKey(
        Supplier, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )
    # The supplier's name of a job that came from a file, where this shop has none of that name.
    from_supplier = models.CharField(max_length=80, blank=True)
    # What one costs the shop; what one is sold for where that is not cost and margin.
    price = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    charge = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    order = models.ForeignKey(Order, on_delete=models.PROTECT, null=True, blank=True, related_name="lines")
    due_on = models.DateField(null=True, blank=True)
    received = models.DecimalField(max_digits=8, decimal_places=2, default=0)
    arrived_on = models.DateField(null=True, blank=True)
    # Of shims: for which drawer, and their nominal size in mm.
    family = models.CharField(max_length=8, choices=Family, blank=True)
    size = models.DecimalField(max_digits=9, decimal_places=5, null=True, blank=True)
    # It came wrong: what was wrong, and what the supplier did about it.
    claim = models.CharField(max_length=200, blank=True)
    claim_settled = models.CharField(max_length=200, blank=True)
    credit = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    by = models.CharField(max_length=120)
    at = models.DateTimeField()
    history = HistoricalRecords()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="part_line_stored_once")]
        indexes = [models.Index(fields=["job", "state"])]

    @property
    def left(self) -> Decimal:
        """How many are still to come."""
        return self.quantity - self.received


class Delivery(models.Model):
    """What came of one line; written once."""

    line = models.ForeignKey(PartLine, on_delete=models.PROTECT, related_name="deliveries")
    entry = models.UUIDField(editable=False)
    quantity = models.DecimalField(max_digits=8, decimal_places=2)
    at = models.DateTimeField()
    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    by = models.CharField(max_length=120)
    # Of shims: every reading of the micrometer in mm, as text.
    miced = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["line", "entry"], name="delivery_stored_once")]
