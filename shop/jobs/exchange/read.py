"""A job file taken in: whole, or refused whole."""

import hashlib
import json
import logging
import lzma
import math
import zipfile
import zlib
from collections.abc import Mapping
from decimal import Decimal
from typing import IO, Any, NoReturn

import msgspec
from django.core.files.base import ContentFile
from django.db import DataError, transaction

from axle.errors import AxleError
from shop.jobs import chain, loading, noted_lines, numbers
from shop.jobs.actions import photos
from shop.jobs.exchange import seal
from shop.jobs.exchange.check import check_file
from shop.jobs.exchange.file_models import About
from shop.jobs.exchange.ledger_rows import read_ledger
from shop.jobs.exchange.row_tables import (
    MOVES,
    NOTED,
    OF_JOB,
    PATTERNS,
    PHOTOS,
    PRINTS,
    READINGS,
    RowTable,
    day,
    moment,
    refuse,
    usual,
)
from shop.jobs.exchange.write import JOB_NAME
from shop.jobs.models import Assembly, Job, Move, PackPiece, Pattern, Photo, Position, PrintMade, Reading
from shop.jobs.picture_files import LARGEST_FILE as LARGEST_PHOTO
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right
from shop.vehicles import services as vehicles

# The largest job of a demo shop is some 30 kB; ten years of readings on one axle stay under 1 MB.
LARGEST_FILE = 4 * 1024 * 1024
LARGEST_ARCHIVE = 256 * 1024 * 1024
# What rows raise that no job could have written, each by itself in order.
_UNFIT = (TypeError, KeyError, IndexError, AttributeError, ArithmeticError, DataError)
_log = logging.getLogger(__name__)
_ZIP = b"PK\x03\x04"
# What of the job is made by the shop that takes it in, or kept in parts.
_NOT_AS_GIVEN = frozenset({"number", "mark", "arrived_on", "promised_on", "vehicle"})


def read_job(user: User, file: IO[bytes], size: int) -> tuple[Job, bool]:
    """Take a job file in; says whether the job keeps its number.

    :raises AxleError: naming the place of the first thing that cannot be used; nothing is kept.
    """
    rules.require_right(user, Right.IMPORT)
    readable = size <= LARGEST_FILE or _is_archive(file)
    text, pack = unpack(file, size, LARGEST_FILE) if readable else (b"", None)
    data = _parse(text, len(text) if pack else size)
    check_file(data)
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    with transaction.atomic():
        locked_shop = numbers.locked(user.shop)
        number = numbers.number_from_file(locked_shop, data["job"]["number"])
        try:
            job = _make(user, locked_shop, data, number)
            for given in data.get("photos", []):
                _make_photo(user, job, given, pack)
            chain.extend(job)
            axle = loading.load(job)
            job.summary = loading.summary(axle)
            job.check_due = noted_lines.check_due(job)
            job.save()
        except _UNFIT:
            _log.exception("A job file passed its check and cannot be used.")
            raise AxleError(
                "job file",
                given="records that do not fit together",
                wanted="a file as a Lash job was written to it",
                do="Nothing was taken in.",
            ) from None
    return job, number == data["job"]["number"]


def unpack(file: IO[bytes], size: int, largest: int) -> tuple[bytes, zipfile.ZipFile | None]:
    """The job file's text, and the archive it came in, if it came in one.

    :raises AxleError: for an archive that is too large or has no job file in it.
    """
    head = file.read(4)
    file.seek(0)
    if head != _ZIP:
        return file.read(largest + 1), None
    if size > LARGEST_ARCHIVE:
        raise AxleError(
            "job file", given=f"{size / 1e6:.0f} MB", wanted=f"at most {LARGEST_ARCHIVE // 1_000_000} MB"
        )
    try:
        pack = zipfile.ZipFile(file)
        info = pack.getinfo(JOB_NAME)
        if info.file_size > largest:
            raise AxleError(
                "job file",
                given=f"{info.file_size / 1e6:.1f} MB inside",
                wanted=f"at most {largest // 1_000_000} MB",
            )
    except (zipfile.BadZipFile, KeyError, OSError, ValueError, RuntimeError):
        raise AxleError(
            "job file", given="an archive without a job in it", wanted=f"{JOB_NAME} inside"
        ) from None
    return _in_archive(pack, info), pack


def _in_archive(pack: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """One file of an archive, whole.

    :raises AxleError: where it is damaged, or packed in a way that is not read here.
    """
    try:
        return pack.read(info)
    except (zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, OSError, ValueError, RuntimeError):
        raise AxleError(
            "job file",
            given=f"an archive whose {info.filename[:60]} is damaged",
            wanted="the archive as it was exported",
            do="Nothing was taken in. Copy it again.",
        ) from None


def _is_archive(file: IO[bytes]) -> bool:
    head = file.read(4) if file.seekable() else b""
    if head:
        file.seek(0)
    return head == _ZIP


def _parse(text: bytes, size: int) -> Any:
    if size > LARGEST_FILE:
        raise AxleError(
            "job file",
            given=f"{size / 1e6:.1f} MB",
            wanted=f"at most {LARGEST_FILE // 1_000_000} MB",
            do="Is it a job file? One job is well under 1 MB.",
        )
    try:
        data = json.loads(text, parse_constant=_no_constant, parse_float=_finite)
        # Half a character (a lone surrogate) is text that nothing can store.
        json.dumps(data, ensure_ascii=False).encode()
        return data
    except json.JSONDecodeError as error:
        raise AxleError(
            "job file",
            given=f"text that is not JSON at line {error.lineno}, column {error.colno}",
            wanted="a file that a Lash job was written to",
        ) from None
    except (ValueError, RecursionError):
        raise AxleError("job file", given="something unreadable", wanted="JSON in UTF-8") from None


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(text)
    return number


def _no_constant(name: str) -> NoReturn:
    raise ValueError(name)


def _make(user: User, shop: Shop, data: Mapping[str, Any], number: int) -> Job:
    about, mark = data["job"], data["job"]["mark"]
    as_given = {
        spec.name: about[spec.name] if spec.name in about else _plain_default(spec)
        for spec in msgspec.structs.fields(About)
        if spec.name not in _NOT_AS_GIVEN
    }
    job = Job.objects.create(
        shop=shop,
        number=number,
        **as_given,
        arrived_on=day(about["arrived_on"], "job/arrived_on"),
        promised_on=day(about["promised_on"], "job/promised_on") if about["promised_on"] else None,
        vehicle=vehicles.from_file(user, about["vehicle"]) if about.get("vehicle") else None,
        sheet=data["sheet"],
        mark_typed=mark["typed"],
        mark_value=Decimal(mark["value"]),
        mark_convention=mark["convention"],
        # A file of before had its convention told when the job was opened.
        mark_confirmed=mark.get("confirmed", "in the job's file"),
        touched_at=max(moment(given["started_at"], "started_at") for given in data["assemblies"]),
        touched_by=user,
        touched_what="took the job in from a file",
        came_from=seal.origin_of(user, shop, data),
    )
    rows: dict[str, Reading] = {}
    for given in data["assemblies"]:
        _make_assembly(user, job, given, rows)
    for table in OF_JOB:
        for given in data.get(table.name, []):
            table.model._default_manager.create(job=job, **table.values(given, user))
    read_ledger(user, job, data)
    for noted in NOTED:
        _make_noted(user, job, noted, data.get(noted.name, []))
    return job


def _make_noted(user: User, job: Job, table: RowTable, rows: list[Mapping[str, Any]]) -> None:
    """Lines in their order: one that strikes names an earlier one."""
    made: dict[str, Any] = {}
    for index, given in enumerate(rows):
        struck = given.get("strikes")
        if struck is not None and struck not in made:
            refuse(f"{table.name}/{index}/strikes", struck, "the entry of an earlier line, struck once")
        values = table.values(given, user) | {"strikes": made.pop(struck) if struck else None}
        made[given["entry"]] = table.model._default_manager.create(job=job, **values)


def _plain_default(spec: msgspec.structs.FieldInfo) -> Any:
    """What a file of before did not say of a job, as plain data."""
    value = usual(spec)
    return {} if isinstance(value, msgspec.Struct) else value


def _make_assembly(user: User, job: Job, given: Mapping[str, Any], rows: dict[str, Reading]) -> None:
    assembly = Assembly.objects.create(
        job=job,
        number=given["number"],
        started_at=moment(given["started_at"], ""),
        started_by=user,
        by=given["by"],
        note=given["note"],
    )
    PackPiece.objects.bulk_create(
        PackPiece(assembly=assembly, place=place, position=position, thickness=Decimal(size))
        for place, sizes in given["packs"].items()
        for position, size in enumerate(sizes, start=1)
    )
    Position.objects.bulk_create(
        Position(assembly=assembly, place=place, value=Decimal(holes))
        for place, holes in given["adjusters"].items()
    )
    for row in given["readings"]:
        struck = rows[row["strikes"]] if row["strikes"] else None
        values = READINGS.values(row, user) | {"strikes": struck}
        rows[row["entry"]] = Reading.objects.create(assembly=assembly, **values)
    for row in given["patterns"]:
        Pattern.objects.create(assembly=assembly, **PATTERNS.values(row, user))
    for row in given.get("prints", []):
        PrintMade.objects.create(assembly=assembly, **PRINTS.values(row, user))
    for row in given["moves"]:
        Move.objects.create(
            job=job, assembly=assembly, taken_by=user, from_file=True, **MOVES.values(row, user)
        )


def _make_photo(user: User, job: Job, given: Mapping[str, Any], pack: zipfile.ZipFile | None) -> None:
    name = f"photos/{given['entry']}"
    info = None if pack is None else next((i for i in pack.infolist() if i.filename == name), None)
    if pack is None or info is None or info.file_size > LARGEST_PHOTO:
        raise AxleError(
            "job file, photos",
            given=f"a file without {name}",
            wanted="the archive with its photos",
            do="Nothing was taken in.",
        )
    raw = _in_archive(pack, info)
    if hashlib.sha256(raw).hexdigest() != given["sha256"]:
        raise AxleError(
            "job file, photos",
            given=f"{name}, changed since",
            wanted="the photo as it was exported",
            do="Nothing was taken in.",
        )
    picture = photos.cleaned(raw)
    values = PHOTOS.values(given, user)
    values.pop("sha256")
    photo = Photo(job=job, **values)
    photo.original.save(f"original.{picture.suffix}", ContentFile(picture.original), save=False)
    photo.shown.save("shown.jpg", ContentFile(picture.shown), save=False)
    photo.save()
