"""What the build sheet says, gathered from the axle: nothing is computed here."""

from __future__ import annotations

from typing import Any

from axle.backlash.around import tooth_at
from axle.contact.mark import FlankMark
from axle.contact.target import TITLES
from axle.fasteners.signing import GroupStanding
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Unit, percent, show
from axle.noise.lines import KeptVerdict, standing_account
from axle.procedure.choices import choices
from axle.procedure.names import StationName
from axle.procedure.stations import ReadingKind, kind_named, stations
from axle.road.lines import OUTCOME_WORDS, Outcome
from axle.road.listen import Sound, listen_points
from axle.state.reading import Print
from axle.stations.backlash import backlash_around, learned_ratios
from axle.stations.depth import method_title
from axle.stations.depth_measurements import wanted_depth
from axle.stations.method import is_present
from axle.stations.pattern import depth_words, read_print
from shop.drawing import flanks
from shop.drawing.section import section
from shop.jobs import noted_lines
from shop.jobs.actions import signing
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.cross_checks import cross_checks
from shop.jobs.formatting import place_words
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Reading
from shop.jobs.rows import order_of

_FINAL_KINDS = (
    "ring_runout",
    "pinion_torque",
    "total_torque",
    "carrier_torque",
    "zero_play",
    "tap_in",
    "adjuster_pull",
    "backlash",
)


def context(axle: JobAxle) -> dict[str, Any]:
    """Everything the build sheet shows, on screen and in print."""
    layout, gears = axle.spec.layout, axle.spec.gears
    prints = [p for p in axle.state.prints if p.assembly == axle.state.assembly]
    signatures = axle.state.signatures
    return {
        "axle": axle,
        "job": axle.job,
        "display": axle.display,
        "ratio": f"{gears.ratio:.3f}",
        "hunting": "hunting" if gears.is_hunting else "not hunting: time it by its marks",
        "results": [_result(axle, name) for name in axle.standings if name != "sheet"],
        "readings": [row for kind in _FINAL_KINDS if (row := _reading(axle, kind))],
        "packs": [_pack(axle, place) for place in (*layout.shim_places, *_adjusters(axle))],
        "sleeve": not layout.has_preload_pack,
        "section": section(layout),
        "flanks": [
            flanks.flank(name, _printed(prints, name), flanks.Shown(stale=not prints))
            for name in ("drive", "coast")
        ],
        "printed": _print_words(axle, prints),
        "before": _before(axle),
        "deviations": [
            (stations()[name].title, sign)
            for name, sign in signatures.items()
            if sign.deviation and axle.standings[name].signature == sign
        ],
        "over": _signed_over(axle),
        "open_steps": 0 if axle.job.practice else len(axle.not_done),
        "checks": [] if axle.job.practice else cross_checks(axle, StationName.SHEET),
        "waived": [s for s in axle.progress if s.status.value == "waived"],
        "torques": [] if "torque" in axle.plan.scope.without else [_torque(axle, s) for s in axle.torques],
        "baseline": _baseline(axle),
        "findings": [row for row in axle.found if row.sign != "sound"],
        "overdue": _overdue(axle),
        "carrier": _carrier(axle),
        "scope": axle.plan.scope if axle.plan.scope.scope != "whole" else None,
        "not_part": [
            stations()[name].title for name in axle.plan.stations if name in axle.plan.scope.without
        ],
        "verdict": _verdict(axle),
        "road": _road(axle),
        "ratio_words": _ratio(axle),
        "signature": axle.standings[StationName.SHEET].signature,
        "signed_at": _signed_at(axle),
        "moves": list(axle.job.moves.standing().select_related("assembly").order_by("id")),
    }


def _print_words(axle: JobAxle, prints: list[Print]) -> str:
    """How the print was made, and where it puts the pinion."""
    newest, says = max(prints, key=lambda p: p.order, default=None), read_print(axle.state)
    if newest is None:
        return ""
    words = f"Print {newest.number}: {newest.making.words}."
    if says is not None and says.placed is not None and says.placed.plausible:
        told = depth_words(says.placed, axle.display)
        words += f" Pinion {told}, held to {TITLES[says.target.school]}."
    return words


def _before(axle: JobAxle) -> dict[str, Any] | None:
    """The pattern as it was before: as found, else the first print of another assembly; nothing without."""
    if axle.state.found:
        marks = {name: FlankMark((patch,)) for name, patch in axle.state.found.items()}
        words = "As found on arrival"
    else:
        earlier = [p for p in axle.state.prints if p.assembly < axle.state.assembly]
        first = min(earlier, key=lambda p: p.order, default=None)
        if first is None:
            return None
        marks = {name: mark.first for name, mark in first.flanks.items()}
        words = f"Assembly {first.assembly}"
    drawn = [flanks.flank(name, marks.get(name), flanks.Shown()) for name in ("drive", "coast")]
    return {"words": words, "flanks": drawn}


def _printed(prints: list[Print], name: str) -> FlankMark | None:
    newest = max(prints, key=lambda p: p.order, default=None)
    return newest.flanks[name].first if newest and name in newest.flanks else None


def _torque(axle: JobAxle, standing: GroupStanding) -> dict[str, str]:
    """A group of fasteners: what its last signed stage was set to, by whom, against what."""
    group, waiting = standing.group, standing.next_stage
    rows = [row for row in axle.tightenings if row.group == group.group]
    signed = [stage.signed for stage in standing.stages if stage.signed is not None]
    unit = group.unit_in(axle.display)
    return {
        "title": group.title,
        "words": group.fastener,
        "torque": f"{show(signed[-1].torque, unit)} {unit.symbol}" if signed else "—",
        "wanted": group.wanted.words(unit),
        "source": group.source,
        "by": rows[-1].signed_by if rows and signed else "",
        "state": "✓ every stage" if waiting is None else f"{waiting.stage.words} not signed",
    }


def _ratio(axle: JobAxle) -> str:
    """The set that was chosen and what the customer said to it, or ""."""
    stands = noted_lines.ratio_of(axle.job)
    if stands.chosen is None:
        return ""
    words = f"{stands.chosen.offer.name}, chosen in place of {stands.chosen.before}"
    if stands.answer is None:
        return words
    return f"{words}; {stands.answer.name} said {'yes' if stands.answer.agreed else 'no'}"


def _noise(axle: JobAxle) -> list[tuple[str, str]]:
    """What the noise was taken for, before and after."""
    lines, rows = noted_lines.noise_of(axle.job), []
    for phase, title in (("arrival", "Noise before"), ("road", "Noise after")):
        told = standing_account(lines, phase)
        if told is not None:
            likely = told.ranked[0]
            rows.append((title, f"by account {likely.cause.title}, {percent(likely.chance)}"))
        kept = [line for line in lines if isinstance(line, KeptVerdict) and line.phase == phase]
        if kept:
            rows.append((title, f"by a recording {kept[-1].title}, {percent(kept[-1].chance)}"))
    return rows


def _road(axle: JobAxle) -> list[tuple[str, str]]:
    """What the road showed, with the complaint it is held against."""
    stands = noted_lines.road_of(axle.job)
    rows = _noise(axle)
    if stands.oil is not None:
        parts = (stands.oil.grade, stands.oil.volume, stands.oil.additive)
        rows.append(("Oil", ", ".join(part for part in parts if part)))
    heard = [one for one in stands.heard.values() if one.line.sound != Sound.QUIET.value]
    if stands.heard:
        said = "; ".join(
            f"{listen_points()[one.line.point].title.lower()}: {one.line.sound}" for one in heard
        )
        rows.append(("Road test", said or f"nothing heard at {len(stands.heard)} points"))
    if stands.drives:
        newest = stands.drives[max(stands.drives)]
        rows.append(("Temperatures", f"{newest.warmth.value}: {newest.words[0]}"))
    if stands.outcome is not None:
        became = OUTCOME_WORDS[Outcome(stands.outcome.outcome)]
        more = f": {stands.outcome.words}" if stands.outcome.words else ""
        rows.append(("Complaint", f"{became}{more}"))
    if stands.break_in is not None:
        check = stands.break_in.check
        when = f"; check about {check.due.day} {check.due:%b %Y}" if check else ""
        rows.append(("Break-in", f"{stands.break_in.driven} of {len(stands.break_in.legs)} legs{when}"))
    return rows


def _baseline(axle: JobAxle) -> list[dict[str, str]]:
    """What was read as received beside what it is now."""
    pairs = (
        ("arrival_backlash", "backlash"),
        ("arrival_runout", "ring_runout"),
        ("arrival_total_torque", "total_torque"),
    )
    found = []
    for before, after in pairs:
        unit = axle.display.unit_for(kind_named(before).dimension)
        values: list[str] = [
            " · ".join(show(t.value, unit) for t in axle.state.around(kind).values()) or "—"
            for kind in (before, after)
        ]
        result = axle.standings[StationName.RING_GEAR].result
        if after == "ring_runout" and result is not None and result.value is not None:
            values[1] = show(result.value, unit)  # a run around says more than one figure
        found.append(
            {"title": kind_named(after).title, "before": values[0], "now": values[1], "unit": unit.symbol}
        )
    return found


def _adjusters(axle: JobAxle) -> tuple[Place, ...]:
    return (Place.RING, Place.FAR) if axle.spec.layout.has_adjusters else ()


def _verdict(axle: JobAxle) -> list[str]:
    """The signed verdict of an inspection."""
    row = axle.job.sign_offs.filter(station=StationName.SHEET, withdrawn=False).order_by("-id").first()
    shown = (
        row is not None
        and axle.plan.scope.scope == "inspection"
        and axle.standings[StationName.SHEET].signature
    )
    return list(row.statement) if row is not None and shown else []


def _signed_over(axle: JobAxle) -> list[str]:
    """What was signed over with the sheet, as it stood then; before that, what would be."""
    row = axle.job.sign_offs.filter(station=StationName.SHEET, withdrawn=False).order_by("-id").first()
    if row is not None and axle.standings[StationName.SHEET].signature:
        over = [line for line in row.statement if line.startswith(signing.SIGNED_OVER)]
        return [*over, *([f"Why steps are not done: “{row.reason}”"] if over and row.reason else [])]
    # Before it is signed the open steps are work still to do, and no deviations yet.
    return [] if axle.job.practice else [*signing.passed_order_lines(axle), *signing.made_up_lines(axle)]


def _signed_at(axle: JobAxle) -> Any:
    row = axle.job.sign_offs.filter(station=StationName.SHEET, withdrawn=False).order_by("-id").first()
    return row.at if row is not None and axle.standings[StationName.SHEET].signature else None


def _result(axle: JobAxle, name: str) -> dict[str, str]:
    standing = axle.standings[name]
    result = standing.result
    value = ""
    if result is not None and result.value is not None:
        unit = axle.display.unit_for(result.dimension)
        value = f"{show(result.value, unit)} {unit.symbol}"
    return {
        "title": stations()[name].title,
        "value": value,
        "words": result.words if result else "",
        "status": standing.status.value,
        "key": standing.status.value.replace(" ", "-"),
    }


def _depth_words(axle: JobAxle) -> str:
    """How depth was found, and what was wanted."""
    compared = wanted_depth(axle.state)
    if compared is None or axle.state.methods.get("depth") == "trial":
        return ""
    shown = f"{axle.display.show(compared.thickness)} ± {axle.display.show(compared.uncertainty)}"
    methods = [method_title(result.method).lower() for result in compared.results]
    return f"; wanted {shown}, {methods[0] if len(methods) == 1 else f'{len(methods)} ways'}"


def _overdue(axle: JobAxle) -> list[str]:
    """Instruments whose calibration was overdue as they were read with."""
    rows = axle.valid_readings()
    return sorted({f"{row.instrument}, {row.overdue}" for row in rows if row.overdue})


def _reading(axle: JobAxle, name: str) -> dict[str, Any] | None:
    kind = kind_named(name)
    present = {t.order for t in axle.state.readings if t.kind == name and is_present(t, axle.state)}
    rows: dict[int, Reading] = {
        r.place: r for r in axle.valid_readings() if r.kind == name and order_of(r) in present
    }
    if not rows:
        return None
    unit = axle.display.unit_for(kind.dimension, bolt=kind.bolt)
    newest = max(rows.values(), key=lambda row: row.at)
    key = axle.state.preload_key if kind.limit == "pinion_preload" else kind.limit
    limits = axle.spec.sheet.range(key) if key else None
    return {
        "title": kind.title,
        "values": " · ".join(_value(kind, row, unit) for _, row in sorted(rows.items())),
        "unit": "" if kind.grades else unit.symbol,
        "typed": ", ".join(row.as_typed for _, row in sorted(rows.items())),
        "limits": _limits(limits, unit),
        "source": _source(axle, key, unit) if key else "",
        "by": newest.signed_by,
        "at": newest.at,
        "assembly": next(a.number for a in axle.assemblies if a.pk == newest.assembly_id),
        "makeshift": any(row.confidence == Reading.Confidence.MAKESHIFT for row in rows.values()),
    }


def _source(axle: JobAxle, key: str, unit: Unit) -> str:
    """Where limits come from; of two manuals also what the other one says."""
    words, other = axle.spec.sheet.source(key), axle.spec.sheet.not_in_force(key)
    kind = "bolt" if unit is axle.display.bolt_torque else unit.dimension.value
    limits = other.range(kind) if other else None
    if other is None or limits is None:
        return words
    return f"{words}; not in force: {limits.words(unit)} ({other.source_words})"


def _value(kind: ReadingKind, row: Reading, unit: Unit) -> str:
    return row.typed if kind.grades else show(row.value or 0, unit)


def _carrier(axle: JobAxle) -> list[str]:
    """How the carrier was set: the school, its reason, the ratio that was learned, what is marked."""
    school = choices()["school"].values[axle.plan.facts["school"]].title
    reason = axle.job.reasons.get("school", "")
    words = [f"preload by {school}" + (f" (“{reason}”)" if reason else "")]
    ratios = learned_ratios(axle.state).ratios
    if ratios.moves:
        moves = f"{ratios.moves} move{'s' if ratios.moves > 1 else ''}"
        words.append(
            f"{ratios.per_ring:.2f} ± {ratios.ring_std:.2f} of backlash per ring gear movement, {moves}"
        )
    around = backlash_around(axle.state)
    if around is not None:
        tooth = tooth_at(around.tight_place, axle.state.lash_places, axle.spec.gears.ring_teeth)
        words.append(f"tight spot at about tooth {tooth} from the mark")
    if axle.spec.layout.has_adjusters and adjuster_log(axle.job).marked:
        words.append("adjusters marked at their locks")
    return words


def _limits(limits: Range | None, unit: Unit) -> str:
    if limits is None:
        return "—"
    return limits.words(unit)


def _pack(axle: JobAxle, place: Place) -> dict[str, Any]:
    title = place_words(axle, place)
    pieces = axle.pieces_of(axle.assembly).get(place.value, [])
    if not pieces and place in axle.state.settings:
        return {"title": title, "total": f"{axle.state.setting(place):.1f}", "pieces": "holes in"}
    return {
        "title": title,
        "total": axle.display.show(axle.state.setting(place)) if pieces else "—",
        "pieces": " + ".join(axle.display.show(piece.thickness) for piece in pieces) or "not recorded",
        "more": _depth_words(axle) if place is Place.DEPTH else "",
    }
