"""The practice bench over HTTP: ordinary jobs on simulated axles, apart from the shop's own."""

from __future__ import annotations

import re
from uuid import uuid4

import pytest

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import THOU
from axle.practice.ladder import exercise_named, ladder
from axle.procedure.stations import kind_named
from shop.jobs import countersign, loading, numbers, simulated
from shop.jobs.actions import exercises, packs, practice, readings, signing, steps
from shop.jobs.models import Job, Move, PracticeRun
from shop.people.rules import Rejected
from shop.practice.page import right_answer
from shop.stock.models import ShimLot

HTMX = {"HX-Request": "true"}


@pytest.fixture
def demo_people(owner):
    return {person.username: person for person in type(owner).objects.filter(shop=owner.shop)}


@pytest.fixture
def bench(client, apprentice):
    client.force_login(apprentice)
    return client


def begin(user, key: str, seed: int = 42) -> PracticeRun:
    return exercises.start_with(user, exercise_named(key), seed)


def fresh(run: PracticeRun) -> Job:
    return Job.objects.get(pk=run.job_id)


def text(answer) -> str:
    return re.sub(r"\s+", " ", answer.content.decode().replace("&#x27;", "'"))


def post(client, run: PracticeRun, what: str, **given):
    job = fresh(run)
    return client.post(
        f"/jobs/{job.number}/practice/{what}", {"version": job.version, **given}, follow=True
    )


def take(client, run: PracticeRun, kind: str, place: int = 1) -> str:
    """What Take puts into the field."""
    answer = client.get(f"/jobs/{fresh(run).number}/take", {"kind": kind, "place": place}, headers=HTMX)
    found = re.search(r'class="value[^"]*"[^>]*value="([^"]*)"', answer.content.decode())
    assert found, answer.content.decode()[:800]
    return found[1]


def read(client, run: PracticeRun, kind: str, place: int = 1) -> None:
    job = fresh(run)
    answer = client.post(
        f"/jobs/{job.number}/reading",
        {
            "version": job.version,
            "station": "backlash",
            "kind": kind,
            "place": place,
            "value": take(client, run, kind, place),
            "entry": str(uuid4()),
        },
        headers=HTMX,
    )
    assert answer.status_code == 200, text(answer)[:600]


# ---- apart from the shop's own


def test_a_practice_job_is_in_no_list_and_takes_no_number_and_no_shim(bench, apprentice):
    shop = apprentice.shop
    next_number, lots = shop.next_job_number, list(ShimLot.objects.of(shop).values_list("pk", "quantity"))
    run = begin(apprentice, "backlash-station")
    job = fresh(run)
    assert job.number >= numbers.FIRST_OF_PRACTICE
    shop.refresh_from_db()
    assert shop.next_job_number == next_number
    assert f"/jobs/{job.number}/" not in text(bench.get("/"))
    assert f"/jobs/{job.number}/" not in text(bench.get("/", {"q": str(job.number)}))
    assert list(ShimLot.objects.of(shop).values_list("pk", "quantity")) == lots
    assert "practice" not in text(bench.get("/drawer/")).split("<main", 1)[1]
    assert bench.get(f"/jobs/{job.number}/").status_code == 200


def test_its_shims_come_out_of_the_practice_drawer_alone(apprentice):
    run = begin(apprentice, "whole-axle")
    state = loading.load(fresh(run)).state
    keys = {piece.key for piece in state.drawer[Place.DEPTH]}
    assert keys
    assert keys <= set(ShimLot.objects.for_practice(apprentice.shop).values_list("pk", flat=True))
    own = ShimLot.objects.of(apprentice.shop).filter(family="depth").first()
    with pytest.raises(Rejected, match="not in this shop's drawer"):
        packs.fit_pack(apprentice, fresh(run), fresh(run).version, Place.DEPTH, [own.pk])


def test_another_shop_s_practice_does_not_exist_here(client, apprentice, stranger):
    run = begin(apprentice, "backlash-station")
    client.force_login(stranger)
    assert client.get(f"/practice/{run.pk}").status_code == 404
    assert client.get(f"/jobs/{fresh(run).number}/").status_code == 404


def test_an_apprentice_sees_only_their_own_and_the_owner_everybody_s(client, apprentice, demo_people):
    theirs = begin(demo_people["mattis"], "which-way")
    client.force_login(apprentice)
    assert client.get(f"/practice/{theirs.pk}").status_code == 404
    assert "Only the shop's owner" in text(client.get("/practice/people", follow=True))
    client.force_login(demo_people["ines"])
    assert client.get(f"/practice/{theirs.pk}").status_code == 200
    assert "Mattis" in text(client.get("/practice/people"))


def test_a_practice_axle_leaves_no_record(bench, apprentice):
    run = begin(apprentice, "backlash-station")
    number = fresh(run).number
    assert "it has no job file" in text(bench.get(f"/jobs/{number}/job.json", follow=True))
    assert "this is no record of any real one" in text(bench.get(f"/jobs/{number}/sheet"))


# ---- instruments


def test_take_reads_the_simulated_truth_with_its_scatter(bench, apprentice):
    run = begin(apprentice, "backlash-station")
    found = simulated.simulated_axle(fresh(run))
    shown = float(parse(take(bench, run, "backlash", 2), THOU).core)
    assert shown == pytest.approx(found.axle.lash(2, 4), abs=0.03)
    # A hand that stays there shows the same; once something is stored it is read anew.
    assert take(bench, run, "backlash", 2) == take(bench, run, "backlash", 2)
    assert re.fullmatch(r"[\d.]+/[\d.]+ in·lb", take(bench, run, "total_torque"))


def test_a_bolt_s_torque_and_a_real_job_s_instrument_stay_what_they_are(bench, apprentice):
    run = begin(apprentice, "backlash-station")
    assert take(bench, run, "cap_torque").endswith("ft·lb")
    real = Job.objects.of(apprentice.shop).filter(practice=False).first()
    assert simulated.read_instrument(real, kind_named("backlash"), 1, 4) is None
    assert "Only a practice axle" in text(
        bench.post(
            f"/jobs/{real.number}/practice/print",
            {"version": real.version, "flank": "drive", "place": "1"},
            follow=True,
        )
    )


def test_a_print_is_a_photo_that_is_read_like_any_other(bench, apprentice):
    run = begin(apprentice, "pattern-station")
    answer = post(bench, run, "print", flank="drive", place="1")
    assert "of the flank is wiped" in text(answer)
    assert PracticeRun.objects.get(pk=run.pk).prints == 1
    assert fresh(run).photos.count() == 1


def test_a_nut_is_turned_and_a_sleeve_crushed(bench, apprentice):
    run = begin(apprentice, "sleeve-station")
    before = simulated.simulated_axle(fresh(run)).axle.pinion_interference
    assert "1 to 360" in text(post(bench, run, "nut", degrees="900", station="pinion_preload"))
    assert "whole number" in text(post(bench, run, "nut", degrees="a bit", station="pinion_preload"))
    post(bench, run, "nut", degrees="120", station="pinion_preload")
    after = simulated.simulated_axle(fresh(run)).axle
    assert after.built.turned == pytest.approx(120)
    assert after.pinion_interference > before


@pytest.mark.parametrize("key", [key for key, rung in ladder().items() if rung.kind == "axle"])
def test_every_exercise_opens_at_its_station(bench, key):
    answer = bench.post("/practice/start", {"exercise": key}, follow=True)
    assert answer.status_code == 200
    assert "Finish and score" in text(answer)
    run = PracticeRun.objects.latest("pk")
    given, goal = exercise_named(key).given, exercise_named(key).goal
    wrong = practice.wrong_of(simulated.simulated_axle(fresh(run)), exercise_named(key))
    if given and "pattern" not in goal:
        assert "depth" in goal or "depth" not in wrong


# ---- hints, names, the end


def test_the_next_move_is_hidden_until_a_hint_is_asked_and_hints_cost(bench, apprentice):
    run = begin(apprentice, "backlash-station")
    address = f"/jobs/{fresh(run).number}/?station=backlash"
    assert 'id="move"' not in text(bench.get(address))
    assert 'id="move"' in text(post(bench, run, "hint", station="backlash"))
    read(bench, run, "backlash")
    assert 'id="move"' not in text(bench.get(address))
    assert PracticeRun.objects.get(pk=run.pk).hints == 1


def test_finishing_scores_on_the_truth_and_shows_it_beside_what_was_believed(bench, apprentice):
    run = begin(apprentice, "backlash-station")
    for place in (1, 2, 3, 4):
        read(bench, run, "backlash", place)
    told = text(post(bench, run, "finish"))
    assert "The truth, beside what was believed" in told
    assert "Truly out of range" in told
    assert "What would have been right" in told
    ended = PracticeRun.objects.get(pk=run.pk)
    assert ended.ended_at is not None
    assert ended.points <= 50
    assert "This exercise is over" in text(post(bench, run, "hint", station="backlash"))


def test_naming_what_is_wrong_counts(bench, apprentice):
    run = begin(apprentice, "whole-fault")
    assert "one of the list" in text(post(bench, run, "name", named="gremlins", station="backlash"))
    post(bench, run, "name", named=run.fault, station="backlash")
    told = text(post(bench, run, "finish"))
    assert "Named rightly" in told


def test_a_round_of_questions_by_its_answers(bench, apprentice):
    run = begin(apprentice, "which-way", seed=7)
    address = f"/practice/{run.pk}"
    assert "Question 1 of 8" in text(bench.get(address))
    assert "one of the answers" in text(bench.post(f"{address}/answer", {"number": "1"}, follow=True))
    bench.post(f"{address}/hint", follow=True)
    for number in range(1, 9):
        held = PracticeRun.objects.get(pk=run.pk)
        given = right_answer(held)[0] if number > 1 else "nonsense"
        told = text(bench.post(f"{address}/answer", {"number": number, "answer": given}, follow=True))
        assert ("Right." if number > 1 else "Not so.") in told
    ended = PracticeRun.objects.get(pk=run.pk)
    assert ended.points == 84  # seven of eight, less a hint
    # A page that is behind answers nothing twice.
    bench.post(f"{address}/answer", {"number": "3", "answer": "deeper"}, follow=True)
    assert len(PracticeRun.objects.get(pk=run.pk).answers) == 8


def test_an_exercise_that_is_not_there_is_refused_in_words(bench):
    assert "one of the ladder" in text(bench.post("/practice/start", {"exercise": "x"}, follow=True))


# ---- chances kept


def test_a_move_keeps_its_chance_and_what_came_of_it(client, owner):
    moves = Move.objects.filter(job__shop=owner.shop, chance__isnull=False)
    assert moves.exists()  # the demo shop took some
    assert any(move.held is not None for move in moves)
    client.force_login(owner)
    told = text(client.get("/chances"))
    assert "How well the chances held" in told
    assert "practice is not counted" in told


def test_a_shop_without_moves_is_told_so(client, stranger):
    client.force_login(stranger)
    assert "No move with a chance has been read yet" in text(client.get("/chances"))


# ---- a builder's countersignature


def test_an_apprentice_s_hold_points_wait_for_a_builder(client, apprentice, demo_people):
    mattis = demo_people["mattis"]
    job = Job.objects.of(apprentice.shop).get(number=412)
    steps.choose(mattis, job, job.version, {"countersign": "yes"})
    job = Job.objects.get(pk=job.pk)
    readings.record_reading(
        apprentice,
        job,
        job.version,
        readings.NewReading(kind="ring_runout", place=1, quantity=parse("2", THOU), entry=uuid4()),
    )
    axle = loading.load(Job.objects.get(pk=job.pk))
    assert axle.standings["ring_gear"].is_done
    assert countersign.waiting(axle) == ("ring_gear",)
    client.force_login(apprentice)
    assert "Waits for a builder's countersignature" in text(client.get("/jobs/412/?station=ring_gear"))
    client.force_login(mattis)
    assert "Countersign it" in text(client.get("/jobs/412/?station=ring_gear"))
    with pytest.raises(Rejected, match="not countersigned yet: ring gear"):
        signing.sign(mattis, axle.job, axle.job.version, "sheet")
    signing.sign(mattis, axle.job, axle.job.version, "ring_gear")
    assert countersign.waiting(loading.load(Job.objects.get(pk=job.pk))) == ()
    # A later reading of the apprentice's is looked at again.
    job = Job.objects.get(pk=job.pk)
    readings.record_reading(
        apprentice,
        job,
        job.version,
        readings.NewReading(kind="ring_runout", place=1, quantity=parse("3", THOU), entry=uuid4()),
    )
    assert countersign.waiting(loading.load(Job.objects.get(pk=job.pk))) == ("ring_gear",)
