"""What a shop knows of its vehicles and of gear sets: fenced, checked whole, and as files bring it."""

from __future__ import annotations

import uuid

import pytest

from axle.errors import AxleError
from shop.jobs.actions import noting, ratio
from shop.jobs.models import Job, RatioLine
from shop.people.models import Role, Shop, User
from shop.people.rules import Rejected
from shop.stock import gear_sets
from shop.stock.models import GearOffer, Supplier
from shop.vehicles import services
from shop.vehicles.models import Vehicle
from shop.vehicles.services import VehicleWords


@pytest.fixture
def elsewhere(db) -> User:
    """The owner of another shop."""
    shop = Shop.objects.create(name="Untere Werkstatt")
    return User.objects.create_user(username="rosa", password="x", role=Role.OWNER, shop=shop)


def test_a_vehicle_of_another_shop_is_out_of_reach(owner, elsewhere, van):
    theirs = services.keep(elsewhere, VehicleWords("Their van"))
    with pytest.raises(Rejected):
        services.vehicle_of(owner, theirs.pk)
    with pytest.raises(Rejected):
        ratio.link_vehicle(owner, van, van.version, theirs, "rear")
    van.refresh_from_db()
    assert van.vehicle is None
    # Two shops may call theirs the same.
    assert services.keep(owner, VehicleWords("Their van")).shop == owner.shop


@pytest.mark.parametrize("name", ["", " ", "x", "Post van 7", "post VAN 7"])
def test_a_name_that_says_nothing_or_is_taken_is_refused(owner, name):
    with pytest.raises(AxleError):
        services.keep(owner, VehicleWords(name))


def test_what_is_empty_is_not_kept_and_blanks_are_taken_off(owner):
    row = services.keep(owner, VehicleWords("  Milk   van ", figures={"idle": " 800 ", "limit": "  "}))
    assert row.name == "Milk van"
    assert row.figures == {"idle": "800"}
    assert row.history.count() == 1


def test_a_file_brings_a_vehicle_that_is_known_and_one_whose_name_is_taken(owner):
    known = Vehicle.objects.get(name="Post van 7")
    given = {"identity": str(known.identity), "name": "Other name", "note": "", "figures": {}}
    assert services.from_file(owner, given) == known
    taken = {"identity": str(uuid.uuid4()), "name": "Post van 7", "note": "", "figures": {"idle": "700"}}
    row = services.from_file(owner, taken)
    assert row != known
    assert row.name.startswith("Post van 7 (")
    with pytest.raises(AxleError):
        services.from_file(owner, taken | {"identity": str(uuid.uuid4()), "figures": {"idle": "none"}})


def test_the_ratio_is_told_once(owner):
    row = Vehicle.objects.get(name="Post van 7")
    before = row.version
    services.has_now(owner, row, "rear", "41/11")
    services.has_now(owner, row, "rear", "41/11")
    row.refresh_from_db()
    assert (row.figures["ratio_rear"], row.version) == ("41/11", before + 1)


def test_gear_sets_of_another_shop_are_not_compared(owner, elsewhere):
    assert gear_sets.offers_of(owner.shop)
    assert gear_sets.offers_of(elsewhere.shop) == ()
    with pytest.raises(Rejected):
        gear_sets.drop(elsewhere, GearOffer.objects.of(owner.shop).first().pk)
    ours = Supplier.objects.of(owner.shop).first()
    with pytest.raises(AxleError):
        gear_sets.keep(elsewhere, {"teeth": "41/11", "supplier": ours.name})


def test_a_set_of_another_ring_gear_is_not_offered(owner):
    mine = gear_sets.offers_of(owner.shop, 222.0)
    assert {offer.ring_diameter for offer in mine} == {222.0}
    gear_sets.keep(owner, {"teeth": "37/9"})
    assert any(offer.ring_diameter is None for offer in gear_sets.offers_of(owner.shop, 222.0))


def test_the_same_set_from_the_same_seller_is_one_row(owner):
    count = GearOffer.objects.of(owner.shop).count()
    given = {"teeth": "38/9", "ring_diameter": "222", "supplier": "talbahn GEARS and bearings"}
    gear_sets.keep(owner, given | {"price": "400"})
    assert GearOffer.objects.of(owner.shop).count() == count
    gear_sets.keep(owner, given | {"thick": "yes"})
    assert GearOffer.objects.of(owner.shop).count() == count + 1


def test_an_apprentice_keeps_no_list(apprentice):
    for act in (
        lambda: gear_sets.keep(apprentice, {"teeth": "41/11"}),
        lambda: gear_sets.drop(apprentice, 1),
        lambda: gear_sets.take_in(apprentice, b"teeth\n41/11\n"),
    ):
        with pytest.raises(Rejected, match="does not order"):
            act()


def test_a_line_of_another_job_is_not_struck(owner, van):
    other = Job.objects.of(owner.shop).get(number=413)
    row = RatioLine.objects.filter(job=other, kind="counted").first()
    with pytest.raises(Rejected):
        noting.strike(RatioLine, owner, van, van.version, row.pk, "not this one", uuid.uuid4())
    chosen = RatioLine.objects.filter(job=other, kind="chosen").first()
    with pytest.raises(Rejected, match="A choice is not struck"):
        noting.strike(RatioLine, owner, other, other.version, chosen.pk, "another one", uuid.uuid4())


def test_the_same_line_sent_twice_is_struck_once(owner):
    other = Job.objects.of(owner.shop).get(number=413)
    row, entry = RatioLine.objects.filter(job=other, kind="counted").first(), uuid.uuid4()
    for _ in range(2):
        noting.strike(RatioLine, owner, other, other.version, row.pk, "misread it", entry)
        other.refresh_from_db()
    assert RatioLine.objects.filter(job=other, strikes=row).count() == 1
