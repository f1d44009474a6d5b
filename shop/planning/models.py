"""What people settled about the plan: pins, the plan in force, and links to calendars."""

from django.db import models

from shop.jobs.models import Job
from shop.people.models import ShopOwned, User


class Pin(ShopOwned):
    """A stretch of work that somebody put at a time, or gave to a person."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="pins")
    # The first step of the stretch.
    step = models.CharField(max_length=40)
    person = models.ForeignKey(User, on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    starts_at = models.DateTimeField(null=True, blank=True)
    by = models.CharField(max_length=120)
    at = models.DateTimeField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["job", "step"], name="one_pin_for_a_stretch")]


class KeptPlan(models.Model):
    """The plan in force: a list of priorities, followed from where the work really stands."""

    shop = models.OneToOneField("people.Shop", on_delete=models.CASCADE, related_name="plan")
    made_at = models.DateTimeField()
    by = models.CharField(max_length=120)
    # [[stretch, user name], ...] in the order of the plan.
    sequence = models.JSONField(default=list)
    # What the solver said: cost, the simple rule's, whether it was cut off, seconds.
    found = models.JSONField(default=dict)
    version = models.PositiveIntegerField(default=1)


class CalendarLink(ShopOwned):
    """A secret address at which a calendar program reads the plan; withdrawn, it is gone."""

    # Whose work it shows; the whole shop's where nobody is named.
    person = models.ForeignKey(User, on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    secret = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()
    made_by = models.CharField(max_length=120)
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-id"]
