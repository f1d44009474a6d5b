"""The steps: complete for every axle, in an order that can be worked, with the cautions they need."""

from __future__ import annotations

import itertools
import random
import re
from collections.abc import Iterator

import pytest

from axle.errors import AxleError
from axle.fasteners.groups import condition_of
from axle.layout import Flank, Layout, PreloadBy, Side, every_layout
from axle.procedure.choices import Build, choices, holds, known_facts, still_possible
from axle.procedure.findings import parts
from axle.procedure.register import items
from axle.procedure.sequence import Plan, plan, rules, too_early
from axle.procedure.stations import kind_named, stations
from axle.procedure.steps import hazards, steps, subjects, tools

# Ring side and drive flank decide signs, not steps.
LAYOUTS = [
    layout
    for layout in every_layout()
    if layout.ring_side is Side.LEFT and layout.drive_flank is Flank.CONVEX
]
PART_CHOICES = [name for name, choice in choices().items() if choice.group != "variants"]
VARIANTS = ("order", "trial", "crush", "depth_by", "school")


def possible(layout: Layout, wanted: dict[str, str]) -> dict[str, str]:
    return still_possible(layout, wanted)


def builds(layout: Layout) -> Iterator[Build]:
    """Every order, trial and crush on a layout; parts, schools and ways fall as the dice say."""
    dice = random.Random(str(layout))
    for order, trial, crush in itertools.product(
        *(choices()[n].values for n in ("order", "trial", "crush"))
    ):
        wanted = {"order": order, "trial": trial, "crush": crush}
        for name in (
            *PART_CHOICES,
            "depth_by",
            "school",
            "overshoot",
            "cartridge",
            "lash_places",
            "stands",
            "aim",
            "policy",
            "countersign",
        ):
            wanted[name] = dice.choice([*choices()[name].values])
        over = dice.random() < 0.3
        yield Build(layout, order != "carrier_first", possible(layout, wanted), overshot=over)


@pytest.fixture(scope="module")
def plans() -> list[Plan]:
    return [plan(build) for layout in LAYOUTS for build in builds(layout)]


def test_every_value_of_every_choice_occurs_in_these_plans(plans):
    for name, choice in choices().items():
        seen = {made.facts[name] for made in plans}
        assert seen == set(choice.values), name


def test_every_step_belongs_to_some_axle(plans):
    assert {step.step for made in plans for step in made.steps} == set(steps())


def test_every_plan_is_complete_and_in_order(plans):
    for made in plans:
        names = [step.step for step in made.steps]
        assert len(names) == len(set(names))
        place = {name: index for index, name in enumerate(names)}
        assert {s.station for s in made.steps} == set(stations())
        for step in made.steps:
            for earlier in step.after:
                if earlier in place:
                    assert place[earlier] < place[step.step], (step.step, earlier)
        rank = [made.stations.index(step.station) for step in made.steps]
        assert rank == sorted(rank), "stations are not interleaved"


def test_no_step_asks_for_a_reading_that_cannot_be_taken_yet(plans):
    for made in plans:
        assert too_early(made) == ()


@pytest.mark.parametrize(
    "station", ["depth", "pinion_preload", "carrier_preload", "backlash", "pattern", "ring_gear"]
)
def test_every_plan_holds_at_every_measured_station(plans, station):
    for made in plans:
        assert any(s.hold and s.hold.by == "station" and s.hold.of == (station,) for s in made.steps), (
            made.facts
        )


def test_oil_waits_for_the_last_readings(plans):
    # Common practice, no source: final backlash, both preloads and pattern before oil; a pattern never
    # signs a preload.
    for made in plans:
        names = [step.step for step in made.steps]
        assert names.index("final-recheck") < names.index("final-oil")
        assert names.index("final-torque") < names.index("final-recheck")
    said = steps()["final-recheck"].text
    assert "pattern never signs a preload" in said


@pytest.mark.parametrize(
    ("earlier", "later"),
    [
        # Common practice, no source.
        ("arrival-side-play", "arrival-runout"),
        ("teardown-marks-caps", "teardown-carrier"),
        ("teardown-shims", "teardown-puller"),
        ("inspect-clean-first", "inspect-housing"),
        ("ring-runout-check", "ring-bolts"),
        ("depth-slinger", "depth-block"),
        ("pattern-print", "pattern-good"),
        ("final-register", "final-seals"),
        ("final-cover", "final-load-bolts"),
        ("final-torque", "final-locks"),
        ("prepare-tools-list", "teardown-carrier"),
        ("final-tools", "final-cover"),
        ("final-cover", "final-sealant"),
    ],
)
def test_what_comes_first(plans, earlier, later):
    seen = False
    for made in plans:
        names = [step.step for step in made.steps]
        if earlier in names and later in names:
            seen = True
            assert names.index(earlier) < names.index(later)
    assert seen


def test_cautions_stand_wherever_the_same_thing_can_hurt():
    for step in steps().values():
        for hazard in hazards().values():
            calls = hazard.words and re.search(hazard.words, step.text, re.IGNORECASE)
            assert not calls or hazard.hazard in step.hazards, (
                f"{step.step} wants the caution “{hazard.hazard}”"
            )


@pytest.mark.parametrize(
    ("step", "hazard"),
    [
        # Common practice, no source: where each of them occurs.
        ("teardown-spread", "spreading"),
        ("teardown-carrier", "lifting"),
        ("fit-heat", "heat"),
        ("fit-press", "press"),
        ("prepare-clean", "solvent"),
        ("teardown-marks-caps", "chisel"),
        ("pattern-print", "rotating"),
        ("teardown-left-hand", "left_hand"),
        ("ring-hand", "left_hand"),
        ("arrival-support", "stands"),
        ("pattern-print", "paste"),
        ("preload-sleeve", "leverage"),
    ],
)
def test_where_it_hurts_it_says_so(step, hazard):
    assert hazards()[hazard].text in steps()[step].all_cautions


def test_left_hand_bolts_are_named_before_and_after_on_every_axle_that_has_them(plans):
    for made in plans:
        names = {step.step for step in made.steps}
        left = made.facts["bolt_hand"] == "left"
        assert ({"teardown-left-hand", "ring-hand"} <= names) == left


def test_a_housing_is_spread_only_where_it_can_be(plans):
    for made in plans:
        assert any(s.step == "teardown-spread" for s in made.steps) == (made.facts["housing"] == "integral")


# A word of a subject counts as treated when the text has its stem.
_LIGHT = {
    "before",
    "after",
    "with",
    "from",
    "their",
    "where",
    "which",
    "never",
    "each",
    "what",
    "that",
    "into",
    "back",
}


def _stems(words: str) -> set[str]:
    return {w[:5] for w in re.findall(r"[a-z]+", words.lower()) if len(w) > 3 and w not in _LIGHT}


@pytest.mark.parametrize("subject", list(subjects()))
def test_every_subject_is_treated_by_the_text_of_its_steps(subject):
    claiming = [step for step in steps().values() if subject in step.treats]
    assert claiming, "no step claims it"
    wanted = _stems(subjects()[subject].words)
    said = " ".join(step.text for step in claiming).lower()
    missing = {stem for stem in wanted if stem not in said}
    assert len(missing) <= 0.2 * len(wanted), f"{subjects()[subject].words}: {sorted(missing)} not said"


# Where a subject concerns only some axles, these are the facts; everything else concerns all.
_ONLY = {
    "teardown-marks-caps": {"carrier_by": ("outboard", "under_cone", "adjusters")},
    "teardown-marks-adjusters": {"carrier_by": ("adjusters",)},
    "teardown-spread": {"housing": ("integral",)},
    "teardown-left-hand": {"bolt_hand": ("left",)},
    "teardown-shafts": {"shafts": tuple(v for v in choices()["shafts"].values if v != "out")},
    "teardown-axle-bearing": {"shafts": ("retained", "eliminator")},
    "teardown-sleeve": {"preload_by": ("sleeve",)},
    "prepare-casting": {"passes": ("no",)},
    "fit-press": {"trial": ("final",)},
    "fit-setup-bearings": {"trial": ("setup",)},
    "fit-pilot": {"pilot": ("yes",)},
    "depth-block": {"depth_by": ("gauge",)},
    "depth-dial": {"depth_by": ("dial",)},
    "depth-bridge": {"depth_by": ("bridge",)},
    "depth-bar": {"depth_by": ("bar",)},
    "depth-old-shim": {"depth_by": ("old",)},
    "depth-trial": {"depth_by": ("trial",)},
    "depth-slinger": {"slinger": ("yes",)},
    "depth-low-ratio": {"passes": ("no",)},
    "depth-coupling": {"coupled": ("yes",)},
    "preload-sleeve": {"preload_by": ("sleeve",)},
    "preload-spacer": {"preload_by": ("spacer",)},
    "preload-step": {"preload_by": ("step",)},
    "preload-racing": {"use": ("track",)},
    "carrier-covers": {"carrier_by": ("covers",)},
    "carrier-no-old-shims": {"carrier_from": ("other",)},
    "backlash-holes": {"carrier_by": ("adjusters",)},
    "backlash-locks": {"carrier_by": ("adjusters",)},
    "backlash-hot": {"use": ("tow", "track")},
    "pattern-used": {"gears": ("used",)},
    "final-locks": {"carrier_by": ("adjusters",)},
    "final-shafts": {"shafts": tuple(v for v in choices()["shafts"].values if v != "out")},
} | {f"carrier-{s.replace('_', '-')}": {"school": (s,)} for s in choices()["school"].values}


def test_every_subject_is_in_every_job_that_it_concerns(plans):
    for made in plans:
        treated = {subject for step in made.steps for subject in step.treats}
        for subject in subjects():
            if holds(_ONLY.get(subject, {}), made.facts):
                assert subject in treated, (subject, made.facts)


@pytest.mark.parametrize(
    ("chosen", "station", "before", "because"),
    [
        (
            {"order": "carrier_first"},
            "carrier_preload",
            "depth",
            "nothing but the carrier's own bearings drags",
        ),
        (
            {"order": "carrier_alone"},
            "carrier_preload",
            "ring_gear",
            "with the gear off the bearings turn alone",
        ),
        ({"order": "pinion_first"}, "pinion_preload", "carrier_preload", "spread"),
    ],
)
def test_each_order_of_work_moves_its_station_and_says_why(chosen, station, before, because):
    layout = next(
        la for la in LAYOUTS if la.preload_by is PreloadBy.SPACER and la.housing.value == "integral"
    )
    made = plan(Build(layout, True, chosen))
    assert made.stations.index(station) < made.stations.index(before)
    assert because in " ".join(made.because.values())


def test_a_sleeve_is_crushed_before_or_after_the_pattern():
    layout = next(la for la in LAYOUTS if la.preload_by is PreloadBy.SLEEVE)
    before, after = (plan(Build(layout, True, {"crush": c})) for c in ("before_pattern", "after_pattern"))
    assert before.stations.index("pinion_preload") < before.stations.index("pattern")
    assert after.stations.index("pinion_preload") == after.stations.index("pattern") + 1
    assert "crushed sleeve" in after.because["pinion_preload"]
    assert any(step.step == "depth-trial-preload" for step in after.steps)


def test_a_choice_that_cannot_be_made_is_refused_with_what_can():
    with pytest.raises(AxleError, match="only after the pattern"):
        Build(
            next(la for la in LAYOUTS if la.preload_by is PreloadBy.SPACER),
            True,
            {"crush": "after_pattern"},
        )
    with pytest.raises(AxleError, match="one that an axle has"):
        Build(LAYOUTS[0], True, {"order": "roof_first"})


def test_a_choice_falls_with_what_it_depends_on_and_the_rest_stays():
    adjusters = next(la for la in LAYOUTS if la.has_adjusters)
    kept = still_possible(adjusters, {"order": "pinion_first", "school": "alone", "use": "tow"})
    assert kept == {"order": "pinion_first", "use": "tow"}


def test_the_list_names_each_thing_once_with_the_step_that_first_asks(plans):
    for made in plans[::40]:
        needs = made.needs
        assert len({need.tool.tool for need in needs}) == len(needs)
        asked = {name for step in made.steps for name in step.tools}
        assert {need.tool.tool for need in needs} == asked
        places = [made.steps.index(need.first) for need in needs]
        assert places == sorted(places)


def test_every_tool_is_asked_for_and_every_hazard_used():
    assert {name for step in steps().values() for name in step.tools} == set(tools())
    assert {name for step in steps().values() for name in step.hazards} == set(hazards())


def test_waits_have_names_and_minutes():
    # Common practice, no source: 15 to 20 min in the oven, sealant about an hour.
    waits = {step.step: (step.waiting, step.wait) for step in steps().values() if step.waiting}
    assert 15 <= waits["fit-heat"][0] <= 20
    assert waits["final-sealant"][0] == 60
    assert {"oven", "freezer", "sealant", "draining"} <= {
        w for _, words in waits.values() for w in words.split()
    }


def test_data_files_name_only_what_exists():
    facts = known_facts()
    for row in (*items().values(), *steps().values(), *rules()):
        condition = getattr(row, "when", getattr(row, "where", {}))
        for name, values in condition.items():
            assert set(values) <= set(facts[name])
    assert condition_of("caps")["carrier_by"] == ("outboard", "under_cone", "adjusters")
    assert len(parts()) >= 9
    for step in steps().values():
        for kind in step.readings:
            assert set(kind_named(kind).after) <= set(stations())
