"""Photos: checked, turned upright, stripped of where they were taken; the original is kept."""

import io
import uuid
from dataclasses import dataclass
from typing import IO, cast

import numpy as np
from django.core.files.base import ContentFile
from PIL import Image, ImageOps

from axle.errors import AxleError
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.models import Job, Photo
from shop.jobs.picture_files import LARGEST_FILE, SUFFIXES, focal_length, opened, without_location
from shop.people.models import User

_SHOWN = (1600, 1600)


@dataclass(frozen=True)
class Picture:
    """A photo as it is kept.

    :param original: the file without its location.
    :param shown: a smaller upright copy for pages, JPEG.
    :param suffix: of the original's name.
    :param width: of the upright original, in points.
    :param height: the same.
    :param focal: focal length as on a 35 mm film [mm], where the file tells it.
    """

    original: bytes
    shown: bytes
    suffix: str
    width: int
    height: int
    focal: int | None


def keep(
    user: User,
    job: Job,
    version: int,
    step: str,
    file: IO[bytes],
    size: int,
    entry: uuid.UUID,
    caption: str = "",
) -> Photo:
    """Keep a photo on a step."""
    known = Photo.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if size > LARGEST_FILE:
        raise AxleError(
            "photo",
            given=f"{size / 1e6:.0f} MB",
            wanted=f"at most {LARGEST_FILE // 1_000_000} MB",
            do="Set the camera to a smaller picture.",
        )
    picture = cleaned(file.read(LARGEST_FILE + 1))
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        name = axle.plan.find(step).title
        photo = Photo(
            job=change.job,
            step=step,
            caption=caption.strip()[:200],
            name=f"{step}.{picture.suffix}",
            width=picture.width,
            height=picture.height,
            focal=picture.focal,
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )
        photo.original.save(f"original.{picture.suffix}", ContentFile(picture.original), save=False)
        photo.shown.save("shown.jpg", ContentFile(picture.shown), save=False)
        photo.save()
        change.what = f"kept a photo at “{name.lower()}”"
    return photo


def cleaned(raw: bytes) -> Picture:
    """A photo's file, checked, without its location, and with the copy that pages show.

    :raises AxleError: for a file that is no picture, or larger than any camera's.
    """
    with opened(raw) as (picture, kind):
        original, focal = without_location(raw, picture, kind), focal_length(picture)
        turned = picture.getexif().get(0x0112, 1) in (5, 6, 7, 8) if _has_notes(picture) else False
        width, height = picture.size[::-1] if turned else picture.size
        # Made small before it is turned and converted: each of these is a copy of the whole.
        picture.thumbnail(_SHOWN)
        upright = _upright(picture).convert("RGB")
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=85)
    return Picture(original, out.getvalue(), SUFFIXES[kind], width, height, focal)


def _has_notes(picture: Image.Image) -> bool:
    try:
        picture.getexif()
    except Exception:  # noqa: BLE001 - notes that cannot be read are as none
        return False
    return True


def _upright(picture: Image.Image) -> Image.Image:
    return ImageOps.exif_transpose(picture) if _has_notes(picture) else picture


def original(photo: Photo) -> IO[bytes]:
    """The file as it came from the camera, less its location.

    :raises AxleError: where the storage has lost it.
    """
    try:
        return cast(IO[bytes], photo.original.open("rb"))
    except OSError:
        raise AxleError(
            "photo",
            given=f"{photo.name}, whose file is gone from the storage",
            wanted="its file",
            do="Bring the media folder back from its backup.",
        ) from None


def pixels(photo: Photo) -> np.ndarray:
    """The original as it was taken, upright: shape (height, width, 3), 0 to 255."""
    with original(photo) as file, opened(file.read()) as (picture, _):
        return np.asarray(_upright(picture).convert("RGB"))
