"""What stands on a signed sheet was done and read, or is printed as a deviation."""

from __future__ import annotations

import html
import re
import uuid

import pytest
from django.urls import reverse

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.measure.units import FOOT_POUND, IMPERIAL, INCH_POUND, METRIC, THOU
from axle.procedure.stations import stations
from axle.stations.station_state import Status
from axle.workflow.progress import StepMarkKind
from shop.jobs import loading
from shop.jobs.actions import opening, readings, signing, steps
from shop.jobs.actions.opening import NewJob
from shop.jobs.cross_checks import cross_checks
from shop.jobs.models import Job, SignOff, StepMark
from shop.specs.models import SpecSheet, SpecValue
from tests.shop.conftest import open_van_job


def words(answer) -> str:
    """A page as it is read: without its tags."""
    text = re.sub(r"<[^>]+>", " ", answer.content.decode())
    return " ".join(html.unescape(text).split())


def axle_of(number: int):
    return loading.load(Job.objects.get(number=number, practice=False))


def now(job: Job) -> Job:
    return Job.objects.get(pk=job.pk)


# ---- steps and readings are one list


def test_the_finished_demo_job_has_every_step_done(demo):
    axle = axle_of(411)
    assert [s.step.step for s in axle.not_done] == []
    assert len(axle.progress) > 60


def test_a_reading_proves_its_step(owner):
    job = open_van_job(owner)
    step = next(s for s in loading.load(job).progress if s.step.step == "depth-block")
    assert not step.is_passed
    opening.confirm_mark(owner, job, job.version, parse("2", THOU), "longer")
    given = readings.NewReading(
        kind="depth_feeler", place=1, quantity=parse("30", THOU), entry=uuid.uuid4()
    )
    readings.record_reading(owner, now(job), now(job).version, given)
    done = {s.step.step for s in loading.load(now(job)).progress if s.is_passed}
    assert {"depth-block", "depth-mark"} <= done


def test_a_station_is_complete_only_if_its_list_is(demo):
    axle = axle_of(412)
    in_range = [n for n, s in axle.standings.items() if s.status is Status.IN_RANGE and n != "sheet"]
    for name in in_range:
        open_steps = [s for s in axle.progress if s.step.station == name and not s.is_passed]
        assert (axle.status_of(name) is Status.IN_RANGE) == (not open_steps)


def test_signing_names_every_step_not_done_and_every_passed_order(client, owner):
    """The demo's finished job, opened again, with one step taken back and one done out of its order."""
    job = Job.objects.get(number=411, practice=False)
    signing.reopen(owner, job, job.version, "looked at again")
    for step in ("final-locks", "prepare-burrs"):
        if any(s.step.step == step for s in loading.load(now(job)).progress):
            steps.mark_step(owner, now(job), now(job).version, step, StepMarkKind.UNDONE, uuid.uuid4())
            missing = step
    later = next(
        s
        for s in loading.load(now(job)).progress
        if s.step.station == "finish" and s.step.hold is None and s.marked
    )
    for mark in (StepMarkKind.UNDONE, StepMarkKind.DONE):
        steps.mark_step(
            owner, now(job), now(job).version, later.step.step, mark, uuid.uuid4(), knowing=True
        )
    with pytest.raises(AxleError, match="why steps are not done"):
        signing.sign(owner, now(job), now(job).version, "sheet")
    signing.sign(owner, now(job), now(job).version, "sheet", "the customer wanted it today")
    lines = SignOff.objects.filter(job=job).last().statement
    title = next(s.step.title for s in loading.load(now(job)).progress if s.step.step == missing).lower()
    assert any(line.startswith("Not done, ") and title in line for line in lines)
    assert any(
        line.startswith("Done out of order: ") and later.step.title.lower() in line for line in lines
    )
    client.force_login(owner)
    page = words(client.get("/jobs/411/sheet"))
    assert "Not done, " in page
    assert "the customer wanted it today" in page
    assert "Deviations None." not in page


def test_marking_together_marks_what_was_listed_and_nothing_else(owner):
    job = open_van_job(owner)
    together, rest = steps.markable_at(loading.load(job), "finish")
    names = {s.step.step for s in together}
    assert not names & {"finish-road", "finish-break-in", "final-oil"}
    assert {"finish-road", "final-oil"} <= {s.step.step for s in rest}
    every = [s.step.step for s in (*together, *rest)]
    steps.mark_together(owner, job, job.version, "finish", every)
    assert set(StepMark.objects.filter(job=job).values_list("step", flat=True)) == names


def test_the_list_is_shown_before_anything_is_marked(client, owner):
    client.force_login(owner)
    page = words(client.get("/jobs/413/?station=finish&view=together"))
    assert "Mark these as done?" in page
    assert "These stay open" in page
    assert "Road test, and listen" in page
    before = StepMark.objects.count()
    client.get("/jobs/413/?station=finish&view=together")
    assert StepMark.objects.count() == before


# ---- not judged is not in range


def van_sheet(owner, **change) -> SpecSheet:
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    for key, value in change.items():
        SpecValue.objects.filter(sheet=sheet, key=key).delete()
        if value is not None:
            SpecValue.objects.create(sheet=sheet, key=key, **value)
    return sheet


def opened(owner, sheet) -> Job:
    given = NewJob(
        "Test",
        "",
        complaint="",
        arrived_on="2026-03-02",
        promised_on=None,
        new_bearings=True,
        mark=parse("0", THOU),
        mark_convention="longer",
    )
    return opening.open_job(owner, sheet, given)


def test_what_the_sheet_does_not_limit_is_recorded_and_said_to_be(client, owner):
    job = opened(owner, van_sheet(owner, ring_runout=None))
    given = readings.NewReading(
        kind="ring_runout", place=1, quantity=parse("1.5", THOU), entry=uuid.uuid4()
    )
    readings.record_reading(owner, job, job.version, given)
    axle = loading.load(now(job))
    assert axle.standings["ring_gear"].status is Status.RECORDED
    assert axle.standings["ring_gear"].is_done
    client.force_login(owner)
    page = words(client.get(f"/jobs/{job.number}/?station=ring_gear"))
    assert "recorded · not judged" in page
    sheet = words(client.get(f"/jobs/{job.number}/sheet"))
    assert "○ recorded, not judged: the sheet gives no limits" in sheet


def test_a_sheet_with_interference_starts_by_it_and_the_bench_asks(client, owner):
    assert owner.shop.schools["outboard"] == "subtraction"
    by_packs = {"low": "6", "high": "10", "unit": "thou", "source": "maker", "note": "page 3"}
    job = opened(owner, van_sheet(owner, carrier_preload=None, carrier_interference=by_packs))
    assert loading.load(job).plan.facts["school"] == "both_sides"
    client.force_login(owner)
    address = f"/jobs/{job.number}/?station=carrier_preload"
    assert "The sheet gives interference, and this shop reads torque." in words(client.get(address))
    form = {"version": job.version, "school": "both_sides"}
    client.post(f"/jobs/{job.number}/school", form, headers={"HX-Request": "true"})
    assert loading.load(now(job)).plan.facts["school"] == "both_sides"
    assert "The sheet gives interference" not in words(client.get(address))


# ---- torques


def test_torques_are_not_prefilled(client, owner):
    client.force_login(owner)
    page = client.get("/jobs/413/?station=torque").content.decode()
    fields = re.findall(r'<input[^>]*name="value"[^>]*>', page)
    assert fields
    assert all('value=""' in field or "value=" not in field for field in fields)


def test_ring_bolts_are_asked_for_before_the_carrier_goes_in(client, owner):
    job = open_van_job(owner)
    client.force_login(owner)
    page = words(client.get(f"/jobs/{job.number}/?station=ring_gear"))
    assert "Turn here: ring gear bolts" in page
    assert "Turn here: pinion nut" in words(client.get(f"/jobs/{job.number}/?station=pinion_preload"))
    assert "Turn here: bearing caps" in words(client.get(f"/jobs/{job.number}/?station=carrier_preload"))


def test_small_torques_keep_their_unit(demo):
    """18 to 22 in·lb are 1.5 to 1.8 ft·lb: in whole foot-pounds nothing could be entered."""
    from axle.fasteners.groups import own_group

    given = {"title": "Cover studs", "count": 10, "thread": "1/4-20", "grade": "grade 5"}
    small = own_group("own-1", given | {"low": 18 * 0.1129848, "high": 22 * 0.1129848})
    assert small.unit_in(IMPERIAL).symbol == "in·lb"
    assert small.targets(IMPERIAL)[-1].figures == "18–22"
    assert small.unit_in(METRIC).symbol == "N·m"
    large = own_group("own-1", given | {"low": 20 * float(FOOT_POUND.factor), "high": 24 * 1.356})
    assert large.unit_in(IMPERIAL) is FOOT_POUND


# ---- made-up figures


def test_made_up_figures_are_marked_at_entry_in_the_move_and_on_the_sheet(client, owner):
    client.force_login(owner)
    page = words(client.get("/jobs/412/?station=backlash"))
    assert "limit made up" in page
    assert "Judged by made-up figures: backlash" in page
    assert "Made-up figures, not the maker's: " in words(client.get("/jobs/412/sheet"))


def test_a_figure_from_the_maker_is_not_marked(client, owner):
    figures = {"low": "7", "high": "11", "unit": "thou", "source": "maker", "note": "page 2"}
    spread = {"low": None, "high": "3", "unit": "thou", "source": "maker", "note": "page 2"}
    job = opened(owner, van_sheet(owner, backlash=figures, backlash_spread=spread))
    client.force_login(owner)
    page = words(client.get(f"/jobs/{job.number}/?station=backlash"))
    assert "limit made up" not in page
    assert "Judged by made-up figures" not in page


# ---- after the last reading the verdict is shown


def test_the_verdict_is_shown_before_the_work_goes_on(client, owner):
    job = open_van_job(owner)
    client.force_login(owner)
    form = {
        "version": job.version,
        "station": "ring_gear",
        "kind": "ring_runout",
        "place": "1",
        "value": "1.5",
        "entry": str(uuid.uuid4()),
    }
    answer = client.post(reverse("reading", args=[job.number]), form, headers={"HX-Request": "true"})
    page = words(answer)
    assert "Ring gear: in range" in page
    assert "1.5 thou" in page
    assert "Go on: " in page


def test_strip_entry_and_card_name_one_next_thing(client, owner):
    client.force_login(owner)
    page = words(client.get("/jobs/412/?station=backlash"))
    assert re.search(r"Now Close the backlash \d+ % sure", page)
    assert "Or read again: Backlash" in page
    for number in range(411, 419):
        page = words(client.get(f"/jobs/{number}/"))
        assert ("Or read again" in page) <= ("Do it F4" in page or "New sleeve is in" in page)
        # What is in hand is a step: no card names a reading or a move of a later station.
        axle = axle_of(number)
        if not stations()[axle.station].is_measured:
            assert axle.step.step.title.lower() in page.lower()
            assert "Next move" not in page


# ---- cross-checks


def test_small_tools_that_did_not_come_back_are_named(owner):
    from axle.procedure.register import Event
    from shop.jobs.actions import parts

    job = open_van_job(owner)
    for event, text in ((Event.OFF, "6"), (Event.BACK, "5")):
        parts.write_register(
            owner, now(job), now(job).version, "tools", event, text, IMPERIAL, uuid.uuid4()
        )
    lines = cross_checks(loading.load(now(job)), "torque")
    assert any("6 went out, 5 came back" in line for line in lines)


def test_a_torque_with_no_pack_in_place_is_named(owner):
    job = open_van_job(owner)
    given = readings.NewReading(
        kind="pinion_torque", place=1, quantity=parse("20", INCH_POUND), entry=uuid.uuid4()
    )
    readings.record_reading(owner, job, job.version, given)
    lines = cross_checks(loading.load(now(job)), "pinion_preload")
    assert any("was read with no preload pack in place" in line for line in lines)


def test_a_play_of_an_earlier_assembly_is_no_final_reading(client, owner):
    job = next(
        (j for j in Job.objects.filter(practice=False) if _earlier_play(j)),
        None,
    )
    assert job is not None, "the demo has a job whose play was read before its packs were changed"
    client.force_login(owner)
    page = words(client.get(f"/jobs/{job.number}/sheet"))
    final = page[page.index("Final readings") : page.index("As received")]
    assert "play" not in final.lower()


def _earlier_play(job: Job) -> bool:
    axle = loading.load(job)
    plays = [r for r in axle.valid_readings() if r.kind in ("zero_play", "carrier_end_play")]
    sides = {k: v for k, v in loading.as_json(axle.state.settings).items() if k in ("ring", "far")}
    return bool(plays) and all(
        {k: v for k, v in row.settings.items() if k in ("ring", "far")} != sides for row in plays
    )


def test_an_apprentice_is_told_what_a_key_would_not_do(client, apprentice):
    client.force_login(apprentice)
    axle = axle_of(413)
    held = next(s for s in axle.progress if s.held and not s.is_passed and s.step.hold.by == "list")
    address = f"/jobs/413/?station={held.step.station}&step={held.step.step}"
    assert "A builder or the owner signs past a hold." in words(client.get(address))
