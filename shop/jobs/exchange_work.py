"""The guided work's part of a job file: choices, arrival, marks, register, findings, torques, photos."""

import hashlib
import io
import zipfile
from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import IO, Any

from django.core.files.base import ContentFile

from axle.advice.progress import Mark
from axle.carrier.book import Done, Line, book_of
from axle.errors import AxleError
from axle.fasteners.groups import corrected_group, own_group, torque_sheet
from axle.procedure.choices import Build, choices, still_possible
from axle.procedure.findings import Found
from axle.procedure.register import Event, items
from axle.procedure.scope import scopes
from axle.procedure.steps import step_named
from axle.specfile import read_spec
from shop.jobs import photos
from shop.jobs.models import (
    AppendOnly,
    CarrierLine,
    Finding,
    Job,
    Photo,
    RegisterLine,
    StepMark,
    Tightening,
    Timer,
)
from shop.jobs.work import is_listed
from shop.people.models import User

LARGEST_ARCHIVE = 256 * 1024 * 1024
JOB_NAME = "job.json"
_TABLES: tuple[tuple[str, type[AppendOnly], tuple[str, ...]], ...] = (
    ("step_marks", StepMark, ("step", "mark", "reason")),
    ("register", RegisterLine, ("item", "event", "words", "pieces", "count")),
    ("findings", Finding, ("part", "sign", "decision", "reason")),
    ("carrier_lines", CarrierLine, ("done", "ring", "far", "words")),
    ("tightenings", Tightening, ("group", "stage", "typed", "unit", "value", "words")),
)
_PHOTO = ("step", "caption", "name", "width", "height")
_Refuse = Callable[[str, str, str], Any]


def write_work(job: Job) -> dict[str, Any]:
    """Everything of the guided work, as plain data; photos by name and digest."""
    found: dict[str, Any] = {
        "choices": job.choices,
        "arrival": job.arrival,
        "fasteners": job.fasteners,
        "tools": job.tools,
    }
    for name, model, fields in _TABLES:
        rows = model.objects.filter(job=job).order_by("id")  # type: ignore[attr-defined]
        found[name] = [
            _common(row) | {field: _plain(getattr(row, field)) for field in fields} for row in rows
        ]
    found["timers"] = [
        {
            "step": row.step,
            "title": row.title,
            "minutes": row.minutes,
            "by": row.by,
            "started_at": row.started_at.isoformat(),
            "due_at": row.due_at.isoformat(),
            "ended_at": row.ended_at.isoformat() if row.ended_at else None,
            "ended_by": row.ended_by,
        }
        for row in job.timers.order_by("id")
    ]
    found["photos"] = [
        _common(row) | {field: getattr(row, field) for field in _PHOTO} | {"sha256": _digest(row)}
        for row in job.photos.order_by("id")
    ]
    return found


def archive(job: Job, text: bytes) -> bytes:
    """A job file with its photos, as one ZIP."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as pack:
        pack.writestr(JOB_NAME, text)
        for photo in job.photos.order_by("id"):
            with photos.original(photo) as file:
                pack.writestr(f"photos/{photo.entry}", file.read())
    return out.getvalue()


def unpack(file: IO[bytes], size: int, largest: int) -> tuple[bytes, zipfile.ZipFile | None]:
    """The job file's text, and the archive it came in, if it came in one.

    :raises AxleError: for an archive that is too large or has no job file in it.
    """
    head = file.read(4)
    file.seek(0)
    if head != b"PK\x03\x04":
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
        return pack.read(info), pack
    except (zipfile.BadZipFile, KeyError, OSError, RuntimeError):
        raise AxleError(
            "job file", given="an archive without a job in it", wanted=f"{JOB_NAME} inside"
        ) from None


def check_work(
    data: Mapping[str, Any], refuse: _Refuse, row: Callable[[Mapping[str, Any], str], None]
) -> None:
    """Hold the guided work of a file to what the core knows; ``row`` checks what all rows share."""
    about = data["job"]
    spec = read_spec(data["sheet"])
    scope = about.get("scope", "whole")
    if scope not in scopes():
        refuse("job/scope", f"“{scope}”", ", ".join(scopes()))
    chosen = about.get("choices", {})
    for name, value in chosen.items():
        if name not in choices() or value not in choices()[name].values:
            refuse(f"job/choices/{name}", f"“{value}”", "a choice that Lash knows")
    lost = set(chosen) - set(still_possible(spec.layout, chosen, scope))
    if lost:
        refuse(f"job/choices/{min(lost)}", f"“{chosen[min(lost)]}”", "one that this axle can have")
    for name, state in about.get("tools", {}).items():
        if not is_listed(name) or state not in ("have", "missing"):
            refuse(f"job/tools/{name}", f"“{state}”", "have or missing, of a tool that Lash knows")
    probes: Mapping[str, Callable[[Mapping[str, Any]], object]] = {
        "step_marks": lambda given: (step_named(given["step"]), _member(Mark, given["mark"], "mark")),
        "register": lambda given: (_item(given["item"]), _member(Event, given["event"], "event")),
        "findings": lambda given: Found(given["part"], given["sign"], given["decision"], given["reason"]),
        "carrier_lines": _line,
        "tightenings": lambda _: None,
        "photos": lambda given: step_named(given["step"]),
        "timers": lambda _: None,
    }
    for name, probe in probes.items():
        for index, given in enumerate(data.get(name, [])):
            where = f"{name}/{index}"
            try:
                probe(given)
            except AxleError as problem:
                refuse(f"{where}, {problem.what}", problem.given, problem.wanted)
            if name != "timers":
                row(given, where)
    _check_bolts(data, refuse)
    try:
        book_of(_line(given) for given in data.get("carrier_lines", []))
    except AxleError as problem:
        refuse(f"carrier_lines, {problem.what}", problem.given, problem.wanted)


def make_work(
    user: User,
    job: Job,
    data: Mapping[str, Any],
    row: Callable[[User, dict[str, Any]], dict[str, Any]],
    moment: Callable[[str, str], Any],
    pack: zipfile.ZipFile | None,
) -> None:
    """Make the rows of the guided work."""
    about = data["job"]
    for name in ("choices", "arrival", "fasteners", "tools"):
        setattr(job, name, about.get(name, {}))
    job.save(update_fields=["choices", "arrival", "fasteners", "tools"])
    for name, model, fields in _TABLES:
        for given in data.get(name, []):
            values = {field: given[field] for field in fields}
            for number in {"value", "ring", "far"} & set(values):
                values[number] = Decimal(values[number])
            model.objects.create(job=job, **values, **row(user, given))  # type: ignore[attr-defined]
    for given in data.get("timers", []):
        Timer.objects.create(
            job=job,
            step=given["step"],
            title=given["title"],
            minutes=given["minutes"],
            by=given["by"],
            started_at=moment(given["started_at"], "timers"),
            due_at=moment(given["due_at"], "timers"),
            ended_at=moment(given["ended_at"], "timers") if given["ended_at"] else None,
            ended_by=given["ended_by"],
        )
    for given in data.get("photos", []):
        _make_photo(job, given, row(user, given), pack)


def _make_photo(
    job: Job, given: Mapping[str, Any], shared: dict[str, Any], pack: zipfile.ZipFile | None
) -> None:
    name = f"photos/{given['entry']}"
    info = None if pack is None else next((i for i in pack.infolist() if i.filename == name), None)
    if pack is None or info is None or info.file_size > photos.LARGEST_FILE:
        raise AxleError(
            "job file, photos",
            given=f"a file without {name}",
            wanted="the archive with its photos",
            do="Nothing was taken in.",
        )
    raw = pack.read(info)
    if hashlib.sha256(raw).hexdigest() != given["sha256"]:
        raise AxleError(
            "job file, photos",
            given=f"{name}, changed since",
            wanted="the photo as it was exported",
            do="Nothing was taken in.",
        )
    shown, suffix = photos.copy_for_page(raw)
    photo = Photo(job=job, **{field: given[field] for field in _PHOTO}, **shared)
    photo.original.save(f"original.{suffix}", ContentFile(raw), save=False)
    photo.shown.save("shown.jpg", ContentFile(shown), save=False)
    photo.save()


def _check_bolts(data: Mapping[str, Any], refuse: _Refuse) -> None:
    corrected = data["job"].get("fasteners", {})
    spec = read_spec(data["sheet"])
    scope = data["job"].get("scope", "whole")
    chosen = still_possible(spec.layout, data["job"].get("choices", {}), scope)
    facts = Build(spec.layout, bool(data["job"]["new_bearings"]), chosen, scope=scope).facts
    groups = {group.group: group for group in torque_sheet(facts, spec.sheet)}
    for name, given in corrected.items():
        if given.get("own"):
            try:
                own_group(name, given)
            except (AxleError, TypeError, ValueError):
                refuse(
                    f"job/fasteners/{name}", "a group that cannot be", "title, count, thread, class, torque"
                )
            continue
        if name not in groups:
            refuse(f"job/fasteners/{name}", "a group that this axle has not", ", ".join(groups))
        try:
            corrected_group(groups[name], given)
        except (AxleError, TypeError, ValueError) as problem:
            wanted = problem.wanted if isinstance(problem, AxleError) else "usable values"
            refuse(f"job/fasteners/{name}", "a correction that cannot be", wanted)


def _line(given: Mapping[str, Any]) -> Line:
    return Line(_member(Done, given["done"], "done"), float(given["ring"]), float(given["far"]))


def _item(name: str) -> str:
    if name not in items():
        raise AxleError("item", given=f"“{name[:20]}”", wanted="an item of the register")
    return name


def _member(kind: type, value: str, what: str) -> Any:
    try:
        return kind(value)
    except ValueError:
        wanted = ", ".join(member.value for member in kind)  # type: ignore[attr-defined]
        raise AxleError(what, given=f"“{value[:20]}”", wanted=wanted) from None


def _common(row: AppendOnly) -> dict[str, Any]:
    return {"entry": str(row.entry), "at": row.at.isoformat(), "by": row.by, "settings": row.settings}


def _plain(value: object) -> object:
    return f"{value:.8f}" if isinstance(value, Decimal) else value


def _digest(photo: Photo) -> str:
    with photos.original(photo) as file:
        return hashlib.sha256(file.read()).hexdigest()
