"""What is entered at a station: the reading that is wanted, how it is read, and with what."""

from __future__ import annotations

import uuid
from typing import Any

from django.utils import timezone

from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Unit, show
from axle.procedure.condition_words import (
    ATTITUDE_WORDS,
    FIGURE_WORDS,
    MESH_WORDS,
    NUT_WORDS,
    OIL_WORDS,
    SLEEVE_WORDS,
)
from axle.procedure.conditions import TorqueConditions, has_dial, has_pull, has_seal, has_stance
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import ReadingKind, kind_named, stations
from axle.stations.backlash import backlash_readings
from axle.stations.mesh import PARTED, is_in_mesh
from axle.stations.station_state import Slot, Standing
from shop.bench.panels import carrier
from shop.bench.request import PageRequest
from shop.drawing import dials
from shop.drawing.svg import Svg
from shop.instruments.queries import fitting
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Reading

PACK_STATIONS = {
    "depth": (Place.DEPTH,),
    "pinion_preload": (Place.PRELOAD,),
    "carrier_preload": (Place.RING, Place.FAR),
}
# What a dial may show: its travel, or the figure pointed at, by how much one revolution is in mm.
DIALS = (
    ("travel", "travel"),
    ("figure:2.54", "figure pointed at, 0.100 in a turn"),
    ("figure:1", "figure pointed at, 1 mm a turn"),
)


def slot_of(axle: JobAxle, standing: Standing, asked: PageRequest) -> Slot | None:
    if standing.station in (StationName.PATTERN, StationName.SHEET):
        return None
    if standing.station == StationName.TORQUE and not asked.kind:
        return None  # signed on the torque sheet, stage by stage
    kinds = stations()[standing.station].kinds
    if asked.kind in kinds and not asked.kind.endswith("_run"):
        kind = kind_named(asked.kind)
        return Slot(asked.kind, min(max(asked.place, 1), kind.last_place))
    if axle.move.asks and axle.move.asks[0][0] in kinds and axle.move.station == standing.station:
        return Slot(*axle.move.asks[0])
    if standing.missing:
        return standing.missing[0]
    return Slot(standing.method.kinds[0], 1) if standing.method.kinds else None


def entry_panel(axle: JobAxle, slot: Slot, asked: PageRequest) -> dict[str, Any]:
    kind = kind_named(slot.kind)
    unit = axle.display.unit_for(kind.dimension, bolt=kind.bolt)
    limits = _reading_limits(axle, kind)
    places = axle.state.places_of(slot.kind)
    readings = backlash_readings(axle.state) if kind.most else axle.state.around(slot.kind)
    last = readings.get(slot.place)
    values = {place: taken.value for place, taken in readings.items()}
    verdict = limits.side(last.value) if limits and last else ""
    entry: dict[str, Any] = {
        "kind": kind,
        "place": slot.place,
        "places": range(1, places + 1),
        "count": places,
        "words": kind.place_words(slot.place, places),
        "repeats": _repeats(axle, kind, slot),
        "unit": unit,
        "last": last,
        "last_row": _row(axle, slot),
        "verdict": verdict,
        "gauge": _gauge(last.value if last else None, limits, unit),
        "around": dials.around(values, places, limits, unit, slot.place) if places > 1 else None,
        "is_lash": has_stance(slot.kind),
        "lash": carrier.lash_conditions(axle, slot.kind, asked.kept) if has_stance(slot.kind) else None,
        "is_pull": has_pull(slot.kind),
        "settled": bool(asked.kept.get("settled"))
        if "pull" in asked.kept
        else carrier.claimed_before(axle, slot.kind),
        "limits": limits,
        "made_up": limits is not None and axle.spec.sheet.is_made_up(_limit_key(axle, kind)),
        "has_seal": has_seal(slot.kind),
        "is_bite": slot.kind == KindName.PINION_TORQUE and not axle.spec.layout.has_preload_pack,
        "conditions": _conditions(axle, slot, asked) if has_seal(slot.kind) else None,
        "dials": DIALS if has_dial(slot.kind) else (),
        "shows": asked.kept.get("shows", "travel"),
        "tools": _tools(axle, kind, asked),
        "makeshift": asked.kept.get("confidence") == "makeshift",
        "entry": asked.entry or str(uuid.uuid4()),
    }
    # A reading that the advice asks for once more stands beside the one before it.
    entry["again"] = axle.move.again and (slot.kind, slot.place) in axle.move.asks
    entry["asks_more"] = any(
        entry[name] for name in ("repeats", "is_bite", "conditions", "dials", "lash", "is_pull")
    )
    return entry


def _repeats(axle: JobAxle, kind: ReadingKind, slot: Slot) -> list[dict[str, Any]]:
    """The readings that are averaged, and the one more that can be taken."""
    taken = {t.place: t.value for t in axle.state.repeats(kind.kind)}
    unit = axle.display.unit_for(kind.dimension)
    return [
        {
            "place": place,
            "value": show(taken[place], unit) if place in taken else "",
            "current": place == slot.place,
        }
        for place in kind.repeats_offered(taken)
    ]


def _conditions(axle: JobAxle, slot: Slot, asked: PageRequest) -> dict[str, Any]:
    """How the last torque was read, which the next one most likely is too."""
    last = axle.state.latest(slot.kind) or axle.state.latest(KindName.PINION_TORQUE)
    usual = TorqueConditions(figure=axle.spec.sheet.figure.value)
    known = last.torque_conditions if last else usual
    words = {"oil": OIL_WORDS, "attitude": ATTITUDE_WORDS, "figure": FIGURE_WORDS, "nut": NUT_WORDS}
    if slot.kind == KindName.PINION_TORQUE and not axle.spec.layout.has_preload_pack:
        words["sleeve"] = SLEEVE_WORDS
    chosen = {name: asked.kept.get(name, getattr(known, name)) for name in words}
    seal = bool(asked.kept.get("seal")) if asked.kept else known.seal
    fields = [
        {"name": name, "chosen": value, "values": [*words[name].items()]} for name, value in chosen.items()
    ]
    said = [words[name][value] for name, value in chosen.items() if value in words[name]]
    in_mesh = kind_named(slot.kind).mesh == PARTED and is_in_mesh(axle.state)
    return {
        # In mesh a wrench turns the whole: how this one was read all the same is asked in the open.
        "mesh": asked.kept.get("mesh", ""),
        "meshes": [*MESH_WORDS.items()] if in_mesh else [],
        "seal": seal,
        "fields": fields,
        "words": ", ".join(said),
        "turned": asked.kept.get("turned", ""),
        "nut_torque": asked.kept.get("nut_torque", ""),
        "bolt_unit": axle.display.bolt_torque.symbol,
    }


def _tools(axle: JobAxle, kind: ReadingKind, asked: PageRequest) -> list[dict[str, Any]]:
    """Instruments of the register for this kind, the one that was last used for it chosen."""
    rows = fitting(axle.job.shop, kind, timezone.localdate())
    last = axle.state.latest(kind.kind)
    chosen = asked.kept.get("tool", "")
    found = []
    for row, standing in rows:
        is_chosen = str(row.pk) == chosen if asked.kept else last is not None and last.tool == row.name
        found.append({"id": row.pk, "name": row.name, "standing": standing, "chosen": is_chosen})
    return found


def _row(axle: JobAxle, slot: Slot) -> Reading | None:
    rows = [r for r in axle.valid_readings() if (r.kind, r.place) == (slot.kind, slot.place)]
    if kind_named(slot.kind).most:
        rows = [r for r in rows if r.conditions.get("places", 4) == axle.state.lash_places]
    return rows[-1] if rows else None


def _reading_limits(axle: JobAxle, kind: ReadingKind) -> Range | None:
    if not kind.limit:
        return None
    return axle.spec.sheet.range(_limit_key(axle, kind))


def _limit_key(axle: JobAxle, kind: ReadingKind) -> str:
    return axle.state.preload_key if kind.limit == "pinion_preload" else kind.limit


def _gauge(value: float | None, limits: Range | None, unit: Unit) -> Svg:
    return dials.gauge(value, limits, unit)


def packs_panel(axle: JobAxle, station: str) -> list[dict[str, Any]]:
    pieces = axle.pieces_of(axle.assembly)
    layout = axle.spec.layout
    found: list[dict[str, Any]] = []
    for place in PACK_STATIONS.get(station, ()):
        if place in layout.shim_places:
            fitted = [float(p.thickness) for p in pieces.get(place.value, [])]
            side = f" · {layout.side_of(place).value}" if place in (Place.RING, Place.FAR) else ""
            found.append(
                {
                    "place": place.value,
                    "side": side,
                    "pieces": fitted,
                    "total": axle.state.setting(place),
                    "drawing": dials.stack(fitted, axle.display.length) if fitted else None,
                }
            )
    # The key fits what is still empty, else the first.
    for pack in found:
        pack["has_key"] = pack is next((one for one in found if not one["pieces"]), found[0])
    return found


def adjusters_panel(axle: JobAxle, station: str) -> dict[str, Any] | None:
    if not axle.spec.layout.has_adjusters or station not in (
        StationName.CARRIER_PRELOAD,
        StationName.BACKLASH,
    ):
        return None
    found: dict[str, Any] = {p.value: axle.state.settings.get(p) for p in (Place.RING, Place.FAR)}
    layout = axle.spec.layout
    hands = {place.value: layout.side_of(place).value for place in (Place.RING, Place.FAR)}
    return found | {"aside": adjuster_log(axle.job).is_aside, "hands": hands}
