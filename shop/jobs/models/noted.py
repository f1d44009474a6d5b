"""What is written down of a job's ratio, road and noise: each row once, a later one strikes it."""

from django.db import models

from shop.jobs.models.append_only import AppendOnly
from shop.jobs.models.job import Job


class NotedLine(AppendOnly):
    """A row whose kind says what is in it; the core holds it to that."""

    kind = models.CharField(max_length=12)
    values = models.JSONField(default=dict)

    class Meta:
        abstract = True


class RatioLine(NotedLine):
    """A row about the ratio, as in axle/gearing/lines.py."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="ratio_lines")
    strikes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="struck_by")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="ratio_line_stored_once")]
        ordering = ["id"]


class RoadLine(NotedLine):
    """A row about the road, as in axle/road/lines.py."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="road_lines")
    strikes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="struck_by")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="road_line_stored_once")]
        ordering = ["id"]


class NoiseLine(NotedLine):
    """A row about a noise, as in axle/noise/lines.py."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="noise_lines")
    strikes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="struck_by")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="noise_line_stored_once")]
        ordering = ["id"]
