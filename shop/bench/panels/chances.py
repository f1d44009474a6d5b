"""How well the chances that were given have held in this shop."""

from __future__ import annotations

import csv
from io import StringIO
from typing import Any

from django.db.models import QuerySet

from axle.decision.calibration import ReliabilityBin, reliability_bins, words_for
from axle.decision.move import Move as Advice
from axle.state.priors import band_words, starting_widths
from shop.jobs import learned
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Move
from shop.people.models import Shop


def held_moves(shop: Shop | None) -> QuerySet[Move]:
    """Moves of a shop's own jobs whose chance has come about or not."""
    return (
        Move.objects.standing()
        .filter(job__shop=shop, job__practice=False, chance__isnull=False, held__isnull=False)
        .order_by("-id")
    )


def bands_of(shop: Shop | None) -> tuple[ReliabilityBin, ...]:
    """Ten bands of chance, with how often they held."""
    told = held_moves(shop).values_list("chance", "held")
    return reliability_bins(
        (chance, held) for chance, held in told if chance is not None and held is not None
    )


def learned_rows(shop: Shop | None) -> list[dict[str, Any]]:
    """Every figure that the shop has learned, beside what was held before."""
    return [
        {
            "title": one.before.title,
            "before": band_words(one.before),
            "now": band_words(one.now),
            "jobs": one.pooled.jobs,
        }
        for one in learned.widths_of(shop)
    ]


def figures_csv(shop: Shop | None) -> str:
    """The shop's figures, one row a job and quantity, as an open table."""
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(("job", "used", "quantity", "unit", "value", "spread"))
    for job in learned.jobs_of(shop):
        for figure in job.figures:
            unit = starting_widths()[figure.quantity].unit
            row = (job.number, "yes" if job.used else "no", figure.quantity.value, unit)
            writer.writerow((*row, f"{figure.value:.6g}", f"{figure.std:.6g}"))
    return out.getvalue()


def record_line(axle: JobAxle, move: Advice) -> str:
    """What this shop's moves of a like chance came to, in one line; nothing before there are any."""
    if move.probability is None:
        return ""
    return words_for(move.probability, bands_of(axle.job.shop))
