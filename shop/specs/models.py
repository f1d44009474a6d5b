"""Spec sheets: what an axle is built to. A job keeps its own copy, so a sheet may change later."""

from typing import Any

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from simple_history.models import HistoricalRecords

from shop.people.models import ShopOwned


def _choices(*names: str) -> list[tuple[str, str]]:
    return [(name, name) for name in names]


def _figure(title: str, places: int = 2) -> "models.DecimalField[Any, Any]":
    return models.DecimalField(title, max_digits=7, decimal_places=places, null=True, blank=True)


class SpecSheet(ShopOwned):
    """The limits, layout and gears of one kind of axle."""

    name = models.CharField(max_length=80)
    note = models.TextField(blank=True, max_length=2000)
    depth_shim = models.CharField(max_length=12)
    preload_by = models.CharField(max_length=12)
    carrier_by = models.CharField(max_length=12)
    housing = models.CharField(max_length=12)
    ring_side = models.CharField(max_length=12)
    spacer_seat = models.CharField(max_length=14)
    drive_flank = models.CharField(max_length=12)
    bolt_hand = models.CharField(max_length=12)
    backlash_rule = models.CharField(max_length=12)
    stance = models.CharField(max_length=12)
    torque_figure = models.CharField(max_length=12, default="running")
    pinion_teeth = models.PositiveSmallIntegerField(
        validators=[MinValueValidator(5), MaxValueValidator(20)]
    )
    ring_teeth = models.PositiveSmallIntegerField(validators=[MinValueValidator(10), MaxValueValidator(80)])
    ring_diameter = models.DecimalField("ring gear diameter, mm", max_digits=7, decimal_places=2)
    # What nobody knows of the gears is empty, and taken from their family of cut.
    family = models.CharField("family of cut", max_length=20, blank=True)
    hand = models.CharField("pinion's hand", max_length=8, blank=True)
    face_width = _figure("face width, mm")
    offset = _figure("offset, mm")
    ring_spiral = _figure("ring spiral angle, degrees")
    drive_angle = _figure("drive pressure angle, degrees")
    coast_angle = _figure("coast pressure angle, degrees")
    cutter_radius = _figure("cutter radius, mm")
    working_depth = _figure("working depth, mm")
    addendum_share = _figure("ring gear's addendum, share of the working depth", 4)
    # The gear maker's chart as the shop drew it: outline (u, v) by flank.
    chart = models.JSONField(default=dict, blank=True)
    # Rises with every change; a job keeps the one it was opened with.
    version = models.PositiveIntegerField(default=0)
    # The sheet of the same kind that this one shares its common values with, and how far it has followed.
    parent = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="children")
    parent_version = models.PositiveIntegerField(default=0)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="sheet_name_once_per_shop")]
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class SheetVersion(models.Model):
    """A sheet as it was kept once; never changed."""

    sheet = models.ForeignKey(SpecSheet, on_delete=models.PROTECT, related_name="versions")
    number = models.PositiveIntegerField()
    at = models.DateTimeField()
    by = models.CharField(max_length=120)
    # As plain data, like a job's own copy.
    plain = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sheet", "number"], name="version_once_per_sheet")]
        ordering = ["-number"]


class SpecValue(models.Model):
    """One value of a sheet, as it was typed, with where it comes from."""

    sheet = models.ForeignKey(SpecSheet, on_delete=models.CASCADE, related_name="values")
    key = models.CharField(max_length=40)
    low = models.DecimalField(max_digits=12, decimal_places=5, null=True, blank=True)
    high = models.DecimalField(max_digits=12, decimal_places=5, null=True, blank=True)
    unit = models.CharField(max_length=12)
    source = models.CharField(max_length=20)
    note = models.CharField(max_length=160, blank=True)
    # How far off one figure may be, where low and high are the same.
    tolerance = models.DecimalField(max_digits=12, decimal_places=5, null=True, blank=True)
    # What another manual gives for the same, as plain data like this row; and which of the two holds.
    second = models.JSONField(default=dict, blank=True)
    in_force = models.CharField(max_length=6, default="first")
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sheet", "key"], name="value_once_per_sheet")]
