"""Picture files as cameras make them: opened within bounds, cleaned of everything that tells a place.

A file is rebuilt from the parts that draw the picture; what is not known to be one of these is left out.
"""

from __future__ import annotations

import io
import re
import struct
import threading
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

from PIL import Image, UnidentifiedImageError

from axle.errors import AxleError

LARGEST_FILE: Final = 20 * 1024 * 1024
LONGEST_SIDE: Final = 16_000
# Most points by format: WebP is decoded with a canvas and a frame beside the picture.
MOST_POINTS: Final = {"JPEG": 50_000_000, "PNG": 50_000_000, "WEBP": 24_000_000}
_MOST_BYTES: Final = 200_000_000
SUFFIXES: Final = {"JPEG": "jpg", "PNG": "png", "WEBP": "webp"}
# Several pictures in one file, as some phones make them: the first is the photo.
_AS_JPEG: Final = {"MPO": "JPEG"}
_BYTES_A_POINT: Final = {"1": 1, "L": 1, "P": 1, "LA": 2, "I;16": 2, "RGB": 3, "YCbCr": 3}

_FOCAL: Final = 0xA405
_ORIENTATION, _TAKEN_AT, _CAMERA_NOTES, _TAKEN_AT_CAMERA = 0x0112, 0x0132, 0x8769, 0x9003
_TIME: Final = re.compile(r"\d{4}:\d\d:\d\d \d\d:\d\d:\d\d", re.ASCII)

# A large picture takes hundreds of megabytes while it is decoded: one at a time in each process.
_decoding = threading.Lock()


@contextmanager
def opened(raw: bytes) -> Iterator[tuple[Image.Image, str]]:
    """Open and decode a picture; nothing else is decoded meanwhile.

    :param raw: the file.
    :raises AxleError: for what is no picture, breaks off, or is larger than any camera's.
    """
    with _decoding:
        yield _decoded(raw)


def _decoded(raw: bytes) -> tuple[Image.Image, str]:
    with warnings.catch_warnings():
        warnings.simplefilter("error", Image.DecompressionBombWarning)
        try:
            picture = Image.open(io.BytesIO(raw))
            kind = _AS_JPEG.get(picture.format or "", picture.format or "")
            if kind not in SUFFIXES:
                raise AxleError("photo", given=f"a {kind or 'unknown'} file", wanted="JPEG, PNG or WebP")
            _check_size(picture, kind)
            picture.load()
        except UnidentifiedImageError:
            raise AxleError(
                "photo", given="a file that is no picture", wanted="JPEG, PNG or WebP"
            ) from None
        except (Image.DecompressionBombWarning, Image.DecompressionBombError):
            raise _too_large("too many points", "JPEG") from None
        except AxleError:
            raise
        except Exception:  # noqa: BLE001 - a broken file raises whatever its decoder meets first
            raise AxleError(
                "photo",
                given="a picture that breaks off",
                wanted="a whole file",
                do="Take or send it again.",
            ) from None
    return picture, kind


def _check_size(picture: Image.Image, kind: str) -> None:
    """Refuse by what the head of the file says, before anything is decoded."""
    width, height = picture.size
    shown = f"{width} × {height} points"
    if (
        width * height > MOST_POINTS[kind]
        or width * height * _BYTES_A_POINT.get(picture.mode, 4) > _MOST_BYTES
    ):
        raise _too_large(shown, kind)
    if max(width, height) > LONGEST_SIDE:
        raise AxleError(
            "photo",
            given=shown,
            wanted=f"at most {LONGEST_SIDE} a side",
            do="Set the camera to a smaller picture.",
        )


def _too_large(given: str, kind: str) -> AxleError:
    return AxleError(
        "photo",
        given=given,
        wanted=f"at most {MOST_POINTS[kind] // 1_000_000} million",
        do="Set the camera to a smaller picture.",
    )


def without_location(raw: bytes, picture: Image.Image, kind: str) -> bytes:
    """The file with its points untouched, and of its notes only which way is up and when it was taken.

    :param raw: the file.
    :param picture: the same, opened.
    :param kind: "JPEG", "PNG" or "WEBP".
    :source: ITU-T T.81 annex B for the markers of a JPEG file; Exif 2.3 for the notes.
    """
    notes = _notes(picture)
    if kind == "JPEG":
        return _jpeg_with(raw, notes)
    out = io.BytesIO()
    more = {"lossless": True, "quality": 100, "xmp": b""} if kind == "WEBP" else {}
    picture.save(out, kind, exif=notes, **more)
    return out.getvalue()


def _notes(picture: Image.Image) -> bytes:
    """Notes made anew of the few that are wanted; a camera's own may hide a place anywhere."""
    kept = Image.Exif()
    try:
        found = picture.getexif()
        up = found.get(_ORIENTATION)
        taken = found.get_ifd(_CAMERA_NOTES).get(_TAKEN_AT_CAMERA) or found.get(_TAKEN_AT)
    except Exception:  # noqa: BLE001 - notes that cannot be read are left out, whatever is wrong with them
        up = taken = None
    if isinstance(up, int) and 1 <= up <= 8:
        kept[_ORIENTATION] = up
    if isinstance(taken, str) and _TIME.fullmatch(taken):
        kept[_TAKEN_AT] = taken
    return kept.tobytes() if len(kept) else b""


def focal_length(picture: Image.Image) -> int | None:
    """Focal length as on a 35 mm film that a file tells [mm], or None.

    :param picture: the file, opened.
    :source: Exif 2.3, tag 0xA405.
    """
    try:
        told = int(picture.getexif().get_ifd(_CAMERA_NOTES).get(_FOCAL) or 0)
    except Exception:  # noqa: BLE001 - notes that cannot be read tell nothing
        return None
    return told if 8 <= told <= 500 else None


_EOI, _SOS = 0xD9, 0xDA
# Markers without a length behind them: the start of a picture, and one that is reserved.
_NO_SEGMENT: Final = frozenset({0xD8, 0x01})
# What draws the picture: frames, tables, restart interval, scans; every other segment is left out.
_DRAWS: Final = frozenset({*range(0xC0, 0xD0), 0xDB, 0xDC, 0xDD, 0xDE, 0xDF, _SOS}) - {0xC8}
# Of the application's own segments these belong to the picture: what they begin with, by marker.
_BELONGS: Final = {0xE0: b"JFIF\0", 0xE2: b"ICC_PROFILE\0", 0xEE: b"Adobe"}
# In a scan 0xFF stands before 0x00, a restart marker or fill; anything else ends it.
_END_OF_SCAN: Final = re.compile(rb"\xff+([^\x00\xd0-\xd7\xff])", re.DOTALL)


def _jpeg_with(raw: bytes, notes: bytes) -> bytes:
    """The first picture of a JPEG file, segment by segment, with notes of ours."""
    kept = [b"\xff\xd8"]
    if notes:
        body = notes if notes.startswith(b"Exif\0\0") else b"Exif\0\0" + notes
        kept.append(b"\xff\xe1" + struct.pack(">H", len(body) + 2) + body)
    place = 2
    while True:
        found = _END_OF_SCAN.search(raw, place)
        # Before a marker nothing but fill may stand, and fill is not kept.
        if found is None or found[1][0] == _EOI:
            break
        marker, place = found[1][0], found.end()
        if marker in _NO_SEGMENT:
            continue
        length = int.from_bytes(raw[place : place + 2], "big")
        if length < 2 or place + length > len(raw):
            break
        segment = raw[place : place + length]
        place += length
        if marker in _DRAWS or segment[2:].startswith(_BELONGS.get(marker, b"\xff\xff\xff")):
            kept += [bytes((0xFF, marker)), segment]
        if marker == _SOS:
            end = _END_OF_SCAN.search(raw, place)
            stop = end.start() if end else len(raw)
            kept.append(raw[place:stop])
            place = stop
    kept.append(b"\xff\xd9")
    return b"".join(kept)
