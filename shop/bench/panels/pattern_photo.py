"""The page that reads a print from a photo: its corners, what was found, and the patch to correct."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping
from typing import Any

from django.urls import reverse

from axle.contact.corners import corners_in
from axle.contact.mark import By, FlankMark
from axle.contact.patch import Patch
from axle.contact.photo import Compound, read_photo
from axle.errors import AxleError
from axle.measure.units import percent
from shop.bench.print_forms import corners_from
from shop.drawing import flanks
from shop.jobs.actions import photos
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Pattern, Photo
from shop.people.request import one_of, plain_number

CORNERS = ("toe-root", "heel-root", "heel-top", "toe-top")


def context(axle: JobAxle, row: Photo, given: Mapping[str, str]) -> dict[str, Any]:
    """The photo with its corners as far as they are known."""
    flank = given.get("flank", "")
    flank = flank if flank in Pattern.Flank.values else "drive"
    known = [p for p in axle.patterns if p.photo_entry == row.entry and p.flank == flank and p.corners]
    corners = given.get("corners") or (
        json.dumps(corners_in(row.width, row.height, known[-1].corners)) if known else "[]"
    )
    compound = given.get("compound") or axle.making.compound.value
    place = given.get("place", "1")
    return {
        "axle": axle,
        "job": axle.job,
        "display": axle.display,
        "photo": row,
        "flank": flank,
        "place": str(plain_number(place, 1)),
        "corners": corners,
        "names": CORNERS,
        "compound": compound,
        "compounds": [c.value for c in Compound],
        "entry": str(uuid.uuid4()),
        "tooth": given.get("tooth", ""),
        "as_found": bool(given.get("found")),
        "places": range(1, axle.making.places + 1),
        "link": reverse("pattern-photo", args=[axle.job.number, row.pk]),
        **found(axle, row, {**given, "corners": corners, "compound": compound, "flank": flank}),
    }


def found(axle: JobAxle, row: Photo, given: Mapping[str, str]) -> dict[str, Any]:
    """What lies between the corners, on the flank as it is drawn; or why it cannot be read."""
    flank = given.get("flank", "")
    flank = flank if flank in Pattern.Flank.values else "drive"
    shown: dict[str, Any] = {"flank": flank, "reading": None, "refused": "", "outlines": ""}
    mark = None
    if given.get("corners", "[]") != "[]":
        try:
            compound = one_of(Compound, given.get("compound"), "compound")
            image = photos.pixels(row)
            reading = read_photo(image, corners_from(given["corners"]), compound)
            mark = FlankMark(tuple(Patch(blob.outline) for blob in reading.blobs), by=By.PHOTO)
            shown["reading"] = {
                "area": percent(reading.area),
                "glare": percent(reading.glare) if reading.glare > 0.005 else "",
                "count": len(reading.blobs),
            }
            shown["outlines"] = json.dumps([blob.outline for blob in reading.blobs])
        except AxleError as problem:
            shown["refused"] = problem.do if problem.do.startswith("Cannot") else str(problem)
            shown["why"] = problem.given if problem.do.startswith("Cannot") else ""
    side = axle.spec.layout.flank_side(flank).value
    words = flanks.Shown(handles=mark is not None, words=f"{side} flank, as it is kept")
    return shown | {"drawing": flanks.flank(flank, mark, words)}
