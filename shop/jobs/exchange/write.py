"""A job as one JSON file, or as an archive with its photos."""

import hashlib
import io
import zipfile
from collections import defaultdict
from typing import Any

from shop.jobs.actions import photos
from shop.jobs.exchange.file_models import FORMAT, About
from shop.jobs.exchange.ledger_rows import write_ledger
from shop.jobs.exchange.row_tables import MOVES, NOTED, OF_JOB, PATTERNS, PHOTOS, PRINTS, READINGS, plain
from shop.jobs.models import Assembly, Job, Photo, Reading

JOB_NAME = "job.json"


def write_job(job: Job) -> dict[str, Any]:
    """Everything that is recorded of a job, as plain data."""
    entries = dict(Reading.objects.filter(assembly__job=job).values_list("pk", "entry"))
    written: dict[str, Any] = {
        "format": FORMAT,
        "job": _about(job),
        "sheet": job.sheet,
        "assemblies": [_assembly(assembly, entries) for assembly in job.assemblies.order_by("number")],
    }
    for table in OF_JOB:
        rows = table.model._default_manager.filter(job=job).order_by("id")
        written[table.name] = [table.write(row) for row in rows]
    written |= write_ledger(job)
    for table in NOTED:
        lines: list[Any] = list(table.model._default_manager.filter(job=job).order_by("id"))
        known = {row.pk: str(row.entry) for row in lines}
        written[table.name] = [table.write(row, strikes=known.get(row.strikes_id)) for row in lines]
    written["photos"] = [PHOTOS.write(row, sha256=_digest(row)) for row in job.photos.order_by("id")]
    return written


def archive(job: Job, text: bytes) -> bytes:
    """A job file with its photos, as one ZIP."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as pack:
        pack.writestr(JOB_NAME, text)
        for photo in job.photos.order_by("id"):
            with photos.original(photo) as file:
                pack.writestr(f"photos/{photo.entry}", file.read())
    return out.getvalue()


def _about(job: Job) -> dict[str, Any]:
    mark = {
        "typed": job.mark_typed,
        "value": f"{job.mark_value:.5f}",
        "convention": job.mark_convention,
        "confirmed": job.mark_confirmed,
    }
    own = {"mark": mark, "vehicle": _vehicle(job)}
    names = About.__struct_fields__
    return {name: own[name] if name in own else plain(getattr(job, name)) for name in names}


def _vehicle(job: Job) -> dict[str, Any] | None:
    """The vehicle as it is described now: its other jobs read the same."""
    row = job.vehicle
    if row is None:
        return None
    return {"identity": str(row.identity), "name": row.name, "note": row.note, "figures": row.figures}


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
            READINGS.write(row, strikes=str(entries[row.strikes_id]) if row.strikes_id else None)
            for row in assembly.readings.order_by("id")
        ],
        "patterns": [PATTERNS.write(row) for row in assembly.patterns.order_by("id")],
        "prints": [PRINTS.write(row) for row in assembly.prints.order_by("id")],
        "moves": [MOVES.write(row) for row in assembly.moves.standing().order_by("id")],
    }


def _digest(photo: Photo) -> str:
    with photos.original(photo) as file:
        return hashlib.sha256(file.read()).hexdigest()
