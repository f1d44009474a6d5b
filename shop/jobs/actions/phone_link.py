"""A link for a phone: whoever has it adds photos of a print to one job, for an hour, and nothing else."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import IO, Final

from django.core import signing
from django.core.exceptions import ObjectDoesNotExist
from django.db.models import Q

from shop.jobs import clock
from shop.jobs.actions import photos
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.models import Job, Photo
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right

GOOD_FOR: Final = timedelta(hours=1)
_SALT: Final = "photos-by-phone"
_TRIES: Final = 3
_OVER: Final = "This link is over, or not whole. Have a new square code shown at the bench."


@dataclass(frozen=True)
class PhoneLink:
    """What a link is good for.

    :param user: who showed it: its photos are kept under that name.
    :param job: the only job that it reaches.
    """

    user: User
    job: Job


def made_for(user: User, job: Job) -> tuple[str, datetime]:
    """A link's secret part, and until when it is good.

    :raises Rejected: where the person may not measure.
    """
    rules.require_right(user, Right.MEASURE, practice=job.practice)
    told = {"user": user.pk, "job": job.pk}
    return signing.dumps(told, salt=_SALT), clock.now() + GOOD_FOR


def opened(secret: str) -> PhoneLink:
    """What a link's secret part is good for now.

    :raises Rejected: where it is over, was changed, or who showed it has left.
    """
    try:
        told = signing.loads(secret, salt=_SALT, max_age=GOOD_FOR)
        user = User.objects.get(pk=told["user"], is_active=True)
        job = Job.objects.get(Q(pk=told["job"]) & Q(shop=user.shop))
    except (signing.BadSignature, ObjectDoesNotExist, KeyError, TypeError):
        raise Rejected(_OVER) from None
    rules.require_right(user, Right.MEASURE, practice=job.practice)
    return PhoneLink(user, job)


def add_photo(link: PhoneLink, step: str, file: IO[bytes], size: int, entry: uuid.UUID) -> Photo:
    """Keep a photo that came by the link; somebody at the bench may be writing at the same moment."""
    caption = f"print, by a phone's link that {link.user.called} showed"
    for attempt in range(_TRIES):
        link.job.refresh_from_db()
        file.seek(0)
        try:
            return photos.keep(link.user, link.job, link.job.version, step, file, size, entry, caption)
        except VersionConflict:
            if attempt == _TRIES - 1:
                raise
    raise AssertionError("the last try answers or raises")
