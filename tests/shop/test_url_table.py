"""Every address by every role, signed out, and with another shop's objects; forms by who may send them."""

from __future__ import annotations

import html
import re
from pathlib import Path

import pytest
from django.conf import settings
from django.db.models import Sum
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from shop.instruments.models import Instrument
from shop.jobs.models import (
    Job,
    MoneySheet,
    PartLine,
    Payment,
    Photo,
    PracticeRun,
    Reading,
    SignOff,
    SoundFile,
    SoundWork,
    Timer,
)
from shop.people.models import Shop, ShopTerms, User
from shop.people.rules import RULES, Right
from shop.planning.models import KeptPlan, Pin
from shop.specs.models import SpecSheet, SpecValue
from shop.stock.models import Kit, PriceLine, ShimLot, Supplier
from tests.shares import share_of
from tests.shop.addresses import PUBLIC, RIGHT_OF, addresses
from tests.shop.conftest import open_van_job

ALL = sorted(dict(addresses()).items())
NAMES = [name for name, _ in ALL]


def _roles(gate: str) -> list[str]:
    """Every role; in the gate the one that tells most: who may most outside, who may least inside."""
    return ["owner", "builder", "apprentice"][: share_of(3, 0)] or [gate]


# Words of the demo shop that nobody outside may read.
OURS = ("Snow blower", "Post van", "Mattis", "Beam wrench", "Varnholt")


def arguments(parts: dict) -> dict:
    """An object of the demo shop for every part of an address."""
    shop = Shop.objects.get(is_demo=True)
    known = {
        "number": 412,
        "sheet_id": SpecSheet.objects.of(shop).first().pk,
        "lot_id": ShimLot.objects.of(shop).first().pk,
        "kit_id": Kit.objects.of(shop).first().pk,
        "instrument_id": Instrument.objects.of(shop).first().pk,
        "person_id": User.objects.get(username="lio").pk,
        "photo_id": Photo.objects.first().pk,
        "timer_id": (Timer.objects.first() or _timer()).pk,
        "run_id": PracticeRun.objects.of(shop).first().pk,
        "flank": "drive",
        "line_id": PartLine.objects.filter(job__shop=shop).first().pk,
        "supplier_id": Supplier.objects.of(shop).first().pk,
        "paper_id": MoneySheet.objects.filter(job__shop=shop, job__number=412).first().pk,
        "work_id": SoundWork.objects.filter(line__job__shop=shop).first().pk,
        "sound_id": SoundFile.objects.filter(line__job__shop=shop).first().line_id,
        "secret": "nobody-made-this-one",
    }
    return {name: known[name] for name in parts}


def _timer() -> Timer:
    now = timezone.now()
    job = Job.objects.get(number=412)
    return Timer.objects.create(job=job, title="oven", minutes=5, started_at=now, due_at=now, by="x")


def sums() -> tuple:
    """What would differ if somebody had changed anything of the demo shop."""
    shop = Shop.objects.get(is_demo=True)
    return (
        Job.objects.of(shop).aggregate(Sum("version")),
        Job.objects.of(shop).count(),
        Reading.objects.filter(assembly__job__shop=shop).count(),
        SignOff.objects.filter(job__shop=shop).count(),
        ShimLot.objects.of(shop).aggregate(Sum("quantity")),
        SpecSheet.objects.of(shop).aggregate(Sum("version")),
        SpecValue.objects.filter(sheet__shop=shop).aggregate(Sum("high")),
        list(User.objects.filter(shop=shop).order_by("pk").values_list("role", "is_active", "password")),
        list(Shop.objects.filter(pk=shop.pk).values_list("name", "removed_at", "second_factor")),
        Instrument.objects.of(shop).filter(retired=True).count(),
        PracticeRun.objects.of(shop).count(),
        Timer.objects.filter(job__shop=shop, ended_at=None).count(),
        list(PartLine.objects.filter(job__shop=shop).values_list("state", "quantity", "received")),
        MoneySheet.objects.filter(job__shop=shop).count(),
        Payment.objects.filter(job__shop=shop).count(),
        list(ShopTerms.objects.filter(shop=shop).values_list("week", "rates", "machines")),
        list(Pin.objects.of(shop).values_list("step", "starts_at")),
        list(KeptPlan.objects.filter(shop=shop).values_list("version")),
        list(Supplier.objects.of(shop).values_list("name", "days")),
        PriceLine.objects.of(shop).count(),
    )


def test_the_table_of_forms_is_whole():
    """Each address that takes a form is in the table of rights, and each of the table is an address."""
    assert set(RIGHT_OF) <= set(NAMES)
    reads = {
        "me",
        "person",
        "begin",
        "jobs",
        "switch-job",
        "changed",
        "bench",
        "chances",
        "moves",
        "what-moves",
        "figures-csv",
        "take",
        "pack",
        "healthy",
        "pattern-phone",
        # Its right was asked when the link was made, and is asked again of who made it.
        "phone",
        "sheets",
        "sheet-version",
        "drawer-csv",
        "make",
        "lot",
        "timers",
        "take-runout",
        "take-field",
        "photos",
        "photo-shown",
        "photo-original",
        "recording-state",
        "recording-sound",
        "recording-map",
        "practice-sound",
        "sheet",
        "sheet-pdf",
        "record",
        "job-json",
        "readings-csv",
        "job-schema",
        "practice",
        "practice-people",
        "practice-run",
        "pattern-chart",
        "pattern-predicted",
        "guide-pattern",
        "plan",
        "plan-person",
        "plan-feed",
        "job-event",
        "money-pdf",
        "money-csv",
        "orders",
        "orders-csv",
        "orders-pdf",
        "owner",
        "ratio-pdf",
        "ratio-tag",
        "gear-sets-csv",
        "vehicles",
        "leaflet",
        "leaflet-pdf",
    }
    assert set(NAMES) - set(RIGHT_OF) - reads == set()


@pytest.mark.parametrize(("name", "parts"), ALL, ids=NAMES)
def test_nobody_who_is_signed_out_gets_past_the_door(demo, name, parts):
    address = reverse(name, kwargs=arguments(parts))
    for verb in ("get", "post"):
        answer = getattr(Client(), verb)(address)
        if name in PUBLIC:
            assert answer.status_code < 500
            continue
        assert answer.status_code in (302, 403)
        assert answer.status_code == 403 or answer.url.startswith("/sign-in")


@pytest.mark.parametrize("role", _roles("owner"))
@pytest.mark.parametrize(("name", "parts"), ALL, ids=NAMES)
def test_another_shop_s_objects_are_out_of_reach(stranger, demo, role, name, parts):
    stranger.role = role
    stranger.save(update_fields=["role"])
    before = sums()
    client = Client()
    client.force_login(stranger)
    address = reverse(name, kwargs=arguments(parts))
    for verb in ("get", "post"):
        given = {"version": "1", "reason": "mine now", "station": "backlash"} if verb == "post" else {}
        answer = getattr(client, verb)(address, given)
        assert answer.status_code < 500
        if answer.streaming or "text/html" not in answer.get("Content-Type", ""):
            assert answer.status_code == 404 or not set(parts) - {"flank"}
            continue
        text = answer.content.decode()
        assert not [word for word in OURS if word in text]
        if "number" in parts:
            assert answer.status_code in (404, 405)
        client.force_login(stranger)
    assert sums() == before


@pytest.mark.parametrize("role", _roles("apprentice"))
@pytest.mark.parametrize(("name", "parts"), ALL, ids=NAMES)
def test_every_page_of_the_own_shop_answers_every_role(demo, role, name, parts):
    user = User.objects.get(shop__is_demo=True, role=role)
    client = Client()
    client.force_login(user)
    answer = client.get(reverse(name, kwargs=arguments(parts)))
    assert answer.status_code < 500


# What an apprentice would send to a form that is a builder's or the owner's.
SENT = {
    "people": {"first_name": "Pia", "username": "pia", "role": "owner", "password": "over-the-ridge-1"},
    "role": {"role": "owner"},
    "use-figures": {"use": "no"},
    "gather-figures": {},
    "reset-password": {},
    "let-go": {},
    "end-sign-ins": {},
    "remove-second-factor": {},
    "ways": {"school-outboard": "tap_in"},
    "shop": {"name": "Mine", "place": "", "units": "mm", "currency": "EUR", "time_zone": "UTC"},
    "another-shop": {
        "name": "Mine",
        "place": "",
        "units": "mm",
        "currency": "EUR",
        "time_zone": "UTC",
        "first_name": "Lio",
        "username": "liolio",
        "password": "over-the-ridge-1",
    },
    "demo-shop": {"do": "remove"},
    "owned-tools": {"tool": "press"},
    "shop-second-factor": {"second_factor": "all"},
    "follow-sheet": {"take": ["backlash"]},
    "maker-chart": {"flank": "drive", "toe": "20", "heel": "60", "root": "20", "top": "80"},
    "drawer-table": {},
    "scrap": {"pieces": "1", "reason": "bent"},
    "low": {"low_at": "3"},
    "instruments": {"name": "Mine", "kind": "feelers", "resolution": "1 thou", "shows": "travel"},
    "retire-instrument": {"retired": "1"},
    "work": {"countersign": "no"},
    "school": {"school": "tap_in"},
    "pattern-target": {"aim": "usual"},
    "lash-places": {"places": "six"},
    "torque": {"group": "caps", "low": "1", "high": "2"},
    "sign": {"station": "backlash", "reason": "good enough"},
    "waive-all": {"reason": "good enough"},
    "hours": {"do": "money", "rate-builder": "1"},
    "make-plan": {},
    "move-stretch": {"do": "keep", "job": "412", "step": "backlash-caps", "person": "1"},
    "money": {"do": "payment", "amount": "5", "entry": "0" * 8 + "-0000-4000-8000-" + "0" * 12},
    "place-order": {
        "line": "1",
        "supplier": "1",
        "due": "2099-01-01",
        "entry": "0" * 8 + "-0000-4000-8000-" + "0" * 12,
    },
    "supplier": {"name": "Mine", "days": "1"},
    "gear-sets": {"teeth": "41/11"},
    "ratio": {
        "do": "choose",
        "set": "38-9-talbahngearsandbearings",
        "entry": "0" * 8 + "-0000-4000-8000-" + "0" * 12,
    },
    "supplier-price": {"part": "sleeve", "price": "1"},
    "tighten": {
        "group": "ring",
        "stage": "1",
        "value": "30",
        "entry": "0" * 8 + "-0000-4000-8000-" + "0" * 12,
    },
}
THEIRS = [name for name, right in RIGHT_OF.items() if "apprentice" not in RULES[right].roles]


def _forms_of_builders() -> list[str]:
    skipped = {"import-job", "new-sheet", "edit-sheet", "instrument", "reopen"}
    return [name for name in THEIRS if name not in skipped]


@pytest.mark.parametrize("name", _forms_of_builders())
def test_an_apprentice_is_refused_in_words_and_nothing_changes(owner, apprentice, name):
    job = open_van_job(owner)
    parts = dict(ALL)[name]
    values = arguments(parts) | ({"number": job.number} if "number" in parts else {})
    before = sums()
    client = Client()
    client.force_login(apprentice)
    sent = SENT[name] | {"version": str(job.version)}
    if name == "drawer-table":
        from django.core.files.uploadedfile import SimpleUploadedFile

        text = b"family,unit,quantity,nominal\ndepth,thou,3,20\n"
        sent["file"] = SimpleUploadedFile("t.csv", text)
    answer = client.post(reverse(name, kwargs=values), sent, follow=True)
    text = " ".join(html.unescape(re.sub(r"<[^>]+>", " ", answer.content.decode())).split())
    assert RULES[RIGHT_OF[name]].refusal in text
    assert sums() == before
    job.refresh_from_db()
    assert job.fasteners == {}


def test_an_apprentice_brings_no_file_opens_no_job_again_and_keeps_no_sheet(apprentice, owner):
    client = Client()
    client.force_login(apprentice)
    version = Job.objects.get(number=411).version
    answer = client.post("/jobs/411/reopen", {"version": version, "reason": "mine"})
    assert RULES[Right.REOPEN].refusal in html.unescape(answer.content.decode())
    sheet = SpecSheet.objects.of(owner.shop).first()
    page = client.get(f"/sheets/{sheet.pk}/").content.decode()
    assert "Store the sheet" not in page


def test_the_guide_shows_the_same_table():
    text = (Path(settings.ROOT) / "docs" / "guide.md").read_text(encoding="utf-8")
    for rule in RULES.values():
        marks = " | ".join(
            "✓" if role in rule.roles else " " for role in ("owner", "builder", "apprentice")
        )
        assert f"| {rule.words} | {marks} |" in text, rule.words
