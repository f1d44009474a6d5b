"""What is offered, agreed and paid: estimates, supplements and accounts are written once."""

from django.db import models

from shop.jobs.models.append_only import AppendOnly
from shop.jobs.models.job import Job


class MoneySheet(AppendOnly):
    """An estimate, a supplement or an account, as it went to the customer."""

    class Kind(models.TextChoices):
        ESTIMATE = "estimate", "estimate"
        SUPPLEMENT = "supplement", "supplement"
        ACCOUNT = "account", "account"

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="money_sheets")
    kind = models.CharField(max_length=10, choices=Kind)
    # Counted by kind, from 1.
    number = models.PositiveSmallIntegerField()
    # [{group, words, quantity, unit, price, stage, low, high, credit, amount}], amounts as text.
    lines = models.JSONField(default=list)
    # {net, tax, gross, least, most, deposit, paid, hours: [low, median, high], rate of tax}, as text.
    totals = models.JSONField(default=dict)
    currency = models.CharField(max_length=3)
    # What is not included; of a supplement, the finding that makes it.
    words = models.CharField(max_length=500, blank=True)
    # The step that does not open before a supplement is answered, or "".
    step = models.CharField(max_length=40, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "entry"], name="money_sheet_stored_once"),
            models.UniqueConstraint(fields=["job", "kind", "number"], name="money_sheet_number_once"),
        ]
        ordering = ["id"]


class CustomerAnswer(AppendOnly):
    """The customer's yes or no to an estimate or a supplement, with who said it and how."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="answers")
    sheet = models.ForeignKey(MoneySheet, on_delete=models.PROTECT, related_name="answers")
    agreed = models.BooleanField()
    name = models.CharField(max_length=120)
    how = models.CharField(max_length=120, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="answer_stored_once")]
        ordering = ["id"]


class Payment(AppendOnly):
    """Money that came in, or went back where it is below 0."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="payments")
    amount = models.DecimalField(max_digits=10, decimal_places=2)
    words = models.CharField(max_length=120, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="payment_stored_once")]
        ordering = ["id"]
