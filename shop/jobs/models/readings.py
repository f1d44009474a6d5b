"""What is read, printed and signed. A correction is a new row that strikes the old."""

import re

from django.db import models

from shop.jobs.models.append_only import AppendOnly
from shop.jobs.models.assembly import Assembly
from shop.jobs.models.job import Job


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
    # The instrument's step in the core's unit, and what was wrong with its calibration, as they were.
    resolution = models.DecimalField(max_digits=14, decimal_places=8, null=True)
    overdue = models.CharField(max_length=40, blank=True)
    confidence = models.CharField(max_length=10, choices=Confidence, default=Confidence.FIXTURE)
    strikes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="struck_by")
    reason = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assembly", "entry"], name="reading_stored_once")]
        indexes = [models.Index(fields=["assembly", "kind", "place"])]
        ordering = ["id"]

    @property
    def as_typed(self) -> str:
        """What was typed, with its unit where the person did not name one."""
        return self.typed if re.search(r'[^\W\d]$|"$', self.typed) else f"{self.typed} {self.unit}".strip()


class PrintMade(AppendOnly):
    """A print of an assembly and how it was made; a later row of the same number replaces it."""

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="prints")
    number = models.PositiveSmallIntegerField(default=1)
    # As axle/contact/print_conditions.py reads it: compound, load, direction, turns, teeth, places.
    making = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assembly", "entry"], name="print_stored_once")]
        ordering = ["id"]


class Pattern(AppendOnly):
    """What is wiped on one flank; a later mark of the same flank, print and place replaces it."""

    class Flank(models.TextChoices):
        DRIVE = "drive", "drive"
        COAST = "coast", "coast"

    class Taken(models.TextChoices):
        BY_HAND = "hand", "marked by hand"
        QUICK = "quick", "in three words"
        PHOTO = "photo", "from a photo"
        AS_FOUND = "found", "as found on arrival"

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="patterns")
    flank = models.CharField(max_length=5, choices=Flank)
    # Corners (u, v): u from toe 0 to heel 1, v from root 0 to top 1.
    outline = models.JSONField()
    # Outlines of further patches on the same flank.
    more = models.JSONField(default=list, blank=True)
    number = models.PositiveSmallIntegerField(default=1)
    # Place around the ring gear, from 1, and the tooth's number where somebody counted.
    place = models.PositiveSmallIntegerField(default=1)
    tooth = models.PositiveSmallIntegerField(null=True)
    edge = models.CharField(max_length=10, default="feathered")
    strength = models.CharField(max_length=10, default="clear")
    # The photo it was read from, and the places pointed at on it, as shares of its width and height.
    # Entry of an earlier mark that this row takes back.
    withdraws = models.UUIDField(null=True)
    photo_entry = models.UUIDField(null=True)
    corners = models.JSONField(default=list, blank=True)
    # As the photo was read: standard deviation of the middle along and up, and what other teeth on it show,
    # each with "tooth", "u", "v", "area".
    spread = models.JSONField(default=list, blank=True)
    beside = models.JSONField(default=list, blank=True)
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
