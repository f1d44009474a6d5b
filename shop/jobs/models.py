"""A job and everything that is recorded on it.

Readings, pattern marks and signatures are append-only: the database refuses to change or delete
them (see the migration that makes the triggers). A correction is a new row that strikes the old.
"""

import uuid
from typing import Any

from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned, User
from shop.stock.models import ShimLot


class Place(models.TextChoices):
    """Where a pack or an adjuster sits."""

    DEPTH = "depth", "depth shim"
    PRELOAD = "preload", "preload pack"
    RING = "ring", "ring side"
    FAR = "far", "far side"


class Job(ShopOwned):
    """One axle on its way through the shop."""

    class State(models.TextChoices):
        OPEN = "open", "open"
        SIGNED = "signed", "signed"

    number = models.PositiveIntegerField()
    title = models.CharField(max_length=120)
    customer = models.CharField(max_length=120, blank=True)
    complaint = models.TextField(blank=True, max_length=2000)
    arrived_on = models.DateField()
    promised_on = models.DateField(null=True, blank=True)
    state = models.CharField(max_length=8, choices=State, default=State.OPEN)
    # The job's own copy of its sheet: layout, gears, limits, torques, each with its source.
    sheet = models.JSONField()
    new_bearings = models.BooleanField(default=True)
    mark_typed = models.CharField(max_length=40, default="0")
    mark_value = models.DecimalField(max_digits=9, decimal_places=5, default=0)
    mark_convention = models.CharField(max_length=10, default="longer")
    ways = models.JSONField(default=dict, blank=True)
    # Rises with every change; a page that shows an older one is told so before it changes anything.
    version = models.PositiveIntegerField(default=1)
    touched_at = models.DateTimeField()
    touched_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    touched_what = models.CharField(max_length=160, blank=True)
    # What the jobs page shows, worked out once after each change.
    summary = models.JSONField(default=dict, blank=True)
    history = HistoricalRecords(excluded_fields=["summary", "touched_at", "version"])

    # The axle as the last change left it, so that the answer to that change need not read it again.
    settled: Any = None

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "number"], name="job_number_once_per_shop")]
        indexes = [models.Index(fields=["shop", "state", "-touched_at"])]

    def __str__(self) -> str:
        return f"Job {self.number:04d} · {self.title}"


class Assembly(models.Model):
    """One numbered trial build of the axle."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="assemblies")
    number = models.PositiveSmallIntegerField()
    started_at = models.DateTimeField()
    started_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    by = models.CharField(max_length=120)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="assembly_once_per_job")]
        ordering = ["number"]


class PackPiece(models.Model):
    """One shim in one place of one assembly, as mic'd."""

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="pieces")
    place = models.CharField(max_length=8, choices=Place)
    position = models.PositiveSmallIntegerField()
    thickness = models.DecimalField(max_digits=9, decimal_places=5)
    lot = models.ForeignKey(ShimLot, on_delete=models.PROTECT, null=True, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assembly", "place", "position"], name="piece_once_per_pack")
        ]
        ordering = ["place", "position"]


class AdjusterPosition(models.Model):
    """How far a threaded adjuster is turned in, in lock holes from its mark."""

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="adjusters")
    place = models.CharField(max_length=8, choices=Place)
    holes = models.DecimalField(max_digits=6, decimal_places=2)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assembly", "place"], name="adjuster_once_per_assembly")
        ]


class AppendOnly(models.Model):
    """A row that is written once. ``entry`` makes a resent form harmless.

    ``by`` is the name as it stood then: it outlives a change of name, and a job that came from a
    file keeps the names of people who never signed in here.
    """

    entry = models.UUIDField(default=uuid.uuid4, editable=False)
    at = models.DateTimeField()
    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    by = models.CharField(max_length=120)
    # What was in the axle then, by place: thickness in mm, or holes.
    settings = models.JSONField(default=dict)

    class Meta:
        abstract = True

    def save(self, *args: object, **kwargs: object) -> None:
        if self.pk is not None and not self._state.adding:
            raise TypeError("This row is never changed: write a new one that strikes it.")
        super().save(*args, **kwargs)  # type: ignore[arg-type]

    def delete(self, *args: object, **kwargs: object) -> tuple[int, dict[str, int]]:
        raise TypeError("This row is never deleted: write a new one that strikes it.")


class Reading(AppendOnly):
    """One measured value, kept as typed, or the striking of an earlier one."""

    class Confidence(models.TextChoices):
        FIXTURE = "fixture", "fixture"
        MAKESHIFT = "makeshift", "makeshift"

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="readings")
    kind = models.CharField(max_length=40)
    place = models.PositiveSmallIntegerField(default=1)
    typed = models.CharField(max_length=40, blank=True)
    unit = models.CharField(max_length=12, blank=True)
    # In the core's unit, mm or N·m; nothing for a row that only strikes.
    value = models.DecimalField(max_digits=14, decimal_places=8, null=True)
    conditions = models.JSONField(default=dict)
    instrument = models.CharField(max_length=80, blank=True)
    confidence = models.CharField(max_length=10, choices=Confidence, default=Confidence.FIXTURE)
    strikes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="struck_by")
    reason = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assembly", "entry"], name="reading_stored_once")]
        indexes = [models.Index(fields=["assembly", "kind", "place"])]
        ordering = ["id"]


class Pattern(AppendOnly):
    """The wiped patch on one flank; a later mark of the same flank and assembly replaces it."""

    class Flank(models.TextChoices):
        DRIVE = "drive", "drive"
        COAST = "coast", "coast"

    class Taken(models.TextChoices):
        BY_HAND = "hand", "marked by hand"

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="patterns")
    flank = models.CharField(max_length=5, choices=Flank)
    # Corners (u, v): u from toe 0 to heel 1, v from root 0 to top 1.
    outline = models.JSONField()
    taken = models.CharField(max_length=8, choices=Taken, default=Taken.BY_HAND)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assembly", "entry"], name="pattern_stored_once")]
        ordering = ["id"]


class SignOff(AppendOnly):
    """A person's word for a station, or for a deviation with its reason."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="sign_offs")
    station = models.CharField(max_length=20)
    deviation = models.BooleanField(default=False)
    reason = models.CharField(max_length=500, blank=True)
    # What stood on the page when it was signed: result, limits and verdict in words.
    statement = models.JSONField(default=list)
    withdrawn = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="sign_off_stored_once")]
        ordering = ["id"]


class Move(models.Model):
    """A recommended change, what was expected of it, and what came of it."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="moves")
    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="moves")
    title = models.CharField(max_length=120)
    station = models.CharField(max_length=20)
    # [{place, before, after, pieces}], [{label, low, high, dimension}] and lines of words.
    swaps = models.JSONField(default=list)
    expected = models.JSONField(default=list)
    why = models.JSONField(default=list)
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    by = models.CharField(max_length=120)
    outcome = models.JSONField(default=dict, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["id"]
