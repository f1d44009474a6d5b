"""The chain over a job's record: each row's digest over the one before it."""

from django.db import models

from shop.jobs.models.job import Job


class ChainLink(models.Model):
    """One row of the record, as it was when it was written; triggers refuse to change or delete it."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="chain")
    number = models.PositiveIntegerField()
    # The row it stands for, by its table and key.
    table = models.CharField(max_length=30)
    row = models.BigIntegerField()
    # Keyed digest over the digest before and the row's content.
    digest = models.CharField(max_length=64)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="link_once_per_job"),
            models.UniqueConstraint(fields=["table", "row"], name="row_linked_once"),
        ]
        ordering = ["number"]
