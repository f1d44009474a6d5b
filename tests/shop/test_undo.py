"""Undo is of the last act, named before it happens, and can be done again; nothing leaves the record."""

from __future__ import annotations

import uuid

import pytest

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import THOU
from axle.workflow.progress import StepMarkKind
from shop.jobs import chain, loading
from shop.jobs.actions import moves, packs, readings, steps, undo
from shop.jobs.last_act import last_act, last_undone
from shop.jobs.models import Job, Reading
from shop.people.rules import Rejected
from shop.stock.models import ShimLot
from tests.shop.test_bench import words


@pytest.fixture
def job(owner) -> Job:
    """The demo's job whose backlash is loose and whose next move is a change of both sides."""
    return Job.objects.get(shop=owner.shop, number=412)


def now(job: Job) -> Job:
    return Job.objects.get(pk=job.pk)


def read(owner, job, value="8.7", place=1):
    given = readings.NewReading(
        kind="backlash", place=place, quantity=parse(value, THOU), entry=uuid.uuid4()
    )
    return readings.record_reading(owner, now(job), now(job).version, given)


def counts(owner) -> dict[int, int]:
    return dict(ShimLot.objects.of(owner.shop).values_list("pk", "quantity"))


def settings(job) -> dict[str, str]:
    return loading.as_json(loading.load(now(job)).state.settings)


def test_a_reading_is_named_with_value_and_place_undone_and_done_again(owner, job):
    row = read(owner, job, "8.7", 2)
    assert last_act(loading.load(now(job))).words == "backlash, place 2: 8.7 thou"
    undo.undo(owner, now(job), now(job).version)
    assert Reading.objects.get(strikes=row).reason == "undone at the bench"
    again = last_undone(loading.load(now(job)))
    assert again.words == "backlash, place 2: 8.7 thou"
    undo.redo(owner, now(job), now(job).version)
    newest = loading.load(now(job)).valid_readings()[-1]
    assert (newest.typed, newest.place, newest.value) == (row.typed, row.place, row.value)
    assert last_undone(loading.load(now(job))) is None
    assert chain.check(now(job)).holds


def test_a_move_taken_back_returns_its_pieces_and_is_no_move_any_more(owner, job):
    before, was = counts(owner), settings(job)
    moves.apply_move(owner, now(job), now(job).version)
    moved = counts(owner)
    assert moved != before
    act = last_act(loading.load(now(job)))
    assert act.words.startswith("the move “")
    undo.undo(owner, now(job), now(job).version)
    assert counts(owner) == before
    assert settings(job) == was
    assert not now(job).moves.standing().filter(fit=act.rows[0]).exists()
    undo.redo(owner, now(job), now(job).version)
    assert counts(owner) == moved
    assert now(job).moves.standing().order_by("-id").first().title.lower() in act.words
    assert chain.check(now(job)).holds


def test_what_was_read_before_a_move_holds_again_once_it_is_taken_back(owner, job):
    def standing() -> dict:
        # A print is of the assembly it was made in: put together again, it is printed again.
        return {n: s.status for n, s in loading.load(now(job)).standings.items() if n != "pattern"}

    before = standing()
    moves.apply_move(owner, now(job), now(job).version)
    undo.undo(owner, now(job), now(job).version)
    assert standing() == before


def test_a_pack_fitted_by_hand_is_undone(owner, job):
    before, was = counts(owner), settings(job)
    lot = ShimLot.objects.of(owner.shop).filter(family="depth", quantity__gt=0).exclude(condition="damaged")
    packs.fit_pack(owner, now(job), now(job).version, Place.DEPTH, [lot.first().pk])
    assert last_act(loading.load(now(job))).words.startswith("fitted, depth shim: ")
    undo.undo(owner, now(job), now(job).version)
    assert (counts(owner), settings(job)) == (before, was)


def test_marks_made_together_are_undone_together(owner, job):
    axle = loading.load(now(job))
    station = next(name for name in axle.plan.stations if len(steps.markable_at(axle, name)[0]) > 1)
    together, _ = steps.markable_at(axle, station)
    names = [s.step.step for s in together]
    steps.mark_together(owner, now(job), now(job).version, station, names)
    assert last_act(loading.load(now(job))).words == f"{len(names)} steps done"
    undo.undo(owner, now(job), now(job).version)
    open_now, _ = steps.markable_at(loading.load(now(job)), station)
    assert {s.step.step for s in open_now} == set(names)
    undo.redo(owner, now(job), now(job).version)
    assert not steps.markable_at(loading.load(now(job)), station)[0]


def test_acts_are_undone_one_after_the_other_newest_first(owner, job):
    read(owner, job, "8.7", 1)
    read(owner, job, "8.8", 2)
    for wanted in ("backlash, place 2: 8.8 thou", "backlash, place 1: 8.7 thou"):
        assert last_act(loading.load(now(job))).words == wanted
        undo.undo(owner, now(job), now(job).version)
    for wanted in ("backlash, place 1: 8.7 thou", "backlash, place 2: 8.8 thou"):
        assert last_undone(loading.load(now(job))).words == wanted
        undo.redo(owner, now(job), now(job).version)


def test_after_another_act_nothing_is_done_again(owner, job):
    read(owner, job, "8.7", 1)
    undo.undo(owner, now(job), now(job).version)
    read(owner, job, "8.9", 3)
    with pytest.raises(Rejected, match="something else was done since"):
        undo.redo(owner, now(job), now(job).version)


def test_a_reading_is_not_done_again_on_another_pack(owner, job):
    row = read(owner, job, "8.7", 1)
    undo.undo(owner, now(job), now(job).version)
    assert last_undone(loading.load(now(job))).rows[0].pk == row.pk


def test_a_print_is_undone(owner):
    job = Job.objects.get(shop=owner.shop, number=418)
    act = last_act(loading.load(job))
    count = len(loading.load(job).patterns)
    while "flank" not in act.words:
        undo.undo(owner, now(job), now(job).version)
        act = last_act(loading.load(now(job)))
    undo.undo(owner, now(job), now(job).version)
    assert len(loading.load(now(job)).patterns) == count - 1


def test_an_apprentice_takes_no_signed_hold_back(owner, apprentice, job):
    axle = loading.load(now(job))
    held = next(s for s in axle.progress if s.held and not s.is_passed and s.step.hold.by == "list")
    steps.mark_step(
        owner,
        now(job),
        now(job).version,
        held.step.step,
        StepMarkKind.WAIVED,
        uuid.uuid4(),
        reason="the list is on paper",
    )
    with pytest.raises(Rejected, match="does not sign"):
        undo.undo(apprentice, now(job), now(job).version)


def test_the_page_names_what_undo_would_undo(client, owner, job):
    client.force_login(owner)
    read(owner, job, "8.7", 2)
    assert "backlash, place 2: 8.7 thou" in words(client.get("/jobs/412/"))
    for address, said in (("undo", "Undone"), ("redo", "Again")):
        form = {"version": now(job).version, "station": "backlash"}
        page = words(client.post(f"/jobs/412/{address}", form, headers={"HX-Request": "true"}))
        assert f"{said}: backlash, place 2: 8.7 thou" in page


def test_any_reading_is_struck_from_the_record_with_a_reason(client, owner, job):
    client.force_login(owner)
    first = loading.load(job).valid_readings()[0]
    form = {"version": job.version, "reading": first.pk, "reason": ""}
    page = client.post("/jobs/412/strike", form, follow=True).content.decode()
    assert "a few words on why it is struck" in page
    page = client.post("/jobs/412/strike", form | {"reason": "wrong axle"}, follow=True).content.decode()
    assert "Struck. The reading and the reason stay on record." in page
    assert Reading.objects.get(strikes=first).reason == "wrong axle"
