"""Pictures: nothing tells a place, nothing is decoded past its bounds. Files are built by hand from the
markers of ITU-T T.81 (JPEG), the chunks of ISO/IEC 15948 (PNG) and tags of Exif 2.3."""

from __future__ import annotations

import io
import struct
import subprocess
import sys
import zlib

import pytest
from PIL import Image

from axle.errors import AxleError
from shop.jobs.actions.photos import cleaned

_GPS = 0x8825
PLACE = b"47.0512 N 11.0851 E"


def jpeg(size=(64, 48), exif: Image.Exif | None = None, colour=(90, 120, 60)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, "JPEG", exif=exif.tobytes() if exif else b"")
    return out.getvalue()


def located() -> Image.Exif:
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x0132] = "2026:03:02 09:15:00"
    exif.get_ifd(_GPS).update({1: "N", 2: (47.0, 3.0, 4.0), 3: "E", 4: (11.0, 5.0, 6.0)})
    return exif


def segment(marker: int, body: bytes) -> bytes:
    return bytes((0xFF, marker)) + struct.pack(">H", len(body) + 2) + body


def with_segments(*segments: bytes) -> bytes:
    raw = jpeg(exif=located())
    return raw[:2] + b"".join(segments) + raw[2:]


@pytest.mark.parametrize(
    "raw",
    [
        jpeg(exif=located()),
        with_segments(segment(0xE1, b"http://ns.adobe.com/xap/1.0/\0" + PLACE)),
        with_segments(segment(0xED, PLACE)),
        with_segments(segment(0xFE, PLACE)),
        with_segments(segment(0xE5, PLACE)),
        # Any number of fill bytes may stand before a marker (T.81, B.1.1.2).
        with_segments(b"\xff\xff\xff" + segment(0xE1, PLACE)[0:1] + segment(0xE1, PLACE)[1:]),
        with_segments(b"\xff" + segment(0xE2, b"FPXR\0" + PLACE)),
        # A second picture, and anything else, after the end of the first.
        jpeg(exif=located()) + jpeg(exif=located()),
        jpeg() + PLACE,
    ],
    ids=["gps", "xmp", "iptc", "comment", "app5", "fill", "app2", "second", "trailer"],
)
def test_no_place_survives_in_a_jpeg(raw):
    kept = cleaned(raw).original
    assert PLACE not in kept
    assert not Image.open(io.BytesIO(kept)).getexif().get_ifd(_GPS)
    assert kept.count(b"\xff\xd8\xff") == 1
    assert kept.endswith(b"\xff\xd9")


def test_points_time_and_the_way_up_stay():
    raw = jpeg((64, 48), located())
    kept = cleaned(raw)
    before, after = Image.open(io.BytesIO(raw)), Image.open(io.BytesIO(kept.original))
    assert before.tobytes() == after.tobytes()
    assert after.getexif()[0x0112] == 6
    assert after.getexif()[0x0132] == "2026:03:02 09:15:00"
    assert (kept.width, kept.height) == (48, 64)


def test_a_cleaned_file_is_cleaned_to_itself():
    once = cleaned(jpeg(exif=located())).original
    assert cleaned(once).original == once


def test_a_progressive_jpeg_keeps_every_scan():
    out = io.BytesIO()
    Image.effect_noise((200, 160), 60).convert("RGB").save(out, "JPEG", progressive=True)
    raw = out.getvalue()
    kept = cleaned(raw).original
    assert Image.open(io.BytesIO(kept)).tobytes() == Image.open(io.BytesIO(raw)).tobytes()


def test_the_first_of_several_pictures_is_taken():
    """A multi-picture file, as phones make them (CIPA DC-007): the first is the photo."""
    out = io.BytesIO()
    first = Image.new("RGB", (64, 48), (200, 30, 30))
    first.save(out, "MPO", save_all=True, append_images=[Image.new("RGB", (64, 48), (30, 30, 200))])
    kept = cleaned(out.getvalue())
    assert kept.suffix == "jpg"
    red, _, blue = Image.open(io.BytesIO(kept.original)).convert("RGB").getpixel((5, 5))
    assert red > 150 > blue


def png(width: int, height: int, chunks: bytes = b"", *, grey: bool = True) -> bytes:
    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 0 if grey else 6, 0, 0, 0))
    line = b"\0" * (1 + width * (1 if grey else 4))
    packer = zlib.compressobj(9)
    data = b"".join(packer.compress(line) for _ in range(height)) + packer.flush()
    return b"\x89PNG\r\n\x1a\n" + head + chunks + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


@pytest.mark.parametrize(
    "notes",
    [
        chunk(b"tEXt", b"Comment\0" + PLACE),
        chunk(b"iTXt", b"XML:com.adobe.xmp\0\0\0\0\0" + PLACE),
        chunk(b"eXIf", b"this is no TIFF at all"),
        chunk(b"eXIf", located().tobytes().removeprefix(b"Exif\0\0")),
    ],
    ids=["text", "xmp", "broken", "gps"],
)
def test_no_place_survives_in_a_png(notes):
    kept = cleaned(png(40, 30, notes)).original
    assert PLACE not in kept
    assert not Image.open(io.BytesIO(kept)).getexif().get_ifd(_GPS)


def test_no_place_survives_in_a_webp():
    out = io.BytesIO()
    Image.new("RGB", (40, 30)).save(out, "WEBP", exif=located().tobytes(), xmp=PLACE)
    assert PLACE in out.getvalue()
    kept = cleaned(out.getvalue()).original
    assert PLACE not in kept
    assert not Image.open(io.BytesIO(kept)).getexif().get_ifd(_GPS)


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (png(20_000, 100), "at most 16000 a side"),
        (png(8000, 7000), "at most 50 million"),
        (png(7200, 7200, grey=False), "at most 50 million"),
    ],
)
def test_too_large_a_picture_is_refused_by_its_head(raw, said):
    with pytest.raises(AxleError, match=said):
        cleaned(raw)


def test_a_small_file_of_many_points_costs_a_bounded_share_of_memory(tmp_path):
    """Some 50 kB of 49 million grey points: once 1.5 GB; measured in a process of its own."""
    file = tmp_path / "large.png"
    file.write_bytes(png(7000, 7000))
    assert file.stat().st_size < 100_000
    program = (
        "import sys, resource, django; django.setup()\n"
        "from shop.jobs.actions.photos import cleaned\n"
        "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "cleaned(open(sys.argv[1], 'rb').read())\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)"
    )
    done = subprocess.run(
        [sys.executable, "-c", program, str(file)], capture_output=True, text=True, check=True
    )
    assert int(done.stdout) < 400 * 1024  # kilobytes
