"""Attempts on the practice bench."""

from django.db import models

from shop.jobs.models.job import Job
from shop.people.models import ShopOwned, User


class PracticeRun(ShopOwned):
    """One go at an exercise of the practice bench: a round of questions, or a simulated axle."""

    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    exercise = models.CharField(max_length=40)
    seed = models.PositiveIntegerField()
    # What was planted; empty where nothing was.
    fault = models.CharField(max_length=20, blank=True)
    job = models.OneToOneField(Job, on_delete=models.PROTECT, null=True, related_name="practice_run")
    # Hints asked for, and the job's version for which the newest one holds.
    hints = models.PositiveSmallIntegerField(default=0)
    hint_version = models.PositiveIntegerField(default=0)
    # Turn of the pinion nut on the sleeve that is in, in degrees, and which sleeve that is.
    turned = models.FloatField(default=0)
    sleeve = models.PositiveSmallIntegerField(default=0)
    prints = models.PositiveSmallIntegerField(default=0)
    # What the person says is wrong with the axle.
    named = models.CharField(max_length=20, blank=True)
    # What was answered, question by question.
    answers = models.JSONField(default=list, blank=True)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    points = models.PositiveSmallIntegerField(null=True)
    # [[words, points]] of the score.
    lines = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["shop", "person", "exercise"])]
