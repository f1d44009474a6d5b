"""A job as one JSON file, out and in. A round trip loses nothing; a bad file is refused whole."""

import json
from collections import defaultdict
from collections.abc import Callable, Mapping
from datetime import date, datetime
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import IO, Any, NoReturn

from django.db import transaction
from jsonschema import Draft202012Validator

from axle.depth.marks import Mark, MarkConvention
from axle.errors import AxleError
from axle.procedure.conditions import conditions_of
from axle.procedure.stations import kind_named, stations
from axle.specfile import read_spec
from shop.jobs import bridge, exchange_prints, exchange_work
from shop.jobs.models import (
    AppendOnly,
    Assembly,
    Job,
    Move,
    PackPiece,
    Position,
    Reading,
    SignOff,
)
from shop.people.models import Shop, User
from shop.people.rules import Refused

FORMAT = "lash-job/4"
# The largest job of a demo shop is some 30 kB; ten years of readings on one axle stay under 1 MB.
LARGEST_FILE = 4 * 1024 * 1024


@cache
def schema() -> dict[str, Any]:
    """The published JSON Schema of a job file."""
    text = (Path(__file__).parent / "job.schema.json").read_text(encoding="utf-8")
    return dict(json.loads(text))


def write_job(job: Job) -> dict[str, Any]:
    """Everything that is recorded of a job, as plain data."""
    work = exchange_work.write_work(job)
    entries = dict(Reading.objects.filter(assembly__job=job).values_list("pk", "entry"))
    return {
        "format": FORMAT,
        "job": {
            "number": job.number,
            "title": job.title,
            "customer": job.customer,
            "complaint": job.complaint,
            "arrived_on": job.arrived_on.isoformat(),
            "promised_on": job.promised_on.isoformat() if job.promised_on else None,
            "state": job.state,
            "new_bearings": job.new_bearings,
            "mark": {
                "typed": job.mark_typed,
                "value": f"{job.mark_value:.5f}",
                "convention": job.mark_convention,
                "confirmed": job.mark_confirmed,
            },
            "scope": job.scope,
            "ways": job.ways,
            "shapes": job.shapes,
            "reasons": job.reasons,
            **{name: work.pop(name) for name in ("choices", "arrival", "fasteners", "tools")},
        },
        "sheet": job.sheet,
        "assemblies": [_assembly(assembly, entries) for assembly in job.assemblies.order_by("number")],
        "sign_offs": [
            _common(row)
            | {
                "station": row.station,
                "deviation": row.deviation,
                "reason": row.reason,
                "statement": row.statement,
                "withdrawn": row.withdrawn,
            }
            for row in job.sign_offs.order_by("id")
        ],
        **work,
    }


def read_job(user: User, file: IO[bytes], size: int) -> tuple[Job, bool]:
    """Take a job file in; says whether the job keeps its number.

    :raises AxleError: naming the place of the first thing that cannot be used; nothing is kept.
    """
    text, pack = (
        exchange_work.unpack(file, size, LARGEST_FILE)
        if size <= LARGEST_FILE or _is_archive(file)
        else (b"", None)
    )
    data = _parse(text, len(text) if pack else size)
    _check(data)
    if user.shop is None:
        raise Refused("You belong to no shop; ask its owner to let you in.")
    with transaction.atomic():
        fence = type(user.shop).objects.select_for_update().get(pk=user.shop.pk)
        wanted = data["job"]["number"]
        keeps = not Job.objects.of(fence).filter(number=wanted).exists()
        number = wanted if keeps else fence.next_job_number
        fence.next_job_number = max(fence.next_job_number, number + 1)
        fence.save(update_fields=["next_job_number"])
        job = _make(user, fence, data, number)
        exchange_work.make_work(user, job, data, _row, _moment, pack)
        axle = bridge.load(job)
        job.summary = bridge.summary(axle)
        job.save()
    return job, keeps


def _assembly(assembly: Assembly, entries: dict[int, Any]) -> dict[str, Any]:
    packs: dict[str, list[str]] = defaultdict(list)
    for piece in assembly.pieces.order_by("place", "position"):
        packs[piece.place].append(f"{piece.thickness:.5f}")
    return {
        "number": assembly.number,
        "started_at": assembly.started_at.isoformat(),
        "by": assembly.by,
        "note": assembly.note,
        "packs": dict(packs),
        "adjusters": {row.place: f"{row.value:.2f}" for row in assembly.positions.order_by("place")},
        "readings": [
            _common(row)
            | {
                "kind": row.kind,
                "place": row.place,
                "typed": row.typed,
                "unit": row.unit,
                "value": None if row.value is None else f"{row.value:.8f}",
                "conditions": row.conditions,
                "instrument": row.instrument,
                "resolution": None if row.resolution is None else f"{row.resolution:.8f}",
                "overdue": row.overdue,
                "confidence": row.confidence,
                "strikes": str(entries[row.strikes_id]) if row.strikes_id else None,
                "reason": row.reason,
            }
            for row in assembly.readings.order_by("id")
        ],
        **exchange_prints.write(assembly, _common),
        "moves": [
            {
                "title": move.title,
                "station": move.station,
                "swaps": move.swaps,
                "expected": move.expected,
                "why": move.why,
                "taken_at": move.taken_at.isoformat(),
                "by": move.by,
                "outcome": move.outcome,
                "chance": move.chance,
                "parts": move.parts,
                "held": move.held,
            }
            for move in assembly.moves.order_by("id")
        ],
    }


def _common(row: AppendOnly) -> dict[str, Any]:
    return {
        "entry": str(row.entry),
        "at": row.at.isoformat(),
        "by": row.by,
        "settings": row.settings,
    }


def _is_archive(file: IO[bytes]) -> bool:
    head = file.read(4) if file.seekable() else b""
    if head:
        file.seek(0)
    return head == b"PK\x03\x04"


def _parse(text: bytes, size: int) -> Any:
    if size > LARGEST_FILE:
        raise AxleError(
            "job file",
            given=f"{size / 1e6:.1f} MB",
            wanted=f"at most {LARGEST_FILE // 1_000_000} MB",
            do="Is it a job file? One job is well under 1 MB.",
        )
    try:
        return json.loads(text, parse_constant=_no_constant)
    except json.JSONDecodeError as error:
        raise AxleError(
            "job file",
            given=f"text that is not JSON at line {error.lineno}, column {error.colno}",
            wanted="a file that a Lash job was written to",
        ) from None
    except (ValueError, RecursionError):
        raise AxleError("job file", given="something unreadable", wanted="JSON in UTF-8") from None


def _no_constant(name: str) -> NoReturn:
    raise ValueError(name)


def _check(data: Any) -> None:
    """Hold the file to the schema, then to what the core knows."""
    # Lazily: a file with a million wrong readings is refused at the first.
    error = next(Draft202012Validator(schema()).iter_errors(data), None)
    if error is not None:
        where = "/".join(str(part) for part in error.absolute_path) or "the file"
        given = str(error.instance)
        _refuse(where, f"“{given[:60]}”" if len(given) <= 60 else "something else", _wanted(error))
    try:
        read_spec(data["sheet"])
    except AxleError as problem:
        _refuse(f"sheet, {problem.what}", problem.given, problem.wanted)
    mark = data["job"]["mark"]
    try:
        Mark(float(mark["value"]), MarkConvention(mark["convention"]))
    except AxleError as problem:
        _refuse("job/mark", problem.given, problem.wanted)
    numbers = [assembly["number"] for assembly in data["assemblies"]]
    if numbers != sorted(set(numbers)):
        _refuse("assemblies", "numbers out of order", "each number once, rising")
    seen: set[str] = set()
    standing: set[str | None] = set()
    for index, assembly in enumerate(data["assemblies"]):
        _check_assembly(f"assemblies/{index}", assembly, seen, standing)
    for index, row in enumerate(data["sign_offs"]):
        if row["station"] not in stations():
            _refuse(f"sign_offs/{index}/station", f"“{row['station']}”", "a station of the work")
        _moment(row["at"], f"sign_offs/{index}/at")
        _once(row, f"sign_offs/{index}", seen)

    _check_work(data, seen)
    for name in ("arrived_on", "promised_on"):
        if data["job"][name] is not None:
            _day(data["job"][name], f"job/{name}")


def _check_work(data: dict[str, Any], seen: set[str]) -> None:
    """Hold the guided work to what the core knows, and its rows to what all rows share."""

    def shared(row: Mapping[str, Any], where: str) -> None:
        _moment(row["at"], f"{where}/at")
        _once(dict(row), where, seen)

    exchange_work.check_work(data, _refuse, shared)
    for index, row in enumerate(data.get("timers", [])):
        for name in ("started_at", "due_at", "ended_at"):
            if row[name] is not None:
                _moment(row[name], f"timers/{index}/{name}")


def _wanted(error: Any) -> str:
    words: dict[str, Callable[[], str]] = {
        "required": lambda: f"all of {', '.join(error.validator_value)}",
        "additionalProperties": lambda: "no other entries than the format's",
        "type": lambda: f"a value of the kind {error.validator_value}",
        "enum": lambda: f"one of {', '.join(map(str, error.validator_value))}",
        "const": lambda: f"“{error.validator_value}”",
        "maxItems": lambda: f"at most {error.validator_value} entries",
        "maxLength": lambda: f"at most {error.validator_value} characters",
    }
    return words.get(error.validator, lambda: "what docs/format.md describes")()


def _check_assembly(
    where: str, assembly: dict[str, Any], seen: set[str], standing: set[str | None]
) -> None:
    _moment(assembly["started_at"], f"{where}/started_at")
    for index, row in enumerate(assembly["readings"]):
        at = f"{where}/readings/{index}"
        _moment(row["at"], f"{at}/at")
        try:
            kind = kind_named(row["kind"])
        except AxleError:
            _refuse(f"{at}/kind", f"“{row['kind']}”", "a kind of reading that Lash knows")
        if row["value"] is not None:
            try:
                kind.check(Decimal(row["value"]), row["typed"])
            except AxleError as problem:
                _refuse(f"{at}/value", problem.given, problem.wanted)
        try:
            conditions_of(row["kind"], row["conditions"])
        except AxleError as problem:
            _refuse(f"{at}/conditions", problem.given, problem.wanted)
        if row["strikes"] is not None and row["strikes"] not in standing:
            _refuse(f"{at}/strikes", row["strikes"], "the entry of an earlier reading, struck once")
        standing.discard(row["strikes"])
        standing.add(row["entry"])
        _once(row, at, seen)

    def shared(row: Mapping[str, Any], at: str) -> None:
        _moment(row["at"], f"{at}/at")
        _once(dict(row), at, seen)

    exchange_prints.check(where, assembly, _refuse, shared)
    for index, row in enumerate(assembly["moves"]):
        _moment(row["taken_at"], f"{where}/moves/{index}/taken_at")


def _once(row: dict[str, Any], where: str, seen: set[str]) -> None:
    if row["entry"] in seen:
        _refuse(f"{where}/entry", row["entry"], "each entry once")
    seen.add(row["entry"])


def _moment(text: str, where: str) -> datetime:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        moment = None
    if moment is None or moment.tzinfo is None:
        _refuse(where, f"“{text}”", "a date and time with its zone, such as 2026-03-02T09:15:00+00:00")
    return moment


def _day(text: str, where: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        _refuse(where, f"“{text}”", "a date such as 2026-03-02")


def _refuse(where: str, given: str, wanted: str) -> NoReturn:
    raise AxleError(f"job file, {where}", given=given, wanted=wanted, do="Nothing was taken in.")


def _make(user: User, shop: Shop, data: dict[str, Any], number: int) -> Job:
    about = data["job"]
    newest = max(_moment(a["started_at"], "started_at") for a in data["assemblies"])
    job = Job.objects.create(
        shop=shop,
        number=number,
        title=about["title"],
        customer=about["customer"],
        complaint=about["complaint"],
        arrived_on=_day(about["arrived_on"], "job/arrived_on"),
        promised_on=_day(about["promised_on"], "job/promised_on") if about["promised_on"] else None,
        state=about["state"],
        sheet=data["sheet"],
        new_bearings=about["new_bearings"],
        mark_typed=about["mark"]["typed"],
        mark_value=Decimal(about["mark"]["value"]),
        mark_convention=about["mark"]["convention"],
        ways=about["ways"],
        shapes=about.get("shapes", {}),
        reasons=about.get("reasons", {}),
        scope=about.get("scope", "whole"),
        # A file of before had its convention told when the job was opened.
        mark_confirmed=about["mark"].get("confirmed", "in the job's file"),
        touched_at=newest,
        touched_by=user,
        touched_what="took the job in from a file",
    )
    rows: dict[str, Reading] = {}
    for given in data["assemblies"]:
        _make_assembly(user, job, given, rows)
    for given in data["sign_offs"]:
        SignOff.objects.create(
            job=job,
            station=given["station"],
            deviation=given["deviation"],
            reason=given["reason"],
            statement=given["statement"],
            withdrawn=given["withdrawn"],
            **_row(user, given),
        )
    return job


def _make_assembly(user: User, job: Job, given: dict[str, Any], rows: dict[str, Reading]) -> None:
    assembly = Assembly.objects.create(
        job=job,
        number=given["number"],
        started_at=_moment(given["started_at"], ""),
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
        rows[row["entry"]] = Reading.objects.create(
            assembly=assembly,
            kind=row["kind"],
            place=row["place"],
            typed=row["typed"],
            unit=row["unit"],
            value=None if row["value"] is None else Decimal(row["value"]),
            conditions=row["conditions"],
            instrument=row["instrument"],
            confidence=row["confidence"],
            resolution=Decimal(row["resolution"]) if row.get("resolution") else None,
            overdue=row.get("overdue", ""),
            strikes=rows[row["strikes"]] if row["strikes"] else None,
            reason=row["reason"],
            **_row(user, row),
        )
    exchange_prints.make(assembly, given, lambda row: _row(user, row))
    for row in given["moves"]:
        Move.objects.create(
            job=job,
            assembly=assembly,
            title=row["title"],
            station=row["station"],
            swaps=row["swaps"],
            expected=row["expected"],
            why=row["why"],
            outcome=row["outcome"],
            chance=row.get("chance"),
            parts=row.get("parts", {}),
            held=row.get("held"),
            taken_at=_moment(row["taken_at"], ""),
            taken_by=user,
            by=row["by"],
        )


def _row(user: User, given: dict[str, Any]) -> dict[str, Any]:
    return {
        "entry": given["entry"],
        "at": _moment(given["at"], ""),
        "person": user,
        "by": given["by"],
        "settings": given["settings"],
    }
