"""What signed jobs show of their shop, gathered where it was never asked."""

from __future__ import annotations

from django.db.models import QuerySet

from shop.jobs import learned, loading
from shop.jobs.models import Job
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Right


def waiting(shop: Shop | None) -> int:
    """How many signed jobs of a shop were never asked what they show: signed before figures were kept."""
    return _unasked(shop).count()


def gather(user: User) -> int:
    """Ask every signed job of a shop what it shows that was not asked yet; gives how many it was."""
    rules.require_right(user, Right.SHOP)
    found = list(_unasked(user.shop))
    for job in found:
        learned.keep(job, loading.load(job).state)
    return len(found)


def _unasked(shop: Shop | None) -> QuerySet[Job]:
    return Job.objects.filter(shop=shop, practice=False, state=Job.State.SIGNED, figures=None)
