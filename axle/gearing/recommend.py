"""Which set to name first, and why; what else changes with it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError
from axle.gearing.compare import Comparison
from axle.gearing.fits import CarrierFit
from axle.measure.units import percent, signed_percent

_KINDS = ("ratio", "carrier", "thick", "tyres")
# Nearer than this a set gives what is wanted.
_AS_WANTED = 0.002


class _Line(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    when: tuple[str, ...]
    words: str


@dataclass(frozen=True)
class Recommendation:
    """The set that is named first.

    :param best: the set with what it does.
    :param order: all sets, best first.
    :param reasons: why, in sentences.
    """

    best: Comparison
    order: tuple[Comparison, ...]
    reasons: tuple[str, ...]


def recommend(found: Sequence[Comparison]) -> Recommendation | None:
    """Name the set that comes nearest to the wanted engine speed, its drawbacks counted.

    :param found: what each set does.
    :returns: nothing where there is no set, or where no ratio is wanted: then nobody knows which is better.
    :source: ``data/weights.toml``, from memory.
    """
    known = [one for one in found if one.off_wanted is not None]
    if not known:
        return None
    order = tuple(sorted(found, key=lambda one: (one.off_wanted is None, one.cost, one.offer.ring)))
    return Recommendation(order[0], order, _reasons(order))


def _reasons(order: Sequence[Comparison]) -> tuple[str, ...]:
    best = order[0]
    off = best.off_wanted or 0.0
    much = signed_percent(abs(off)).removeprefix("+")
    way = "above" if off > 0 else "below"
    near = "as wanted" if abs(off) < _AS_WANTED else f"{much} {way} what is wanted"
    first = f"{best.offer.name}: engine speed {near}" + (
        f", {best.rpm:,.0f} rpm at cruise." if best.rpm else "."
    )
    reasons = [first]
    nearest = min(
        (one for one in order if one.off_wanted is not None), key=lambda one: abs(one.off_wanted or 0.0)
    )
    if nearest is not best:
        against = [
            point for point in nearest.drawbacks if point.kind not in {p.kind for p in best.drawbacks}
        ]
        why = against[0].words if against else "it has more against it."
        reasons.append(f"{nearest.offer.name} comes nearer, but: {why[0].lower() + why[1:]}")
    if best.in_time is not None:
        reasons.append(f"It comes in time with {percent(best.in_time)}.")
    reasons += [point.words for point in best.drawbacks]
    return tuple(reasons)


@cache
def _changes() -> Mapping[str, _Line]:
    found = read_table(__file__, "data/changes.toml", dict[str, _Line])
    wrong = [kind for line in found.values() for kind in line.when if kind not in _KINDS]
    if wrong:
        raise AxleError("changes.toml", given=wrong[0], wanted=", ".join(_KINDS))
    return found


def what_else_changes(chosen: Comparison, *, tyres: bool) -> tuple[str, ...]:
    """What else has to be looked at, in sentences.

    :param chosen: the set.
    :param tyres: the tyres change too.
    :source: ``data/changes.toml``; common practice, no source.
    """
    kinds = {"tyres"} if tyres else set()
    if chosen.change is None or abs(chosen.change) > 1e-9:
        kinds.add("ratio")
    if chosen.carrier is CarrierFit.OTHER:
        kinds.add("carrier")
    if chosen.carrier is CarrierFit.THICK:
        kinds.add("thick")
    return tuple(line.words for line in _changes().values() if kinds & set(line.when))
