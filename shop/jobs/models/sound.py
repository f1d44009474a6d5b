"""Recordings: the file beside its line, and the work of listening to it."""

from typing import Any

from django.db import models

from shop.jobs.models.noted import NoiseLine
from shop.people.models import User


def sound_path(sound: "SoundFile", name: str) -> str:
    """Where a recording is kept: by shop and job, under a name that nobody can guess."""
    return f"sound/{sound.line.job.shop_id}/{sound.line.job_id}/{sound.line.entry}-{name}"


class SoundFile(models.Model):
    """The file of a recording, as it came."""

    line = models.OneToOneField(NoiseLine, on_delete=models.PROTECT, related_name="sound")
    file = models.FileField(upload_to=sound_path, max_length=200)


class SoundWork(models.Model):
    """A recording to be listened to: one table, from which workers take what waits."""

    class State(models.TextChoices):
        WAITING = "waiting", "waits"
        RUNNING = "running", "is listened to"
        DONE = "done", "done"
        FAILED = "failed", "could not be listened to"

    line = models.ForeignKey(NoiseLine, on_delete=models.PROTECT, related_name="works")
    # What was told beside it, as axle/noise/recording.py takes it.
    given: Any = models.JSONField()
    state = models.CharField(max_length=8, choices=State, default=State.WAITING)
    progress = models.PositiveSmallIntegerField(default=0)
    # The worker's last sign of life: one that stopped is taken over.
    beat_at = models.DateTimeField(null=True)
    tries = models.PositiveSmallIntegerField(default=0)
    words = models.CharField(max_length=500, blank=True)
    result: Any = models.JSONField(null=True)
    asked_at = models.DateTimeField()
    asked_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")

    class Meta:
        indexes = [models.Index(fields=["state", "beat_at"])]
        ordering = ["id"]
