"""What the page of a job's ratio shows: sets side by side, one in hand, what was chosen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final

from django.urls import reverse

from axle.gearing.compare import Comparison, as_it_was, drawn_to, every_gear
from axle.gearing.fits import CarrierFit, order_questions
from axle.gearing.offers import Offer
from axle.gearing.recommend import what_else_changes
from axle.gearing.speedometer import (
    SENSOR_WORDS,
    TEST_SPEEDS,
    Sensor,
    drive_gears,
    pulses_after,
    scale_factor,
)
from axle.gearing.speeds import Driveline, best_pull
from axle.measure.figures import SPEED
from axle.measure.units import percent, share_percent, signed_percent
from shop.drawing.both_ends import both_ends_bar
from shop.drawing.ratio_line import RatioMark, ratio_line
from shop.drawing.rpm_chart import RpmChart, rpm_chart
from shop.gearing.inputs import RatioInputs, key_of
from shop.jobs.job_axle import JobAxle
from shop.people.hours import currency_of

# Sets beside each other; the rest stand in the list below.
_BESIDE: Final = 4
_CARRIER_WORDS: Final = {
    CarrierFit.FITS: "✓ fits this one",
    CarrierFit.THICK: "✓ fits, thick gear",
    CarrierFit.OTHER: "▲ another one",
    CarrierFit.UNKNOWN: "not known",
}
# At which the speedometer is looked at [km/h].
_LOOKED_AT: Final = TEST_SPEEDS[1]


def ratio_page(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Everything on the page."""
    found = RatioInputs(axle)
    standing = found.standing
    chosen = _chosen(found)
    in_hand = found.find(query.get("set", "")) or chosen or (found.compared[0] if found.compared else None)
    beside = _beside(found, in_hand, chosen)
    shop = axle.job.shop
    return {
        "inputs": found,
        "vehicle": axle.job.vehicle,
        "end": axle.job.get_vehicle_end_display(),
        "wanted": found.wanted,
        "recommended": found.recommended,
        "recommended_key": key_of(found.recommended.best.offer) if found.recommended else "",
        "in_hand": in_hand,
        "in_hand_key": key_of(in_hand.offer) if in_hand else "",
        "drawing": _drawing(found, in_hand),
        "line": _line(found, in_hand),
        "columns": [_column(found, one, in_hand) for one in beside],
        "rows": comparison_rows(found, beside),
        "every": [(key_of(one.offer), one) for one in found.compared],
        "listed": bool(found.sold),
        "speedometer": speedometer_rows(found, in_hand),
        "ends": both_ends_bar(in_hand.ends) if in_hand and in_hand.ends else None,
        "sensor": SENSOR_WORDS[found.vehicle.sensor],
        "else_changes": what_else_changes(in_hand, tyres=_tyres_change(found)) if in_hand else (),
        "standing": standing,
        "chosen": chosen,
        "questions": [
            (name, question, standing.answers.get(name, "")) for name, question in order_questions().items()
        ],
        "currency": currency_of(shop) if shop else "",
        "missing": _missing(found),
        "other_job": found.other_job,
    }


def _chosen(found: RatioInputs) -> Comparison | None:
    """The set that stands, as the list has it now, else as it was written down."""
    chosen = found.standing.chosen
    if chosen is None:
        return None
    offer = chosen.offer
    listed = next((one for one in found.compared if key_of(one.offer) == key_of(offer)), None)
    return listed or found.compare(offer)


def _beside(found: RatioInputs, in_hand: Comparison | None, chosen: Comparison | None) -> list[Comparison]:
    """The sets beside each other: the first ones, and those in hand."""
    first = list(found.compared[:_BESIDE])
    for one in (chosen, in_hand):
        if one is not None and one.offer not in {other.offer for other in first}:
            first = [*first[: _BESIDE - 1], one]
    return first


def _column(found: RatioInputs, one: Comparison, in_hand: Comparison | None) -> dict[str, Any]:
    key = key_of(one.offer)
    address = reverse("ratio", args=[found.job.number])
    best = found.recommended.best if found.recommended else None
    return {
        "link": f"{address}?set={key}",
        "teeth": one.offer.teeth,
        "sold": one.offer.sold_as,
        "current": in_hand is not None and one.offer == in_hand.offer,
        "best": best is not None and one.offer == best.offer,
    }


def comparison_rows(found: RatioInputs, beside: list[Comparison]) -> list[dict[str, Any]]:
    """What is compared, one row for each effect; rows of which nothing is known are left out."""
    metric = found.axle.display.is_metric
    cruise, before = found.vehicle.cruise, as_it_was(found.vehicle, found.facts)
    at = f" at {SPEED.show(cruise, metric=metric)}" if cruise else ""
    rows: list[tuple[str, str, list[str]]] = [
        (
            "ratio, exact",
            _number(before.ratio, 3),
            [f"{one.offer.ratio:.3f}" for one in beside],
        ),
        ("change of ratio", "", [_change(one.change) for one in beside]),
        (
            f"engine{at}, top gear",
            _rpm(before.rpm),
            [_rpm(one.rpm) for one in beside],
        ),
        ("against before", "", [_change(one.rpm_change) for one in beside]),
        ("off what is wanted", "", [_change(one.off_wanted) for one in beside]),
        ("torque at the wheel", "", [_change(one.torque_change) for one in beside]),
        ("pull at the road", "", [_change(one.pull_change) for one in beside]),
        (
            f"most pull{at}",
            _pull(found, before.gears),
            [_pull(found, every_gear(found.vehicle, found.facts, one.offer.ratio)) for one in beside],
        ),
        (
            "lowest gear, overall",
            f"{before.crawl_ratio:.0f} to 1" if before.crawl_ratio else "",
            [f"{one.crawl_ratio:.0f} to 1" if one.crawl_ratio else "" for one in beside],
        ),
        (
            "crawls at idle",
            _speed(before.crawl_speed, metric=metric, decimals=1),
            [_speed(one.crawl_speed, metric=metric, decimals=1) for one in beside],
        ),
        (
            f"speedometer at {SPEED.show(_LOOKED_AT, metric=metric)}",
            _speed(found.vehicle.shows_now.at(_LOOKED_AT), metric=metric) if _is_shown(found) else "",
            [_speed(one.shown.at(_LOOKED_AT), metric=metric) if one.shown else "" for one in beside],
        ),
        (
            "front against rear",
            "",
            [_apart(one) for one in beside],
        ),
        ("teeth", "", [one.meeting.kind.value for one in beside]),
        ("carrier", "", [_CARRIER_WORDS[one.carrier] for one in beside]),
        (
            "driveshaft, of its critical speed",
            "",
            [
                f"{'' if one.shaft.holds else '▲ '}{share_percent(one.shaft.share)}" if one.shaft else ""
                for one in beside
            ],
        ),
        (
            "pinion against before",
            "",
            [share_percent(one.strength.size) if one.strength.size else "" for one in beside],
        ),
        ("overlap along the face", "", [f"{one.strength.overlap:.2f}" for one in beside]),
        ("price", "", [_price(found, one.offer) for one in beside]),
        ("here in", "", [_days(one) for one in beside]),
    ]
    return [
        {"label": label, "before": before, "cells": cells}
        for label, before, cells in rows
        if before or any(cells)
    ]


def _is_shown(found: RatioInputs) -> bool:
    """Whether anything is known of the speedometer."""
    return found.vehicle.sensor is not Sensor.UNKNOWN


def _pull(found: RatioInputs, lines: Sequence[Driveline]) -> str:
    vehicle = found.vehicle
    if vehicle.curve is None or vehicle.cruise is None or not lines:
        return ""
    best = best_pull(lines, vehicle.curve, vehicle.cruise)
    return f"{best[1]:,.0f} N in {best[0] + 1}" if best else ""


def _apart(one: Comparison) -> str:
    if one.ends is None:
        return ""
    sign = {"over 1 %": "▲ ", "within 1 %": "✓ "}.get(one.ends.agreement.value, "")
    return f"{sign}{signed_percent(one.ends.apart, 2)}"


def _price(found: RatioInputs, offer: Offer) -> str:
    shop = found.job.shop
    return "" if offer.price is None or shop is None else currency_of(shop).show(offer.price)


def _days(one: Comparison) -> str:
    if one.offer.days is None:
        return ""
    days = f"{one.offer.days} day{'' if one.offer.days == 1 else 's'}"
    return days if one.in_time is None else f"{days}, in time {percent(one.in_time)}"


def _change(share: float | None) -> str:
    return "" if share is None else signed_percent(share)


def _number(value: float | None, decimals: int) -> str:
    return "" if value is None else f"{value:.{decimals}f}"


def _rpm(value: float | None) -> str:
    return "" if value is None else f"{value:,.0f} rpm"


def _speed(value: float | None, *, metric: bool, decimals: int = 0) -> str:
    return "" if value is None else SPEED.show(value, metric=metric, decimals=decimals)


def _drawing(found: RatioInputs, in_hand: Comparison | None) -> Any:
    """Engine speed in every gear, or nothing where tyres or gears are not known."""
    vehicle = found.vehicle
    if in_hand is None or not vehicle.gears or vehicle.after.get(found.end) is None:
        return None
    return rpm_chart(
        RpmChart(
            as_it_was(vehicle, found.facts).gears,
            every_gear(vehicle, found.facts, in_hand.offer.ratio),
            idle=vehicle.idle,
            peak=vehicle.torque_peak,
            limit=vehicle.limit,
            cruise=vehicle.cruise,
            top=drawn_to(vehicle, found.facts, in_hand.offer.ratio),
            metric=found.axle.display.is_metric,
        )
    )


def _line(found: RatioInputs, in_hand: Comparison | None) -> Any:
    """Sets along their ratios, what is wanted and what this carrier takes."""
    if not found.compared:
        return None
    marks = [
        RatioMark(
            one.offer.ratio, one.offer.teeth, chosen=in_hand is not None and one.offer == in_hand.offer
        )
        for one in found.compared
    ]
    takes = found.vehicle.carriers.get(found.end)
    wanted = (found.wanted, f"wanted {found.wanted:.2f}") if found.wanted else None
    return ratio_line(marks, wanted=wanted, band=takes, band_words="this carrier takes")


def speedometer_rows(found: RatioInputs, one: Comparison | None) -> dict[str, Any] | None:
    """What the speedometer shows with a set, and what puts it right; nothing where that is not known."""
    if one is None or one.shown is None:
        return None
    shown, vehicle = one.shown, found.vehicle
    metric = found.axle.display.is_metric
    gears = drive_gears(shown, *vehicle.drive_gears) if vehicle.drive_gears else ()
    return {
        "shows": [
            (SPEED.show(v, metric=metric), SPEED.show(shown.at(v), metric=metric)) for v in TEST_SPEEDS
        ],
        "legal": shown.is_legal,
        "off": signed_percent(shown.off),
        "std": signed_percent(shown.two_std).removeprefix("+"),
        "factor": f"{scale_factor(shown):.4f}",
        "pulses": f"{pulses_after(vehicle.pulses, shown):,.0f}" if vehicle.pulses else "",
        "gears": [(g.drive, g.driven, signed_percent(g.error)) for g in gears],
    }


def _tyres_change(found: RatioInputs) -> bool:
    return found.vehicle.before != found.vehicle.after


def _missing(found: RatioInputs) -> list[str]:
    """What is not known yet of the vehicle, and what it would tell."""
    vehicle, missing = found.vehicle, []
    if vehicle.after.get(found.end) is None:
        missing.append("tyres: engine speed, pull, speedometer")
    if not vehicle.gears:
        missing.append("gearbox: engine speed in every gear")
    if vehicle.cruise is None:
        missing.append("cruising speed: engine speed there")
    if found.old_ratio is None:
        missing.append("the ratio that is in it: every change")
    if vehicle.carriers.get(found.end) is None:
        missing.append("which ratios this carrier takes: the carrier break")
    if vehicle.sensor.value == "unknown":
        missing.append("where the speed is taken: what the speedometer shows")
    if vehicle.centre.value != "none" and found.other_ratio is None:
        missing.append("the other axle: whether both ends agree")
    return missing
