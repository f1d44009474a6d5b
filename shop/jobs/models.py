"""A job and everything that is recorded on it.

Readings, pattern marks and signatures are append-only: the database refuses to change or delete
them (see the migration that makes the triggers). A correction is a new row that strikes the old.
"""

import re
import uuid
from typing import Any

from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned, User
from shop.stock.models import ShimLot


class Place(models.TextChoices):
    """What is set in an axle: packs and adjusters, and what else bears on its readings."""

    DEPTH = "depth", "depth shim"
    PRELOAD = "preload", "preload pack"
    RING = "ring", "ring side"
    FAR = "far", "far side"
    CLOCK = "clock", "ring gear's bolt position"
    BEARINGS = "bearings", "set of bearings"
    SLINGER = "slinger", "slinger"
    CAPS = "caps", "torque of the caps"


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
    # Who said what the mark means, and when; nothing is worked out from a mark before.
    mark_confirmed = models.CharField(max_length=160, blank=True)
    # Shape of shim by place, where the axle takes only one.
    shapes = models.JSONField(default=dict, blank=True)
    ways = models.JSONField(default=dict, blank=True)
    # What the job covers, as in axle/procedure/scope.toml.
    scope = models.CharField(max_length=12, default="whole")
    # Value by choice of axle/procedure/choices.toml; what is not chosen is as usual.
    choices = models.JSONField(default=dict, blank=True)
    # Why a choice is another than the shop's usual, by choice.
    reasons = models.JSONField(default=dict, blank=True)
    # What was taken down on arrival beside the readings: mileage, noise, notes.
    arrival = models.JSONField(default=dict, blank=True)
    # The torque sheet's fields that were corrected from the parts in hand, by group.
    fasteners = models.JSONField(default=dict, blank=True)
    # "have" or "missing" by tool of axle/procedure/tools.toml.
    tools = models.JSONField(default=dict, blank=True)
    # Rises with every change; a page that shows an older one is told so before it changes anything.
    version = models.PositiveIntegerField(default=1)
    touched_at = models.DateTimeField()
    touched_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    touched_what = models.CharField(max_length=160, blank=True)
    # On a simulated axle: never among the shop's own jobs.
    practice = models.BooleanField(default=False)
    # What the jobs page shows, worked out once after each change.
    summary = models.JSONField(default=dict, blank=True)
    history = HistoricalRecords(excluded_fields=["summary", "touched_at", "version", "tools"])

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


class Position(models.Model):
    """How something other than a pack is set.

    A threaded adjuster in lock holes from its mark, the ring gear's clocking in bolt holes, the
    count of sleeves or bearing sets, the torque of the caps.
    """

    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="positions")
    place = models.CharField(max_length=8, choices=Place)
    value = models.DecimalField(max_digits=6, decimal_places=2)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assembly", "place"], name="position_once_per_assembly")
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
    # As axle/contact/making.py reads it: compound, load, direction, turns, teeth, places.
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
    # The photo it was read from, and the flank's corners on it, as shares of its width and height.
    photo_entry = models.UUIDField(null=True)
    corners = models.JSONField(default=list, blank=True)
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
    # Chance that all would be in range, what it was made of by station, and whether it came about once
    # everything was read; nothing where it was not judged, or not read yet.
    chance = models.FloatField(null=True)
    parts = models.JSONField(default=dict, blank=True)
    held = models.BooleanField(null=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["id"]


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


class StepMark(AppendOnly):
    """A person's mark on a step: begun, done, passed with a reason, or taken back."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="step_marks")
    step = models.CharField(max_length=40)
    mark = models.CharField(max_length=6)
    reason = models.CharField(max_length=500, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="step_mark_stored_once")]
        ordering = ["id"]


class CarrierLine(AppendOnly):
    """One line of the book of adjusters and caps, as in axle/carrier/book.py."""

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

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="photo_stored_once")]
        ordering = ["id"]
