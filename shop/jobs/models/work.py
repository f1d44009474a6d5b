"""The work beside the readings: steps, register, findings, torques, waits, photos."""

from django.db import models

from shop.jobs.models.append_only import AppendOnly
from shop.jobs.models.job import Job


class StepMark(AppendOnly):
    """A person's mark on a step: begun, done, passed with a reason, or taken back."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="step_marks")
    step = models.CharField(max_length=40)
    mark = models.CharField(max_length=6)
    reason = models.CharField(max_length=500, blank=True)
    # Steps that come before it and were open: it was done all the same.
    before = models.JSONField(default=list, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="step_mark_stored_once")]
        ordering = ["id"]


class CarrierLine(AppendOnly):
    """One line of the book of adjusters and caps, as in axle/carrier/adjuster_log.py."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="carrier_lines")
    done = models.CharField(max_length=8)
    # Holes wound in, below zero out; 0 for what is not an adjuster's.
    ring = models.DecimalField(max_digits=6, decimal_places=2, default=0)
    far = models.DecimalField(max_digits=6, decimal_places=2, default=0)
    words = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="carrier_line_stored_once")]
        ordering = ["id"]


class RegisterLine(AppendOnly):
    """One line of the register of parts and marks."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="register")
    item = models.CharField(max_length=20)
    event = models.CharField(max_length=8)
    words = models.CharField(max_length=200, blank=True)
    # Thickness of each piece in mm, as text.
    pieces = models.JSONField(default=list, blank=True)
    count = models.PositiveSmallIntegerField(default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="register_line_stored_once")]
        ordering = ["id"]


class Finding(AppendOnly):
    """What was seen on a part and what becomes of it; a later one on the same part replaces it."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="findings")
    part = models.CharField(max_length=20)
    sign = models.CharField(max_length=20)
    decision = models.CharField(max_length=8)
    reason = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="finding_stored_once")]
        ordering = ["id"]


class Tightening(AppendOnly):
    """One signed stage of one group of fasteners."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="tightenings")
    group = models.CharField(max_length=20)
    stage = models.PositiveSmallIntegerField()
    typed = models.CharField(max_length=40)
    unit = models.CharField(max_length=12)
    # At the bolt, in N·m; an adapter's correction is already in it.
    value = models.DecimalField(max_digits=14, decimal_places=8)
    words = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="tightening_stored_once")]
        ordering = ["id"]


class Timer(models.Model):
    """A wait that runs whether anybody looks or not: it lives here, not in a page."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="timers")
    step = models.CharField(max_length=40, blank=True)
    title = models.CharField(max_length=60)
    minutes = models.PositiveSmallIntegerField()
    started_at = models.DateTimeField()
    due_at = models.DateTimeField(db_index=True)
    by = models.CharField(max_length=120)
    # Somebody heard it, or stopped it before it was due.
    ended_at = models.DateTimeField(null=True)
    ended_by = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["due_at"]


def photo_path(photo: "Photo", name: str) -> str:
    """Where a photo is kept: by shop and job, under a name that nobody can guess."""
    return f"photos/{photo.job.shop_id}/{photo.job_id}/{photo.entry}-{name}"


class Photo(AppendOnly):
    """A photo on a step. The original is kept without its location; the page shows a turned copy."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="photos")
    step = models.CharField(max_length=40)
    caption = models.CharField(max_length=200, blank=True)
    name = models.CharField(max_length=120)
    original = models.FileField(upload_to=photo_path, max_length=200)
    shown = models.FileField(upload_to=photo_path, max_length=200)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    # Focal length as on a 35 mm film, where the file tells it [mm].
    focal = models.PositiveSmallIntegerField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="photo_stored_once")]
        ordering = ["id"]
