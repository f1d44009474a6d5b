"""Who works in which shop. Every other record belongs to a shop, and nobody sees another's."""

import uuid
from typing import Any, Self

from django.contrib.auth.models import AbstractUser
from django.db import models
from simple_history.models import HistoricalRecords


class Units(models.TextChoices):
    """The units a person reads and types in."""

    THOU = "thou", "thou, in·lb, ft·lb"
    MM = "mm", "mm, N·m"


class SecondFactor(models.TextChoices):
    """Who signs in with a time code beside the password."""

    OPTIONAL = "optional", "whoever wants to"
    OWNERS = "owners", "every owner"
    ALL = "all", "everybody"


class Shop(models.Model):
    """A workshop: the fence around its people, jobs, sheets and shims."""

    # What tells this shop from every other, here and in files.
    identity = models.UUIDField(default=uuid.uuid4, editable=False, unique=True)
    name = models.CharField(max_length=80)
    place = models.CharField(max_length=80, blank=True)
    next_job_number = models.PositiveIntegerField(default=1)
    # School of carrier preload by what positions the carrier: what this shop usually does.
    schools = models.JSONField(default=dict, blank=True)
    # What this shop calls the carrier's two sides, beside ring and far, left and right.
    ring_side_name = models.CharField(max_length=30, blank=True)
    far_side_name = models.CharField(max_length=30, blank=True)
    second_factor = models.CharField(max_length=8, choices=SecondFactor, default=SecondFactor.OPTIONAL)
    # Tools, gauges and stands of axle/procedure/data/tools.toml that this shop has: no job asks for them.
    tools_owned = models.JSONField(default=list, blank=True)
    # The units in which a person let in begins; each may choose others.
    units = models.CharField(max_length=4, choices=Units, default=Units.THOU)
    currency = models.CharField(max_length=3, default="EUR")
    time_zone = models.CharField(max_length=40, default="UTC")
    # Under this chance in % that all is in range the advice names what would settle it before anybody
    # signs.
    sign_at = models.DecimalField(max_digits=3, decimal_places=1, default="95.0")
    # The made-up shop: it can be set back to how it began, or removed.
    is_demo = models.BooleanField(default=False)
    # Removed: nobody signs in any more; what was written down stays in the database.
    removed_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    """What a person may do: see ``rules.py``."""

    OWNER = "owner", "owner"
    BUILDER = "builder", "builder"
    APPRENTICE = "apprentice", "apprentice"


class FootSwitch(models.TextChoices):
    """Keys that a foot switch may send and nobody types."""

    NONE = "", "none"
    PAGE_DOWN = "PageDown", "Page Down (no longer: station after)"
    PAUSE = "Pause", "Pause"
    SCROLL = "ScrollLock", "Scroll Lock"
    F13 = "F13", "F13"


class User(AbstractUser):
    """A person who signs in; belongs to one shop."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=12, choices=Role, default=Role.APPRENTICE)
    units = models.CharField(max_length=4, choices=Units, default=Units.THOU)
    # The key that this person's foot switch sends: takes a reading, pressed again stores it.
    foot_switch = models.CharField(max_length=12, choices=FootSwitch, default=FootSwitch.NONE, blank=True)

    # Somebody else knows the password: it has to be changed before anything else.
    must_change_password = models.BooleanField(default=False)
    # The password was made by the owner and lets in once.
    password_once = models.BooleanField(default=False)
    # A device that makes time codes is set up and confirmed.
    has_second_factor = models.BooleanField(default=False)

    @property
    def called(self) -> str:
        """The name that stands beside a reading."""
        return self.get_full_name() or self.username


class SignIn(models.Model):
    """One time that somebody signed in, on one browser, until it ended."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="sign_ins")
    at = models.DateTimeField()
    seen_at = models.DateTimeField()
    address = models.CharField(max_length=45, blank=True)
    program = models.CharField(max_length=200, blank=True)
    # The browser's own mark, kept on it for a year: it tells a known browser from a strange one.
    browser = models.UUIDField(null=True)
    ended_at = models.DateTimeField(null=True)
    ended_by = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["-seen_at"]
        indexes = [models.Index(fields=["user", "browser"])]


class BackupMade(models.Model):
    """A backup of the whole installation, as the program that made it said."""

    at = models.DateTimeField()
    name = models.CharField(max_length=200)
    size = models.BigIntegerField()

    class Meta:
        ordering = ["-at"]


class ShopTerms(models.Model):
    """How a shop works and what it asks for it: hours, machines, rates."""

    shop = models.OneToOneField(Shop, on_delete=models.CASCADE, related_name="terms")
    # Hours of a day by weekday, "0" Monday to "6", as typed.
    week = models.JSONField(default=dict)
    # Country and region whose public holidays are free, as ISO 3166 names them; none where empty.
    country = models.CharField(max_length=2, blank=True)
    region = models.CharField(max_length=10, blank=True)
    # How many there are by machine of axle/procedure/data/flow.toml; what is not named is as usual.
    machines = models.JSONField(default=dict, blank=True)
    # Price of an hour by role, as text.
    rates = models.JSONField(default=dict, blank=True)
    margin = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    consumables = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    tax = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    deposit = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    # Asked for a set-up in place of its hours; nothing where hours are charged.
    set_up = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    # What stands under every estimate: what is not included.
    not_included = models.CharField(max_length=400, blank=True)
    # Below this chance in % a promise is called risky.
    promise_at = models.PositiveSmallIntegerField(default=80)
    history = HistoricalRecords()


class PersonHours(models.Model):
    """When one person works, where that is not as the shop does, and what the person is planned for."""

    user = models.OneToOneField(User, on_delete=models.CASCADE, related_name="hours")
    # As the shop's week; empty where the shop's holds.
    week = models.JSONField(default=dict, blank=True)
    # Stations of axle/procedure/data/stations.toml, or "all"; empty where the role's usual holds.
    may = models.JSONField(default=list, blank=True)
    # Not planned at all: an owner who only keeps the books.
    planned = models.BooleanField(default=True)
    history = HistoricalRecords()


class Absence(models.Model):
    """Days on which a person is away."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="absences")
    first = models.DateField()
    last = models.DateField()
    reason = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = ["first"]


class ShopQuerySet(models.QuerySet[Any]):
    """Rows that belong to a shop; a query without a shop is a mistake outside migrations."""

    def of(self, shop: Shop | None) -> Self:
        """Only the rows of one shop; none for a person without a shop."""
        return self.filter(shop=shop) if shop is not None else self.none()


class ShopOwned(models.Model):
    """A row inside a shop's fence."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="+")

    objects = ShopQuerySet.as_manager()

    class Meta:
        abstract = True
