"""Numbered trial builds, what is in each, and the moves between them."""

from typing import Self

from django.db import models
from simple_history.models import HistoricalRecords

from shop.jobs.models.append_only import AppendOnly
from shop.jobs.models.job import Job, Place
from shop.people.models import User
from shop.stock.models import ShimLot


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


class Fit(AppendOnly):
    """One change of what is in an axle: packs, adjusters, or a part that is counted.

    ``before`` and ``after`` hold, of the places that changed, ``packs`` as [lot, thickness] piece by piece
    and ``set`` values; nothing stands where a place was empty.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="fits")
    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="fits")
    note = models.CharField(max_length=200, blank=True)
    before = models.JSONField(default=dict)
    after = models.JSONField(default=dict)
    undoes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="undone_by")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry"], name="fit_stored_once")]
        ordering = ["id"]


class MoveQuerySet(models.QuerySet["Move"]):
    """Moves of jobs."""

    def standing(self) -> Self:
        """Those that were not taken back."""
        return self.filter(fit__undone_by=None)


class Move(models.Model):
    """A recommended change, what was expected of it, and what came of it."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="moves")
    assembly = models.ForeignKey(Assembly, on_delete=models.PROTECT, related_name="moves")
    # What was fitted for it; a move whose fit was undone is taken back.
    fit = models.OneToOneField(Fit, on_delete=models.PROTECT, null=True, related_name="move")
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
    from_file = models.BooleanField(default=False)
    history = HistoricalRecords()

    objects = MoveQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
