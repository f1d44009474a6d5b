"""The axle's own pieces: measured at teardown, laid on the job's tray, offered first, never received twice."""

from __future__ import annotations

import uuid
from decimal import Decimal

import pytest

from axle.errors import AxleError
from axle.layout import Place
from axle.measure.units import IMPERIAL
from axle.procedure.register import Event
from shop.jobs import loading
from shop.jobs.actions import packs, parts
from shop.jobs.models import Job
from shop.people.rules import Rejected
from shop.stock import tray
from shop.stock.models import ShimLot
from tests.shop.test_bench import words
from tests.shop.test_edges import keep_sheet, open_job

MM = Decimal("0.0254")


@pytest.fixture
def job(pages, owner) -> Job:
    return open_job(pages, keep_sheet(pages, owner, "Tray"))


def write(owner, job: Job, item: str, text: str, event: Event = Event.OFF, **more):
    job.refresh_from_db()
    given = {"entry": uuid.uuid4()} | more
    return parts.write_register(owner, job, job.version, item, event, text, IMPERIAL, given["entry"])


def on_tray(job: Job) -> dict[str, int]:
    """Pieces that lie on the tray, in thou."""
    return {f"{lot.miced / MM:.1f}": lot.quantity for lot in tray.lots(job.shop, job.number)}


def test_what_came_out_lies_on_the_tray_and_not_in_the_drawer(owner, job):
    before = ShimLot.objects.of(owner.shop).count()
    entry = uuid.uuid4()
    write(owner, job, "shim_left", "98 + 5 + 5", entry=entry)
    write(owner, job, "shim_left", "98 + 5 + 5", entry=entry)
    assert on_tray(job) == {"5.0": 2, "98.0": 1}
    assert ShimLot.objects.of(owner.shop).count() == before


@pytest.mark.parametrize(
    ("corrected", "left"),
    [
        ("98 + 5 + 5", {"5.0": 2, "98.0": 1}),
        ("98 + 5", {"5.0": 1, "98.0": 1}),
        ("97 + 5 + 5", {"5.0": 2, "97.0": 1}),
        ("98 + 5 + 5 + 5", {"5.0": 3, "98.0": 1}),
        ("none", {}),
    ],
)
def test_a_corrected_line_changes_only_what_differs(owner, job, corrected, left):
    write(owner, job, "shim_left", "98 + 5 + 5")
    write(owner, job, "shim_left", corrected)
    assert on_tray(job) == left


def test_own_pieces_are_offered_first_and_go_back_in(owner, job):
    write(owner, job, "shim_depth", "31")
    axle = loading.load(Job.objects.get(pk=job.pk))
    own = [piece for piece in axle.state.drawer[Place.DEPTH] if piece.own]
    assert [round(float(piece.thickness / MM), 1) for piece in own] == [31.0]
    job.refresh_from_db()
    packs.fit_pack(owner, job, job.version, Place.DEPTH, [own[0].key])
    assert on_tray(job) == {}
    (piece,) = tray.owned(owner.shop, job.number)
    assert (piece.lot.quantity, piece.in_axle, piece.gone) == (0, 1, 0)
    # Written down again while it is in the axle, it is still the one piece.
    write(owner, job, "shim_depth", "31")
    assert on_tray(job) == {}


def test_another_job_does_not_see_the_tray(owner, job):
    write(owner, job, "shim_depth", "31")
    (lot,) = tray.lots(owner.shop, job.number)
    other = Job.objects.get(number=412, shop=owner.shop)
    assert not [p for p in loading.load(other).state.drawer[Place.DEPTH] if p.key == lot.pk]
    with pytest.raises(Rejected, match="not in this shop's drawer"):
        packs.fit_pack(owner, other, other.version, Place.DEPTH, [lot.pk])


def test_a_piece_is_sold_to_the_drawer_or_scrapped_and_is_not_received_again(pages, owner, job):
    write(owner, job, "shim_left", "98 + 5")
    page = f"/jobs/{job.number}/register"
    assert "On this job's tray" in words(pages.get(page))
    for size, given in (("98.0", {"do": "drawer"}), ("5.0", {"do": "scrap", "reason": "torn"})):
        lot = next(row for row in tray.lots(owner.shop, job.number) if f"{row.miced / MM:.1f}" == size)
        job.refresh_from_db()
        answer = pages.post(page, {"version": job.version, "own": lot.pk, **given}, follow=True)
        assert answer.status_code == 200
    assert on_tray(job) == {}
    sold = ShimLot.objects.of(owner.shop).filter(miced=Decimal("2.48920"), condition="good")
    assert sum(lot.quantity for lot in sold) == 1
    write(owner, job, "shim_left", "98 + 5")
    assert on_tray(job) == {}, "what was sold or scrapped does not come back by writing it again"


def test_scrapping_asks_why_and_a_lost_pack_leaves_the_tray(pages, owner, job):
    write(owner, job, "shim_left", "98")
    (lot,) = tray.lots(owner.shop, job.number)
    job.refresh_from_db()
    with pytest.raises(AxleError, match="why it is scrapped"):
        parts.clear_own(owner, job, job.version, lot.pk, " ")
    write(owner, job, item="shim_left", text="not behind the bearing", event=Event.LOST)
    assert on_tray(job) == {}


def test_a_kit_starts_from_the_old_sleeve_and_its_spacer_is_the_axles_own(owner, job):
    Job.objects.filter(pk=job.pk).update(choices={"spacer_kit": "kit"})
    write(owner, job, "old_sleeve", "1180 thou")
    write(owner, job, "spacer", "1165 thou")
    state = loading.load(Job.objects.get(pk=job.pk)).state
    assert float(state.old_packs[Place.PRELOAD] / MM) == pytest.approx(1180)
    (spacer,) = [p for p in state.drawer[Place.PRELOAD] if p.own]
    assert spacer.role.value == "spacer"
