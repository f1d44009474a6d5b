"""Changes to a job: packs and drawer, moves, signatures, and a page that is behind."""

from __future__ import annotations

import uuid
from decimal import Decimal

import pytest
from django.db.models import Sum

from axle.errors import AxleError
from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import INCH_POUND, THOU
from axle.stations.station_state import Status
from shop.jobs import loading
from shop.jobs.actions import carrier, moves, opening, packs, readings, signing, undo
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.models import Job, Move, PackPiece, Reading
from shop.people.models import User
from shop.people.rules import Rejected
from shop.stock.models import ShimLot, StockMovement


def job_of(number: int) -> Job:
    return Job.objects.get(number=number)


def read(user, number, kind, text, place=1, unit=THOU, **more):
    job = job_of(number)
    given = {"entry": uuid.uuid4()} | more
    return readings.record_reading(
        user,
        job,
        job.version,
        readings.NewReading(kind=kind, place=place, quantity=parse(text, unit), **given),
    )


def shims_in_all(shop) -> int:
    """Pieces in the drawer, on the trays and in the newest assembly of every job."""
    loose = ShimLot.objects.filter(shop=shop, practice=False).aggregate(all=Sum("quantity"))["all"]
    fitted = sum(
        PackPiece.objects.filter(assembly=job.assemblies.last()).count() for job in Job.objects.of(shop)
    )
    return loose + fitted


def test_a_move_takes_its_pieces_from_the_drawer_and_puts_the_old_ones_back(owner):
    before = shims_in_all(owner.shop)
    job = job_of(412)
    move = moves.apply_move(owner, job, job.version)
    assert shims_in_all(owner.shop) == before
    axle = loading.load(job_of(412))
    planned = {swap["place"]: Decimal(swap["after"]) for swap in move.swaps}
    for place, after in planned.items():
        assert axle.state.setting(Place(place)) == after
    assert axle.assembly.number == move.assembly.number == 3
    reasons = StockMovement.objects.filter(reason__contains="job 412, assembly 3")
    assert set(reasons.values_list("change", flat=True)) == {1, -1}


def test_what_is_not_changed_is_carried_over(owner):
    job = job_of(412)
    before = loading.load(job).state
    moves.apply_move(owner, job, job.version)
    after = loading.load(job_of(412)).state
    for place in (Place.DEPTH, Place.PRELOAD):
        assert after.setting(place) == before.setting(place)


def test_a_move_is_kept_with_what_it_expected_and_what_came_of_it(owner):
    job = job_of(412)
    moves.apply_move(owner, job, job.version)
    for place, value in enumerate(("9.2", "8.9", "9.1", "9.3"), start=1):
        read(owner, 412, kind="backlash", text=value, place=place)
    move = Move.objects.filter(job=job).last()
    assert move.expected[0]["label"] == "Smallest backlash"
    assert move.outcome["backlash"]["status"] == "in range"
    assert move.outcome["backlash"]["value"] == pytest.approx(8.9 * 0.0254)
    assert move.why


def test_a_pack_in_an_assembly_without_readings_starts_no_new_one(owner):
    job = job_of(413)
    carrier.set_adjusters(owner, job, job.version, Decimal(10), Decimal(10))
    first = job_of(413).assemblies.count()
    moves.apply_move(owner, job_of(413), job_of(413).version)
    assert job_of(413).assemblies.count() == first + 1
    lots = ShimLot.objects.of(owner.shop).filter(family="depth", quantity__gt=0, condition="new")
    packs.fit_pack(owner, job_of(413), job_of(413).version, Place.DEPTH, [lots[0].pk])
    assert job_of(413).assemblies.count() == first + 1
    assert shims_in_all(owner.shop) > 0


@pytest.mark.parametrize(
    ("place", "family", "condition", "words"),
    [
        (Place.DEPTH, "side", "new", "does not fit there"),
        (Place.DEPTH, "depth", "damaged", "is damaged and is not fitted"),
    ],
)
def test_a_shim_that_does_not_belong_is_refused(owner, place, family, condition, words):
    lot = ShimLot.objects.of(owner.shop).filter(family=family, condition=condition).first()
    job = job_of(413)
    with pytest.raises(Rejected, match=words):
        packs.fit_pack(owner, job, job.version, place, [lot.pk])
    lot.refresh_from_db()
    assert lot.quantity >= 1


def test_the_last_shim_is_not_taken_twice(owner):
    lot = ShimLot.objects.of(owner.shop).filter(family="depth", condition="new").first()
    ShimLot.objects.filter(pk=lot.pk).update(quantity=0)
    job = job_of(413)
    with pytest.raises(Rejected, match="somebody took the last one"):
        packs.fit_pack(owner, job, job.version, Place.DEPTH, [lot.pk])
    assert job_of(413).version == job.version


@pytest.mark.parametrize(
    ("number", "place", "words"),
    [(413, Place.RING, "a place of this layout"), (412, Place.DEPTH, "at least one piece")],
)
def test_a_pack_that_cannot_be_is_refused(owner, number, place, words):
    job = job_of(number)
    with pytest.raises(AxleError, match=words):
        packs.fit_pack(owner, job, job.version, place, [])


def test_a_reading_read_again_strikes_the_first(owner):
    first = read(owner, 412, kind="backlash", text="11.0", place=2)
    second = read(owner, 412, kind="backlash", text="10.9", place=2)
    assert second.strikes_id == first.pk
    axle = loading.load(job_of(412))
    assert axle.state.latest("backlash", 2).value == pytest.approx(10.9 * 0.0254)


def test_bites_on_a_sleeve_are_a_series(owner):
    job = job_of(413)
    moves.apply_move(owner, job, job.version)
    one = read(owner, 413, "pinion_torque", "8", unit=INCH_POUND)
    two = read(owner, 413, "pinion_torque", "14", unit=INCH_POUND)
    assert two.strikes_id is None
    assert one.value < two.value
    over = read(owner, 413, "pinion_torque", "31", unit=INCH_POUND)
    assert over.strikes_id is None
    assert loading.load(job_of(413)).move.again
    read(owner, 413, "pinion_torque", "31", unit=INCH_POUND, conditions={"again": True})
    assert "new sleeve" in loading.load(job_of(413)).move.title
    packs.new_sleeve(owner, job_of(413), job_of(413).version)
    axle = loading.load(job_of(413))
    assert axle.standings["pinion_preload"].status is Status.STALE
    assert axle.state.setting(Place.PRELOAD) == 1


def test_a_new_sleeve_wants_an_axle_that_has_one(owner):
    job = job_of(412)
    with pytest.raises(AxleError, match="an axle that has one"):
        packs.new_sleeve(owner, job, job.version)


def test_a_form_sent_twice_is_stored_once(owner):
    entry = uuid.uuid4()
    first = read(owner, 412, kind="backlash", text="11.0", place=2, entry=entry)
    # The answer was lost: the page sends the same entry again, still with its old version.
    job = job_of(412)
    again = readings.record_reading(
        owner,
        job,
        job.version - 1,
        readings.NewReading(kind="backlash", place=2, quantity=parse("11.0", THOU), entry=entry),
    )
    assert again.pk == first.pk
    assert Reading.objects.filter(entry=entry).count() == 1


def test_a_page_that_is_behind_is_told_who_did_what(owner):
    job = job_of(412)
    mattis = User.objects.get(username="mattis")
    readings.record_reading(
        mattis,
        job,
        job.version,
        readings.NewReading(kind="backlash", place=1, quantity=parse("11.4", THOU), entry=uuid.uuid4()),
    )
    count = Reading.objects.count()
    with pytest.raises(VersionConflict, match=r"Mattis Oran read backlash 11\.4 at \d\d:\d\d"):
        readings.record_reading(
            owner,
            job,
            job.version,
            readings.NewReading(kind="backlash", place=2, quantity=parse("11", THOU), entry=uuid.uuid4()),
        )
    assert Reading.objects.count() == count


def test_the_sheet_is_signed_only_when_every_station_is(owner):
    job = job_of(412)
    with pytest.raises(Rejected, match="cannot be signed: backlash, torques"):
        signing.sign(owner, job, job.version, "sheet")


def test_a_deviation_wants_a_reason(owner):
    job = job_of(412)
    for reason in ("", "  ", "ok"):
        with pytest.raises(AxleError, match="why this is accepted"):
            signing.sign(owner, job, job.version, "backlash", reason)
    signed = signing.sign(owner, job, job.version, "backlash", "owner drives it hot, loose on purpose")
    assert signed.deviation
    assert any("Smallest 11.3" in line for line in signed.statement)


def test_an_apprentice_measures_and_does_not_sign(apprentice):
    read(apprentice, 412, kind="backlash", text="11.2", place=1)
    job = job_of(412)
    with pytest.raises(Rejected, match="Ask a builder"):
        signing.sign(apprentice, job, job.version, "backlash", "looks fine to me")
    signed = job_of(411)
    with pytest.raises(Rejected, match="Ask a builder"):
        signing.reopen(apprentice, signed, signed.version, "curious")


def test_a_signed_job_is_opened_again_with_a_reason_before_it_changes(owner):
    with pytest.raises(Rejected, match="open the job again"):
        read(owner, 411, kind="backlash", text="9", place=1)
    job = job_of(411)
    with pytest.raises(AxleError, match="why the job is opened again"):
        signing.reopen(owner, job, job.version, " ")
    signing.reopen(owner, job, job.version, "customer hears a whine")
    assert job_of(411).state == "open"
    assert loading.load(job_of(411)).standings["sheet"].signature is None
    read(owner, 411, kind="backlash", text="9", place=1)
    assert job_of(411).sign_offs.filter(station="sheet").count() == 2


def test_a_new_bite_of_data_voids_the_signature_it_came_after(owner):
    job = job_of(411)
    signing.reopen(owner, job, job.version, "check")
    signing.sign(owner, job_of(411), job_of(411).version, "sheet")
    axle = loading.load(job_of(411))
    assert axle.standings["sheet"].signature is not None


def test_what_the_jobs_page_shows_is_worked_out_at_each_change(owner):
    assert job_of(412).summary["out"][0] == {"station": "backlash", "words": "loose"}
    for place, value in enumerate(("9", "9.2", "9.1", "9.3"), start=1):
        read(owner, 412, kind="backlash", text=value, place=place)
    assert job_of(412).summary["out"] == []


def test_the_job_keeps_its_own_copy_of_the_sheet(owner):
    from shop.specs.models import SpecSheet

    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    value = sheet.values.get(key="backlash")
    value.low, value.high = Decimal(3), Decimal(4)
    value.save()
    limits = loading.load(job_of(412)).spec.sheet.range("backlash")
    assert limits.high == pytest.approx(11 * 0.0254)


@pytest.mark.parametrize(
    ("kind", "text", "place", "unit", "words"),
    [
        ("backlash", "9", 5, THOU, "place 1 to 4 is wanted"),
        ("backlash", "9", 0, THOU, "place 1 to 4 is wanted"),
        ("backlash", "-3", 1, THOU, "0 or more is wanted"),
        ("horn", "9", 1, THOU, "one that a station takes"),
    ],
)
def test_a_reading_that_cannot_be_is_refused(owner, kind, text, place, unit, words):
    with pytest.raises(AxleError, match=words):
        read(owner, 412, kind=kind, text=text, place=place, unit=unit)


@pytest.mark.parametrize(("station", "way"), [("horn", "gauge"), ("depth", "horn")])
def test_an_unknown_way_is_refused(owner, station, way):
    job = job_of(412)
    with pytest.raises(AxleError, match="one that the station offers"):
        readings.choose_method(owner, job, job.version, station, way)


def test_nothing_to_undo_is_said(owner):
    from demo.player import Bench
    from shop.jobs.actions.opening import NewJob
    from shop.specs.models import SpecSheet

    sheet = SpecSheet.objects.of(owner.shop).first()
    job = opening.open_job(
        owner,
        sheet,
        NewJob(
            "Empty",
            "",
            "",
            job_of(412).arrived_on,
            None,
            new_bearings=True,
            mark=parse("0", THOU),
            mark_convention="longer",
        ),
    )
    with pytest.raises(Rejected, match="nothing on this job to undo"):
        undo.undo(owner, job, job.version)
    assert Bench(owner, job).job.summary["station"] == "arrival"
