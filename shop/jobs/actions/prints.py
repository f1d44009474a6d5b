"""Prints of the contact pattern: how one was made, what was wiped, and the gear maker's chart."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field

from axle.contact.mark import Edge, Strength
from axle.contact.patch import Patch
from axle.contact.print_conditions import MOST_PLACES, making_of
from axle.errors import AxleError, quoted
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Pattern, PrintMade
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right
from shop.specs.models import SpecSheet
from shop.specs.services import keep_version

MOST_PATCHES = 6
_MOST_TEETH = 80


@dataclass(frozen=True)
class Seen:
    """How a patch was seen, beside its outline.

    :param place: place around the ring gear, from 1.
    :param tooth: the tooth's number where somebody counted.
    :param edge: "feathered" or "hard".
    :param strength: "clear", "faint" or "dark".
    :param taken: how it was taken.
    :param photo: entry of the photo it was read from.
    :param corners: the places pointed at on it, shares of its width and height.
    :param spread: standard deviation of the patch's middle along and up, as it was read.
    :param beside: what other teeth on it show: "tooth", "u", "v", "area" of each.
    """

    place: int = 1
    tooth: int | None = None
    edge: str = Edge.FEATHERED.value
    strength: str = Strength.CLEAR.value
    taken: Pattern.Taken = Pattern.Taken.BY_HAND
    photo: uuid.UUID | None = None
    corners: Sequence[Sequence[float]] = field(default_factory=tuple)
    spread: Sequence[float] = ()
    beside: Sequence[Mapping[str, float]] = ()

    def __post_init__(self) -> None:
        if not 1 <= self.place <= MOST_PLACES:
            raise AxleError("place", given=f"{self.place}", wanted=f"1 to {MOST_PLACES}")
        if self.tooth is not None and not 1 <= self.tooth <= _MOST_TEETH:
            raise AxleError("tooth", given=f"{self.tooth}", wanted=f"1 to {_MOST_TEETH}")
        for what, given, kind in (("edge", self.edge, Edge), ("print", self.strength, Strength)):
            if given not in {member.value for member in kind}:
                wanted = " or ".join(str(member.value) for member in kind)
                raise AxleError(what, given=quoted(given, 20), wanted=wanted)


def mark(
    user: User,
    job: Job,
    version: int,
    *,
    flank: str,
    patches: Sequence[Patch],
    entry: uuid.UUID,
    seen: Seen | None = None,
) -> Pattern:
    """Keep what is wiped on one flank: of the assembly in hand, or as found on arrival."""
    return mark_all(user, job, version=version, marks={flank: (patches, entry)}, seen=seen)[0]


def mark_all(
    user: User,
    job: Job,
    version: int,
    marks: Mapping[str, tuple[Sequence[Patch], uuid.UUID]],
    seen: Seen | None = None,
) -> list[Pattern]:
    """Keep what is wiped on flanks of one tooth: patches with the entry's identity, by flank word."""
    seen = seen or Seen()
    entries = [entry for _, entry in marks.values()]
    known = list(Pattern.objects.filter(entry__in=entries, assembly__job=job))
    if known:
        return known
    for flank, (patches, _) in marks.items():
        if flank not in Pattern.Flank.values:
            raise AxleError("flank", given=quoted(flank, 20), wanted="drive or coast")
        if not 1 <= len(patches) <= MOST_PATCHES:
            raise AxleError("patches", given=f"{len(patches)}", wanted=f"1 to {MOST_PATCHES} on one flank")
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        rows = [
            _row(axle, user, flank=flank, patches=patches, entry=entry, seen=seen)
            for flank, (patches, entry) in marks.items()
        ]
        found = " as found" if seen.taken == Pattern.Taken.AS_FOUND else ""
        change.what = f"marked the {' and the '.join(marks)} flank{found}"
    return rows


def _row(
    axle: JobAxle, user: User, flank: str, patches: Sequence[Patch], entry: uuid.UUID, seen: Seen
) -> Pattern:
    outlines = [[[round(u, 4), round(v, 4)] for u, v in patch.outline] for patch in patches]
    return Pattern.objects.create(
        entry=entry,
        assembly=axle.assembly,
        flank=flank,
        at=clock.now(),
        person=user,
        by=user.called,
        outline=outlines[0],
        more=outlines[1:],
        number=axle.print_number,
        place=seen.place,
        tooth=seen.tooth,
        edge=seen.edge,
        strength=seen.strength,
        photo_entry=seen.photo,
        corners=[[round(x, 5), round(y, 5)] for x, y in seen.corners],
        spread=[round(part, 4) for part in seen.spread],
        beside=[dict(each) for each in seen.beside],
        taken=seen.taken,
        settings=loading.as_json(axle.state.settings),
    )


def make(
    user: User,
    job: Job,
    version: int,
    given: Mapping[str, object],
    entry: uuid.UUID,
    *,
    again: bool = False,
) -> PrintMade:
    """Say how the print in hand was made; or begin another print of the same assembly."""
    known = PrintMade.objects.filter(entry=entry, assembly__job=job).first()
    if known is not None:
        return known
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        making = making_of({**asdict(axle.making), "compound": axle.making.compound.value, **given})
        row = PrintMade.objects.create(
            entry=entry,
            assembly=axle.assembly,
            at=clock.now(),
            person=user,
            by=user.called,
            number=axle.print_number + again,
            settings=loading.as_json(axle.state.settings),
            making={**asdict(making), "compound": making.compound.value},
        )
        change.what = "began another print" if again else "said how the print was made"
    return row


def keep_chart(user: User, job: Job, version: int, flank: str, patch: Patch) -> None:
    """Keep one flank of the gear maker's chart with the job's gears, and with the shop's own sheet."""
    rules.require_right(user, Right.SHEETS)
    if flank not in Pattern.Flank.values:
        raise AxleError("flank", given=quoted(flank, 20), wanted="drive or coast")
    outline = [[round(u, 4), round(v, 4)] for u, v in patch.outline]
    with job_change(job, user, version) as change:
        held = change.job
        held.sheet = {**held.sheet, "chart": {**held.sheet.get("chart", {}), flank: outline}}
        sheet = SpecSheet.objects.of(user.shop).filter(name=held.sheet["name"]).first()
        if sheet is not None:
            sheet.chart = {**sheet.chart, flank: outline}
            sheet.save()
            keep_version(user, sheet)
        change.what = f"drew the maker's chart, {flank} flank"


def drop_chart(user: User, job: Job, version: int) -> None:
    """Take the maker's chart off this job's gears; the sheet keeps its own."""
    rules.require_right(user, Right.SHEETS)
    with job_change(job, user, version) as change:
        held = change.job
        held.sheet = {name: value for name, value in held.sheet.items() if name != "chart"}
        change.what = "took the maker's chart off"
