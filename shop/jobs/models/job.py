"""A job: one axle on its way through the shop."""

from typing import Any, Final

from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned, User
from shop.specs.models import SpecSheet
from shop.vehicles.models import Vehicle

# Numbers of practice jobs begin here; no job of a shop's own is numbered so high.
FIRST_OF_PRACTICE: Final = 1_500_000_001


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


class End(models.TextChoices):
    """Which axle of a vehicle; as in axle/gearing/vehicle.py."""

    FRONT = "front", "front axle"
    REAR = "rear", "rear axle"


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
    # How urgent it is for the plan, 1 usual to 3; the job whose vehicle it shares: one promise, one ratio.
    urgency = models.PositiveSmallIntegerField(default=1)
    belongs_to = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="with_it"
    )
    # The vehicle around the axle, and at which end of it the axle is.
    vehicle = models.ForeignKey(
        Vehicle, on_delete=models.SET_NULL, null=True, blank=True, related_name="jobs"
    )
    vehicle_end = models.CharField(max_length=5, choices=End, default=End.REAR)
    state = models.CharField(max_length=8, choices=State, default=State.OPEN)
    # The job's own copy of its sheet: layout, gears, limits, torques, each with its source.
    sheet = models.JSONField()
    # Which sheet of the shop that was, and in which version; nothing for a job from a file.
    built_to = models.ForeignKey(
        SpecSheet, on_delete=models.SET_NULL, null=True, related_name="jobs", db_constraint=True
    )
    built_to_version = models.PositiveIntegerField(default=0)
    new_bearings = models.BooleanField(default=True)
    mark_typed = models.CharField(max_length=40, default="0")
    mark_value = models.DecimalField(max_digits=9, decimal_places=5, default=0)
    mark_convention = models.CharField(max_length=10, default="longer")
    # Who said what the mark means, and when; nothing is worked out from a mark before.
    mark_confirmed = models.CharField(max_length=160, blank=True)
    # Shape of shim by place, where the axle takes only one.
    shapes = models.JSONField(default=dict, blank=True)
    ways = models.JSONField(default=dict, blank=True)
    # What the job covers, as in axle/procedure/data/scope.toml.
    scope = models.CharField(max_length=12, default="whole")
    # Value by choice of axle/procedure/data/choices.toml; what is not chosen is as usual.
    choices = models.JSONField(default=dict, blank=True)
    # Why a choice is another than the shop's usual, by choice.
    reasons = models.JSONField(default=dict, blank=True)
    # What was taken down on arrival beside the readings: mileage, noise, notes.
    arrival = models.JSONField(default=dict, blank=True)
    # The torque sheet's fields that were corrected from the parts in hand, by group.
    fasteners = models.JSONField(default=dict, blank=True)
    # "have" or "missing" by tool of axle/procedure/data/tools.toml.
    tools = models.JSONField(default=dict, blank=True)
    # Rises with every change; a page that shows an older one is told so before it changes anything.
    version = models.PositiveIntegerField(default=1)
    touched_at = models.DateTimeField()
    touched_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    touched_what = models.CharField(max_length=160, blank=True)
    # Who brought it in from a file, when, and what the file's seal said; nothing for a job opened here.
    came_from = models.JSONField(default=dict, blank=True)
    # On a simulated axle: never among the shop's own jobs.
    practice = models.BooleanField(default=False)
    # The day of the next check of a break-in, for the list and the calendar; nothing where none is to come.
    check_due = models.DateField(null=True, blank=True, db_index=True)
    # What the jobs page shows, worked out once after each change.
    summary = models.JSONField(default=dict, blank=True)
    history = HistoricalRecords(excluded_fields=["summary", "touched_at", "version", "tools", "check_due"])

    # The axle as the last change left it, so that the answer to that change need not read it again.
    axle_after: Any = None

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "number"], name="job_number_once_per_shop")]
        indexes = [
            models.Index(fields=["shop", "state", "-touched_at"]),
            models.Index(fields=["shop", "practice", "state", "promised_on", "number"]),
            models.Index(fields=["shop", "practice", "state", "-touched_at"]),
        ]

    def __str__(self) -> str:
        return f"Job {self.shown_number} · {self.title}"

    @property
    def shown_number(self) -> str:
        """The number as people say it; practice axles are counted from 1 with a P before it."""
        if self.number < FIRST_OF_PRACTICE:
            return f"{self.number:04d}"
        return f"P{self.number + 1 - FIRST_OF_PRACTICE:04d}"
