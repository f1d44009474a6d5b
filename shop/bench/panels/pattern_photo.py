"""The page that reads a print from a photo: places pointed at, what was found, the patch to correct."""

from __future__ import annotations

import json
import uuid
from collections.abc import Collection, Mapping
from typing import Any

import numpy as np
from django.urls import reverse

from axle.contact.compound import Compound
from axle.contact.cut import Cut
from axle.contact.gears import cut_of
from axle.contact.mark import By, FlankMark
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.measure.units import percent
from axle.photo.places import places_in
from axle.photo.pose import NAMES
from axle.photo.questions import Question, hand_seen
from axle.photo.reading import PhotoReading, read_photo
from axle.photo.strokes import corrected
from shop.bench.print_forms import corners_from, strokes_from
from shop.drawing import flanks
from shop.drawing.svg import path_of
from shop.jobs.actions import photos
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Pattern, Photo
from shop.people.request import one_of, plain_number

_OTHER = {"drive": "coast", "coast": "drive"}


def context(axle: JobAxle, row: Photo, given: Mapping[str, str]) -> dict[str, Any]:
    """The photo with the places pointed at, as far as they are known."""
    flank = _flank(given)
    known = [p for p in axle.patterns if p.photo_entry == row.entry and p.flank == flank and p.corners]
    corners = given.get("corners") or (
        json.dumps(places_in(row.width, row.height, known[-1].corners)) if known else "[]"
    )
    compound = given.get("compound") or axle.making.compound.value
    return {
        "axle": axle,
        "job": axle.job,
        "display": axle.display,
        "photo": row,
        "flank": flank,
        "place": str(plain_number(given.get("place", "1"), 1)),
        "corners": corners,
        "names": NAMES,
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
    """What the photo shows of the flank pointed at and of its neighbours; or why it cannot be read."""
    flank = _flank(given)
    shown: dict[str, Any] = {"flank": flank, "other": _OTHER[flank], "reading": None, "refused": ""}
    mark = None
    if given.get("corners", "[]") != "[]":
        try:
            reading = _read(axle, row, flank, given)
            first = reading.teeth[0]
            mark = FlankMark(tuple(Patch(patch.outline) for patch in first.wiped.patches), by=By.PHOTO)
            shown |= {
                "reading": _words(reading),
                "questions": _questions(
                    axle, row, [q.value for q in reading.questions], flank=flank, given=given
                ),
                "outlines": json.dumps([patch.outline for patch in first.wiped.patches]),
                "spread": json.dumps(np.round(reading.spread, 4).tolist()),
                "beside": json.dumps(_beside(reading)),
                "overlay": json.dumps(_overlay(reading)),
            }
        except AxleError as problem:
            shown["refused"] = problem.do if problem.do.startswith("Cannot") else str(problem)
            shown["why"] = problem.given if problem.do.startswith("Cannot") else ""
            asked = getattr(problem, "asked", ())
            shown["questions"] = {
                "other_flank": Question.FLANK.value in asked,
                "ends": Question.ENDS.value in asked,
            }
    side = axle.spec.layout.flank_side(flank).value
    words = flanks.Shown(handles=mark is not None, words=f"{side} flank, as it is kept")
    return shown | {"drawing": flanks.flank(flank, mark, words)}


def _flank(given: Mapping[str, str]) -> str:
    flank = given.get("flank", "")
    return flank if flank in Pattern.Flank.values else "drive"


def _read(axle: JobAxle, row: Photo, flank: str, given: Mapping[str, str]) -> PhotoReading:
    reading = read_photo(
        photos.pixels(row),
        corners_from(given["corners"]),
        _cut(axle),
        one_of(Compound, given.get("compound"), "compound"),
        convex=_is_convex(axle, flank),
        focal=row.focal,
        pose_number=plain_number(given.get("pose"), 0, 1),
    )
    first = reading.teeth[0]
    wiped = corrected(first.wiped, first.pose, strokes_from(given))
    return reading.with_first(wiped)


def _cut(axle: JobAxle) -> Cut | None:
    """The set as it was cut, or none where it cannot be computed."""
    try:
        return cut_of(axle.state.gears)
    except AxleError:
        return None


def _is_convex(axle: JobAxle, flank: str) -> bool:
    return (flank == "drive") == axle.state.gears.drive_convex


def _words(reading: PhotoReading) -> dict[str, Any]:
    first, (along, up) = reading.teeth[0], reading.spread
    scatter = reading.scatter
    return {
        "area": percent(first.wiped.area),
        "glare": percent(reading.glare) if reading.glare > 0.005 else "",
        "count": len(first.wiped.patches),
        "teeth": len(reading.teeth),
        "along": percent(along),
        "up": percent(up),
        "scatter_along": percent(scatter[0]),
        "scatter_up": percent(scatter[1]),
        "bare": first.wiped.bare,
        "edges": len(reading.edges),
    }


def _questions(
    axle: JobAxle, row: Photo, asked: Collection[str], *, flank: str, given: Mapping[str, str]
) -> dict[str, bool]:
    """What only the person can say: from where it is looked at, which flank it is, which end the toe is."""
    hand = hand_seen(np.array(corners_from(given["corners"])), convex=_is_convex(axle, flank))
    before = [
        hand_seen(np.array(p.corners), convex=_is_convex(axle, p.flank))
        for p in axle.patterns
        if p.corners and p.photo_entry != row.entry
    ]
    is_swapped = bool(before) and before[-1] != hand
    return {
        "mirror": Question.MIRROR.value in asked,
        "other_flank": Question.FLANK.value in asked,
        "hand": is_swapped,
        "ends": Question.ENDS.value in asked and not is_swapped,
    }


def _beside(reading: PhotoReading) -> list[dict[str, float]]:
    rows = []
    for tooth in reading.teeth[1:]:
        u, v = tooth.wiped.centroid
        rows.append(
            {"tooth": tooth.tooth, "u": round(u, 4), "v": round(v, 4), "area": round(tooth.wiped.area, 4)}
        )
    return rows


def _overlay(reading: PhotoReading) -> dict[str, Any]:
    """Lines to be drawn on the photo itself, as path data in its pixels."""
    first = reading.teeth[0]
    return {
        "frame": path_of(first.frame),
        "grid": " ".join(path_of(line, closed=False) for line in first.grid),
        "patches": [path_of(line) for line in first.outlines],
        "others": [
            " ".join(path_of(line) for line in (tooth.frame, *tooth.outlines))
            for tooth in reading.teeth[1:]
        ],
    }
