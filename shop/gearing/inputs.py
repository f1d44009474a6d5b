"""What the core wants of a job to compare sets: its vehicle, its axle, what can be had."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from django.utils import timezone

from axle.errors import AxleError
from axle.gearing.both_ends import ratio_match
from axle.gearing.compare import AxleFacts, Comparison, compare, restoring, wanted_ratio
from axle.gearing.lines import RatioStanding
from axle.gearing.offers import Offer, pairs_near
from axle.gearing.recommend import Recommendation, recommend
from axle.gearing.vehicle import End, Vehicle, vehicle_from
from axle.parts.lines import OPEN, LineState
from axle.schedule.delivery import chance_in_time, days_left
from shop.jobs import loading, noted_lines
from shop.jobs.actions.money import vehicle_of
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job
from shop.stock.gear_sets import offers_of

# Sets that are compared at the most.
MOST_SETS = 200
# How far around the wanted ratio pairs are looked for that nobody sells.
_AROUND = 0.10


@dataclass(frozen=True)
class RatioInputs:
    """A job's ratio with everything around it.

    :param axle: the job.
    """

    axle: JobAxle

    @property
    def job(self) -> Job:
        """Its row."""
        return self.axle.job

    @cached_property
    def vehicle(self) -> Vehicle:
        """Its vehicle, as far as it is known; one that cannot be used counts as not known."""
        figures = self.job.vehicle.figures if self.job.vehicle else {}
        try:
            return vehicle_from(figures)
        except AxleError:
            return vehicle_from({})

    @cached_property
    def sold(self) -> tuple[Offer, ...]:
        """The shop's list, as far as it fits this ring gear."""
        return offers_of(self.job.shop, self.axle.spec.gears.ring_diameter)

    @cached_property
    def standing(self) -> RatioStanding:
        """What was counted, chosen and answered."""
        return noted_lines.ratio_of(self.job, self.sold)

    @cached_property
    def old_ratio(self) -> float | None:
        """What was in it: as counted, as the vehicle says, else the sheet's where it stays."""
        settled, chosen = self.standing.settled, self.standing.chosen
        if settled is not None:
            return settled.ratio
        # Once the sheet is signed the vehicle tells of the new set: what was in it stands with the choice.
        if chosen is not None and chosen.old_ratio is not None:
            return chosen.old_ratio
        told = self.vehicle.ratios.get(self.end)
        if told is not None:
            return told
        if chosen is not None:
            return None
        same = self.axle.plan.facts["ratio"] == "same"
        return self.axle.spec.gears.ratio if same else None

    @property
    def contradicts(self) -> bool:
        """Whether the counted pair is another than the vehicle's own figure."""
        settled, told = self.standing.settled, self.vehicle.ratios.get(self.end)
        if settled is None or told is None or self.standing.chosen is not None:
            return False
        return not ratio_match(settled.ratio, told).holds

    @property
    def end(self) -> End:
        """At which end of the vehicle the axle is."""
        return End(self.job.vehicle_end)

    @cached_property
    def other_job(self) -> Job | None:
        """The newest job on the other axle of the same vehicle; else one that shares its promise."""
        if self.job.vehicle is None:
            return next((other for other in vehicle_of(self.job) if other.pk != self.job.pk), None)
        jobs = Job.objects.of(self.job.shop).filter(
            vehicle=self.job.vehicle, vehicle_end=self.end.other.value, practice=False
        )
        return jobs.order_by("-number").first()

    @cached_property
    def other_waits(self) -> bool:
        """Whether the other axle is in the shop too and its set is not chosen yet: it will follow."""
        other = self.other_job
        if other is None or other.state == Job.State.SIGNED or self.standing.chosen is not None:
            return False
        return noted_lines.ratio_of(other).chosen is None

    @cached_property
    def other_ratio(self) -> float | None:
        """The ratio of the other axle once both are done; nothing while its own job has chosen none."""
        if self.other_job is not None:
            return None if self.other_waits else loading.spec_of(self.other_job).gears.ratio
        return self.vehicle.ratios.get(self.end.other)

    @cached_property
    def facts(self) -> AxleFacts:
        """The axle, as far as it bears on its ratio."""
        return AxleFacts(
            self.end,
            self.axle.spec.gears,
            use=self.axle.plan.facts["use"],
            old_ratio=self.old_ratio,
            other_ratio=self.other_ratio,
        )

    @cached_property
    def wanted(self) -> float | None:
        """The ratio that is wanted, or nothing where too little is known."""
        return wanted_ratio(self.vehicle, self.facts)

    @cached_property
    def restoring(self) -> float | None:
        """The ratio that gives the old engine speeds back."""
        return restoring(self.vehicle, self.facts)

    @cached_property
    def offers(self) -> tuple[Offer, ...]:
        """What can be had: the shop's list; where it has none, every pair that could be cut."""
        if self.sold:
            return self.sold[:MOST_SETS]
        about = self.wanted or self.old_ratio or self.axle.spec.gears.ratio
        return pairs_near(about, _AROUND)[:MOST_SETS]

    @cached_property
    def compared(self) -> tuple[Comparison, ...]:
        """What each set does, in the order in which they are named."""
        found = [self.compare(offer) for offer in self.offers]
        said = recommend(found)
        if said is not None:
            return said.order
        about = self.old_ratio or self.axle.spec.gears.ratio
        return tuple(sorted(found, key=lambda one: (abs(one.offer.ratio - about), one.offer.ring)))

    @cached_property
    def recommended(self) -> Recommendation | None:
        """The set that is named first, with its reasons."""
        return recommend(self.compared)

    def compare(self, offer: Offer) -> Comparison:
        """What one set does."""
        return compare(offer, self.vehicle, self.facts, in_time=self._in_time(offer))

    def _in_time(self, offer: Offer) -> float | None:
        promised = self.job.promised_on
        if offer.days is None or promised is None or self._is_bought:
            return None
        return chance_in_time(offer.days, days_left(timezone.localdate(), promised))

    @cached_property
    def _is_bought(self) -> bool:
        """Whether the gears are ordered, here or set already: nothing comes late any more."""
        lines = [line for line in self.axle.part_lines if line.part == "gear_set"]
        bought = any(LineState(line.state) not in OPEN for line in lines)
        return bought or self.axle.state.latest("backlash") is not None

    def find(self, key: str) -> Comparison | None:
        """A compared set by its key on the page."""
        return next((one for one in self.compared if key_of(one.offer) == key), None)


def key_of(offer: Offer) -> str:
    """What tells a set from the others on a page: teeth, thickness, seller."""
    thick = "-thick" if offer.thick else ""
    seller = "".join(sign for sign in offer.supplier.lower() if sign.isascii() and sign.isalnum())
    return f"{offer.ring}-{offer.pinion}{thick}" + (f"-{seller[:24]}" if seller else "")
