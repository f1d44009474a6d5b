"""Photos: checked, turned upright, stripped of where they were taken; the original is kept."""

import io
import struct
import uuid
import warnings
from typing import IO, cast

import numpy as np
from django.core.files.base import ContentFile
from PIL import Image, ImageOps, UnidentifiedImageError

from axle.errors import AxleError
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.models import Job, Photo
from shop.people.models import User

LARGEST_FILE = 20 * 1024 * 1024
MOST_PIXELS = 50_000_000
_SHOWN = (1600, 1600)
_FORMATS = {"JPEG": "jpg", "PNG": "png", "WEBP": "webp"}
_GPS = 0x8825


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
    raw = file.read(LARGEST_FILE + 1)
    picture, kind = _open(raw)
    original = without_location(raw, picture, kind)
    shown, width, height = _shown(picture)
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        name = axle.plan.find(step).title
        photo = Photo(
            job=change.job,
            step=step,
            caption=caption.strip()[:200],
            name=f"{step}.{_FORMATS[kind]}",
            width=width,
            height=height,
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )
        photo.original.save(f"original.{_FORMATS[kind]}", ContentFile(original), save=False)
        photo.shown.save("shown.jpg", ContentFile(shown), save=False)
        photo.save()
        change.what = f"kept a photo at “{name.lower()}”"
    return photo


def without_location(raw: bytes, picture: Image.Image, kind: str) -> bytes:
    """The file as it was, without its location: pixels are not touched."""
    exif = picture.getexif()
    exif.pop(_GPS, None)
    if kind == "JPEG":
        return _jpeg_with(raw, exif.tobytes())
    out = io.BytesIO()
    more = {"lossless": True, "quality": 100} if kind == "WEBP" else {}
    picture.save(out, kind, exif=exif.tobytes(), **more)
    return out.getvalue()


def copy_for_page(raw: bytes) -> tuple[bytes, str]:
    """The upright copy of a photo that a page shows, and the suffix of its original."""
    picture, kind = _open(raw)
    return _shown(picture)[0], _FORMATS[kind]


def _open(raw: bytes) -> tuple[Image.Image, str]:
    with warnings.catch_warnings():
        warnings.simplefilter("error", Image.DecompressionBombWarning)
        try:
            picture = Image.open(io.BytesIO(raw))
            kind = picture.format or ""
            if kind not in _FORMATS:
                raise AxleError("photo", given=f"a {kind or 'unknown'} file", wanted="JPEG, PNG or WebP")
            if picture.width * picture.height > MOST_PIXELS:
                raise AxleError(
                    "photo",
                    given=f"{picture.width} × {picture.height} points",
                    wanted=f"at most {MOST_PIXELS // 1_000_000} million",
                    do="Set the camera to a smaller picture.",
                )
            picture.load()
        except UnidentifiedImageError:
            raise AxleError(
                "photo", given="a file that is no picture", wanted="JPEG, PNG or WebP"
            ) from None
        except (Image.DecompressionBombWarning, Image.DecompressionBombError):
            raise AxleError(
                "photo",
                given="too many points",
                wanted=f"at most {MOST_PIXELS // 1_000_000} million",
                do="Set the camera to a smaller picture.",
            ) from None
        except (OSError, SyntaxError, ValueError, struct.error) as problem:
            if isinstance(problem, AxleError):
                raise
            raise AxleError(
                "photo",
                given="a picture that breaks off",
                wanted="a whole file",
                do="Take or send it again.",
            ) from None
    return picture, kind


def _shown(picture: Image.Image) -> tuple[bytes, int, int]:
    """A copy for the page: upright, at most 1600 points a side, without any of the camera's notes."""
    upright = ImageOps.exif_transpose(picture).convert("RGB")
    width, height = upright.size
    upright.thumbnail(_SHOWN)
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=85)
    return out.getvalue(), width, height


def _jpeg_with(raw: bytes, exif: bytes) -> bytes:
    """A JPEG with its notes replaced: every APP1 (Exif, XMP) and APP13 out, one Exif in."""
    place, kept = 2, [raw[:2]]
    if exif:
        body = exif if exif.startswith(b"Exif\0\0") else b"Exif\0\0" + exif
        kept.append(b"\xff\xe1" + struct.pack(">H", len(body) + 2) + body)
    while place + 4 <= len(raw) and raw[place] == 0xFF:
        marker = raw[place + 1]
        if marker == 0xDA:  # the picture itself begins: everything from here on is kept
            break
        length = struct.unpack(">H", raw[place + 2 : place + 4])[0]
        if marker not in (0xE1, 0xED):
            kept.append(raw[place : place + 2 + length])
        place += 2 + length
    return b"".join([*kept, raw[place:]])


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
    with original(photo) as file:
        picture, _ = _open(file.read())
    return np.asarray(ImageOps.exif_transpose(picture).convert("RGB"))
