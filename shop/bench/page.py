"""What the bench page shows, gathered from the axle: nothing is computed here."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from django.conf import settings
from django.urls import reverse
from django.utils import timezone

from axle.advice.inspection import VERDICTS, reuse
from axle.advice.lash import lash_at
from axle.advice.moves import Act, Expected, Move
from axle.advice.progress import StepStanding, work_at
from axle.advice.standing import Slot, Standing, Status
from axle.layout import Place
from axle.limits import Range
from axle.procedure.conditions import (
    ATTITUDE_WORDS,
    FIGURE_WORDS,
    NUT_WORDS,
    OIL_WORDS,
    SLEEVE_WORDS,
    TorqueConditions,
    has_dial,
    has_pull,
    has_seal,
    has_stance,
)
from axle.procedure.stations import ReadingKind, kind_named, stations
from axle.units import Dimension, Unit, brief, show
from shop.bench import carrier, chances, pinion, steps
from shop.bench.practice import practice_card
from shop.drawing import dials
from shop.drawing.bolts import bolts
from shop.drawing.section import Callout, FlankPair, section
from shop.drawing.svg import Svg
from shop.instruments.queries import fitting
from shop.jobs import countersign
from shop.jobs.book import book
from shop.jobs.bridge import Axle
from shop.jobs.models import Assembly, Job, Reading
from shop.jobs.rows import settings_of
from shop.jobs.words import expected_rows, in_both, layout_words, swap_rows
from shop.jobs.work import OutOfOrder
from shop.pattern import page as pattern
from shop.people import rules
from shop.people.models import User

PACK_STATIONS = {
    "depth": (Place.DEPTH,),
    "pinion_preload": (Place.PRELOAD,),
    "carrier_preload": (Place.RING, Place.FAR),
}

# Groups of bolts that a wrench on the line can be read for.
BOLT_KINDS = {"ring": "ring_bolt_torque", "nut": "pinion_nut_torque", "caps": "cap_torque"}
# What a dial may show: its travel, or the figure pointed at, by how much one revolution is in mm.
DIALS = (
    ("travel", "travel"),
    ("figure:2.54", "figure pointed at, 0.100 in a turn"),
    ("figure:1", "figure pointed at, 1 mm a turn"),
)


@dataclass(frozen=True)
class Asked:
    """What the page was asked to show, and what it must keep from a form that was not stored.

    :param station: the station to show; the one in hand when empty.
    :param kind: the reading kind to enter, or "".
    :param place: the place around the ring, or 0.
    :param typed: what was typed and not stored.
    :param error: why it was not stored, in words.
    :param question: a question about it; sending it again stores it.
    :param suggestion: what it may have been meant to be, as it would be typed.
    :param notice: what was done.
    :param moves_on: whether to go on to the station in hand once this one is done.
    :param entry: identity of the entry, kept when the same one is sent again.
    :param view: what is shown instead of the usual: "axle" or "mark".
    :param harm: what positions of the adjusters would do that were not recorded yet.
    :param kept: fields beside the value, kept from a form that was not stored.
    """

    station: str = ""
    kind: str = ""
    place: int = 0
    typed: str = ""
    error: str = ""
    question: str = ""
    suggestion: str = ""
    notice: str = ""
    moves_on: bool = False
    entry: str = ""
    step: str = ""
    view: str = ""
    kept: Mapping[str, str] = field(default_factory=dict)
    out_of_order: OutOfOrder | None = None
    harm: str = ""


def context(axle: Axle, user: User, asked: Asked) -> dict[str, Any]:
    """Everything the bench page and its partial are rendered from."""
    station = asked.station if asked.station in stations() else axle.station
    if asked.moves_on and _is_left(axle, station):
        station = axle.station
    standing = axle.standings.get(station)
    outside = station in axle.plan.scope.without
    card = None if outside else steps.card(axle, station, asked.step, asked.out_of_order)
    if card and asked.step and not asked.kind:
        # The step in hand says what is entered under it.
        asked = replace(asked, kind=next((k for k in card["step"].readings if not k.endswith("_run")), ""))
    slot = _slot(axle, standing, asked) if standing and not outside else None
    move = axle.move
    may_sign = rules.may_sign_on(user, practice=axle.job.practice)
    return {
        "practice": practice_card(axle, station),
        "record": chances.record_line(axle, move),
        "card": card,
        "outside": outside,
        "scope": axle.plan.scope,
        "shows_card": card is not None and (standing is None or bool(asked.step)),
        "away": steps.away(axle),
        "in_hand": axle.step,
        "open_holds": _open_holds(axle, station),
        "axle": axle,
        "job": axle.job,
        "display": axle.display,
        "asked": asked,
        "signed": axle.job.state == Job.State.SIGNED,
        "station": stations()[station],
        "cautions": stations()[station].cautions_for(axle.spec.layout),
        "standing": standing,
        "ways": stations()[station].ways_on(axle.spec.layout),
        "rail": _rail(axle, station),
        "layout_words": layout_words(axle),
        "entry": _entry(axle, slot, asked) if slot else None,
        "packs": _packs(axle, station),
        "adjusters": _adjusters(axle, station),
        "move": move,
        "swaps": swap_rows(axle, move),
        "then": _then(axle, move.then) if move.then is not None else None,
        "move_shows_change": move.act is Act.CHANGE,
        "move_wants_sleeve": move.act is Act.REPLACE,
        "goes_stale": _goes_stale(axle),
        "missed": _missed(axle),
        "expected": expected_rows(axle, move),
        "history": _history(axle),
        "drawing": None
        if station == "pattern" and not outside
        else section(axle.spec.layout, callouts(axle), flank_pair(axle)),
        "pattern": pattern.context(axle, asked.view, asked.place)
        if station == "pattern" and not outside
        else None,
        **({} if outside else _panels(axle, station, asked, slot)),
        "has_instrument": bool(settings.LASH_INSTRUMENT) or axle.job.practice,
        "may_sign": may_sign,
        "countersign": station in countersign.waiting(axle),
        "sheet_open": [
            stations()[name].title
            for name, other in axle.standings.items()
            if name != "sheet" and not other.is_done
        ],
        "inspection": _inspection(axle) if station == "sheet" else None,
        "tighten": _tighten(axle, may_sign=may_sign) if station == "torque" else None,
        "previous_station": _neighbour(axle, station, -1),
        "following_station": _neighbour(axle, station, 1),
    }


def _inspection(axle: Axle) -> dict[str, Any] | None:
    """What an inspection is signed on: what was read and seen, and the verdicts there are."""
    if axle.plan.scope.scope != "inspection":
        return None
    return {"held": reuse(axle.state, axle.found, axle.display), "verdicts": VERDICTS.items()}


def _open_holds(axle: Axle, station: str) -> tuple[StepStanding, ...]:
    """Holds to be told of: on the sheet all, else those passed over; a practice axle came stripped."""
    if station == "sheet":
        return axle.open_holds
    return () if axle.job.practice else axle.passed_over


def _panels(axle: Axle, station: str, asked: Asked, slot: Slot | None) -> dict[str, Any]:
    """What the pinion's stations show in place of the axle's section."""
    if asked.view == "axle":
        return {}
    if station == "depth":
        panel = pinion.depth_panel(axle, slot.kind if slot else "")
        if asked.view == "mark":
            panel["mark"] = pinion.asked_mark(axle, asked.kept)
        return {"depth": panel, "way_in_hand": pinion.way_of(axle, slot.kind) if slot else None}
    if station == "pinion_preload":
        return {"preload": pinion.preload_panel(axle)}
    if station == "carrier_preload":
        panel = carrier.carrier_panel(axle, slot.kind if slot else "")
        return {"carrier": panel, "way_in_hand": carrier.way_of(axle, slot.kind) if slot else None}
    if station == "backlash":
        return {"lash": carrier.lash_panel(axle, slot.place if slot else 0)}
    return {}


def _is_left(axle: Axle, station: str) -> bool:
    """Whether the work goes on from a station once something was done there."""
    if station == "torque":
        return all(group.is_done for group in axle.torques)
    measured = axle.standings.get(station)
    if measured is not None:
        return measured.is_done
    return axle.status_of(station) is not Status.NOT_BEGUN


def callouts(axle: Axle) -> tuple[Callout, ...]:
    """The live values on the section drawing."""
    number, layout, state = axle.job.number, axle.spec.layout, axle.state
    bench = reverse("bench", args=[number])
    pieces = axle.pieces_of(axle.assembly)
    found = []
    titles = {
        Place.DEPTH: "Depth shim",
        Place.PRELOAD: "Preload pack",
        Place.RING: f"{layout.side_of(Place.RING).value.title()}, ring side",
        Place.FAR: f"{layout.side_of(Place.FAR).value.title()}, far side",
    }
    station_of_place = {Place.DEPTH: "depth", Place.PRELOAD: "pinion_preload"}
    for place in (Place.RING, Place.FAR, Place.DEPTH, Place.PRELOAD):
        station = station_of_place.get(place, "carrier_preload")
        link = f"{bench}?station={station}"
        standing = axle.standings[station]
        # Depth is the pack's own; what other packs bring is read, and shown on its own callout.
        own = place is Place.DEPTH or standing.is_done or standing.stale
        status = standing.status.value if own else "begun"
        if place is Place.PRELOAD and not layout.has_preload_pack:
            found.append(Callout(place.value, "Sleeve", "crush", "", status, link))
        elif place in layout.shim_places:
            fitted = pieces.get(place.value, [])
            value = axle.display.show(state.setting(place)) if fitted else "—"
            words = f"{len(fitted)} piece{'s' if len(fitted) != 1 else ''}"
            if status == "out":
                words = f"{len(fitted)} pc"  # beside the ▲ there is no room for more
            known = status if fitted else "not begun"
            found.append(Callout(place.value, titles[place], value, words, known, link))
        else:
            held = f"{state.setting(place):.1f}" if place in state.settings else "—"
            found.append(Callout(place.value, titles[place], held, "holes in", status, link))
    found += [
        _station_callout(axle, "backlash", "Backlash, smallest", bench),
        _station_callout(axle, "pinion_preload", "Pinion preload", bench),
        _station_callout(axle, "carrier_preload", "Carrier preload", bench),
    ]
    mounted = axle.standings["ring_gear"]
    runout = mounted.result.value if mounted.result else None
    limit = axle.spec.sheet.single("ring_runout")
    found.append(
        Callout(
            "runout",
            "Ring runout",
            axle.display.show(runout) if runout is not None else "—",
            f"≤ {brief(limit, axle.display.length)}" if limit is not None else "",
            mounted.status.value,
            f"{bench}?station=ring_gear",
        )
    )
    return tuple(found)


def flank_pair(axle: Axle) -> FlankPair:
    """The newest print, small, with what it says."""
    standing = axle.standings["pattern"]
    newest = max(axle.state.prints, key=lambda p: p.order, default=None)
    words = standing.result.words if standing.result else "not marked yet"
    if newest is not None and newest.assembly != axle.state.assembly:
        words = f"as of assembly {newest.assembly}"
    return FlankPair(
        {name: flank.first for name, flank in newest.flanks.items()} if newest else {},
        words,
        standing.status.value,
        f"{reverse('bench', args=[axle.job.number])}?station=pattern",
    )


def _rail(axle: Axle, current: str) -> list[dict[str, Any]]:
    bench = reverse("bench", args=[axle.job.number])
    rows = []
    for name in axle.plan.stations:
        status = axle.status_of(name).value
        work = work_at(name, axle.progress)
        standing = axle.standings.get(name)
        counted = f"{work.passed}/{work.count}" if work.count else "–"
        rows.append(
            {
                "title": stations()[name].title,
                "status": status if stations()[name].is_measured else status.replace("in range", "done"),
                "key": status.replace(" ", "-"),
                "note": _rail_note(axle, name, standing) if standing else counted,
                "steps": counted,
                "link": f"{bench}?station={name}",
                "current": name == current,
                "in_hand": name == axle.station,
            }
        )
    return rows


def _rail_note(axle: Axle, name: str, standing: Standing) -> str:
    if standing.status.value == "stale":
        return "stale"
    if standing.status is Status.NOT_PART:
        return "–"
    if standing.signature:
        return "signed"
    result = standing.result
    if result is None:
        return ""
    if name == "depth" and axle.state.setting(Place.DEPTH):
        return axle.display.show(axle.state.setting(Place.DEPTH))
    if result.value is None:
        return result.words
    unit = axle.display.unit_for(result.dimension)
    sign = "▲ " if standing.status.value == "out" else ""
    return f"{sign}{show(result.value, unit)}"


def _station_callout(axle: Axle, name: str, title: str, bench: str) -> Callout:
    standing = axle.standings[name]
    result, value, words = standing.result, "—", ""
    limits = _limits_of(axle, name)
    dimension = Dimension.LENGTH if name == "backlash" else Dimension.TORQUE
    if result is not None and result.value is not None:
        value, dimension = show(result.value, axle.display.unit_for(result.dimension)), result.dimension
        if result.words == "end play":
            title, limits = f"{title.split(maxsplit=1)[0]} end play", None
    if limits is not None:
        words = limits.words(axle.display.unit_for(dimension))
    return Callout(name, title, value, words, standing.status.value, f"{bench}?station={name}")


def _limits_of(axle: Axle, name: str) -> Range | None:
    sheet = axle.spec.sheet
    key = {"pinion_preload": axle.state.preload_key}.get(name, name)
    return sheet.range(key)


def _slot(axle: Axle, standing: Standing, asked: Asked) -> Slot | None:
    if standing.station in ("pattern", "sheet"):
        return None
    if standing.station == "torque" and not asked.kind:
        return None  # signed on the torque sheet, stage by stage
    kinds = stations()[standing.station].kinds
    if asked.kind in kinds and not asked.kind.endswith("_run"):
        kind = kind_named(asked.kind)
        return Slot(asked.kind, min(max(asked.place, 1), kind.last_place))
    if axle.move.asks and axle.move.asks[0][0] in kinds and axle.move.station == standing.station:
        return Slot(*axle.move.asks[0])
    if standing.missing:
        return standing.missing[0]
    return Slot(standing.way.kinds[0], 1) if standing.way.kinds else None


def _entry(axle: Axle, slot: Slot, asked: Asked) -> dict[str, Any]:
    kind = kind_named(slot.kind)
    unit = axle.display.unit_for(kind.dimension, bolt=kind.bolt)
    limits = _reading_limits(axle, kind)
    places = axle.state.places_of(slot.kind)
    readings = lash_at(axle.state) if kind.most else axle.state.around(slot.kind)
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
        "settled": bool(asked.kept.get("settled")) if "pull" in asked.kept else True,
        "limits": limits,
        "has_seal": has_seal(slot.kind),
        "is_bite": slot.kind == "pinion_torque" and not axle.spec.layout.has_preload_pack,
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


def _repeats(axle: Axle, kind: ReadingKind, slot: Slot) -> list[dict[str, Any]]:
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


def _conditions(axle: Axle, slot: Slot, asked: Asked) -> dict[str, Any]:
    """How the last torque was read, which the next one most likely is too."""
    last = axle.state.latest(slot.kind) or axle.state.latest("pinion_torque")
    usual = TorqueConditions(figure=axle.spec.sheet.figure.value)
    known = last.torque_conditions if last else usual
    words = {"oil": OIL_WORDS, "attitude": ATTITUDE_WORDS, "figure": FIGURE_WORDS, "nut": NUT_WORDS}
    if slot.kind == "pinion_torque" and not axle.spec.layout.has_preload_pack:
        words["sleeve"] = SLEEVE_WORDS
    chosen = {name: asked.kept.get(name, getattr(known, name)) for name in words}
    seal = bool(asked.kept.get("seal")) if asked.kept else known.seal
    fields = [
        {"name": name, "chosen": value, "values": [*words[name].items()]} for name, value in chosen.items()
    ]
    said = [words[name][value] for name, value in chosen.items() if value in words[name]]
    return {
        "seal": seal,
        "fields": fields,
        "words": ", ".join(said),
        "turned": asked.kept.get("turned", ""),
        "nut_torque": asked.kept.get("nut_torque", ""),
        "bolt_unit": axle.display.bolt_torque.symbol,
    }


def _tools(axle: Axle, kind: ReadingKind, asked: Asked) -> list[dict[str, Any]]:
    """Instruments of the register for this kind, the one that was last used for it chosen."""
    rows = fitting(axle.job.shop, kind, timezone.localdate())
    last = axle.state.latest(kind.kind)
    chosen = asked.kept.get("tool", "")
    found = []
    for row, standing in rows:
        is_chosen = str(row.pk) == chosen if asked.kept else last is not None and last.tool == row.name
        found.append({"id": row.pk, "name": row.name, "standing": standing, "chosen": is_chosen})
    return found


def _tighten(axle: Axle, *, may_sign: bool) -> dict[str, Any] | None:
    """The next stage of the torque sheet, with the bolts drawn in their order."""
    standing = next((g for g in axle.torques if g.next_stage and not g.next_stage.waits), None)
    if standing is None or standing.next_stage is None:
        return None
    unit = axle.display.bolt_torque
    stage = standing.next_stage
    return {
        "group": standing.group,
        "stage": stage,
        "unit": unit.symbol,
        "note": standing.group.note_in(axle.display),
        "middle": brief(stage.stage.wanted.aim, unit),
        "both": in_both(stage.stage.wanted, unit),
        "drawing": bolts(standing.group),
        "entry": str(uuid.uuid4()),
        "kind": BOLT_KINDS.get(standing.group.group, ""),
        "label": f"Torque, {unit.symbol}",
        "locked": axle.job.state == Job.State.SIGNED or not may_sign,
    }


def _row(axle: Axle, slot: Slot) -> Reading | None:
    rows = [r for r in axle.valid_readings() if (r.kind, r.place) == (slot.kind, slot.place)]
    if kind_named(slot.kind).most:
        rows = [r for r in rows if r.conditions.get("places", 4) == axle.state.lash_places]
    return rows[-1] if rows else None


def _reading_limits(axle: Axle, kind: ReadingKind) -> Range | None:
    if not kind.limit:
        return None
    key = axle.state.preload_key if kind.limit == "pinion_preload" else kind.limit
    return axle.spec.sheet.range(key)


def _gauge(value: float | None, limits: Range | None, unit: Unit) -> Svg:
    return dials.gauge(value, limits, unit)


def _packs(axle: Axle, station: str) -> list[dict[str, Any]]:
    pieces = axle.pieces_of(axle.assembly)
    layout = axle.spec.layout
    found = []
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
    return found


def _adjusters(axle: Axle, station: str) -> dict[str, Any] | None:
    if not axle.spec.layout.has_adjusters or station not in ("carrier_preload", "backlash"):
        return None
    found: dict[str, Any] = {p.value: axle.state.settings.get(p) for p in (Place.RING, Place.FAR)}
    layout = axle.spec.layout
    hands = {place.value: layout.side_of(place).value for place in (Place.RING, Place.FAR)}
    return found | {"aside": book(axle.job).is_aside, "hands": hands}


def _then(axle: Axle, change: Move) -> dict[str, Any]:
    """The change that a reading comes before: it can be made at once."""
    return {"move": change, "swaps": swap_rows(axle, change), "expected": expected_rows(axle, change)}


# The station whose number tells whether a forecast held.
_FORETOLD = {
    "Smallest backlash": "backlash",
    "Pinion rotating torque": "pinion_preload",
    "Carrier torque": "carrier_preload",
}


def _missed(axle: Axle) -> list[str]:
    """What the move of this assembly foretold and the readings since do not bear out."""
    made = axle.job.moves.filter(assembly=axle.assembly).order_by("-id").first()
    if made is None:
        return []
    found = []
    for row in made.expected:
        told = Expected(row["label"], row["low"], row["high"], Dimension(row["dimension"]))
        read = made.outcome.get(_FORETOLD.get(told.label, ""), {}).get("value")
        if read is None or not told.is_missed_by(read):
            continue
        unit = axle.display.unit_for(told.dimension)
        band = f"{show(told.low, unit)}–{show(told.high, unit)} {unit.symbol}"
        found.append(
            f"The move “{made.title}” foretold {band} ({told.label.lower()}), and {show(read, unit)} was "
            "read: what it was worked out from does not hold. Read again; look for a cup left behind, or a "
            "piece that is not what it says."
        )
    return found


def _goes_stale(axle: Axle) -> list[str]:
    """What the move makes stale of what has been read."""
    return [
        name
        for name in axle.move.stales
        if (name in axle.standings and axle.standings[name].result is not None)
        or axle.state.latest(name) is not None
    ]


def _history(axle: Axle) -> list[dict[str, Any]]:
    """Assemblies, the newest last, each with its packs and what was read on it."""
    valid = axle.valid_readings()
    return [_assembly_row(axle, assembly, valid) for assembly in axle.assemblies[-4:]]


def _assembly_row(axle: Axle, assembly: Assembly, valid: list[Reading]) -> dict[str, Any]:
    layout = axle.spec.layout
    totals = {
        place.value: show(setting, axle.display.length)
        if place in layout.shim_places
        else f"{setting:.1f} h"
        for place, setting in settings_of(assembly, axle.pieces).items()
    }
    lash = [r.value for r in valid if r.assembly_id == assembly.pk and r.kind == "backlash"]
    limits = axle.spec.sheet.range("backlash")
    smallest = min((v for v in lash if v is not None), default=None)
    side = limits.side(float(smallest)) if limits and smallest is not None else ""
    return {
        "assembly": assembly,
        "current": assembly.pk == axle.assembly.pk,
        "depth": totals.get("depth", "—"),
        "sides": f"{totals.get('ring', '—')} / {totals.get('far', '—')}",
        "lash": show(smallest, axle.display.length) if smallest is not None else "—",
        "out": side in ("under", "over"),
    }


def _neighbour(axle: Axle, station: str, step: int) -> str:
    names = axle.plan.stations
    index = names.index(station) + step
    return names[index] if 0 <= index < len(names) else station
