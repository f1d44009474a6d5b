"""What a finished job showed of its shop: figures that may be looked at and switched off."""

from django.db import models

from shop.jobs.models.job import Job
from shop.people.models import User


class JobFigure(models.Model):
    """One figure of one finished job; the newest signature of its sheet replaces it."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="figures")
    # As in ``axle.state.priors.Quantity``.
    quantity = models.CharField(max_length=30)
    value = models.FloatField()
    # How well the job shows it, in the figure's unit or of its logarithm.
    std = models.FloatField()
    # Somebody doubts the job: it is left out of what the shop has learned.
    used = models.BooleanField(default=True)
    switched_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = (models.UniqueConstraint(fields=("job", "quantity"), name="one_figure_of_a_kind"),)
        indexes = (models.Index(fields=("quantity", "used"), name="jobs_jobfig_quantit_idx"),)

    def __str__(self) -> str:
        return f"{self.quantity} {self.value:g}"
