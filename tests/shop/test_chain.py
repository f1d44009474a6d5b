"""The chain over a job's record: every change behind the program's back is named."""

from __future__ import annotations

import hashlib
import hmac
import io
import json
import uuid

import pytest

from axle.measure.parse import parse
from axle.measure.units import THOU
from shop.jobs import chain, keys
from shop.jobs.actions import readings
from shop.jobs.exchange import read, seal
from shop.jobs.models import ChainLink, Job, Reading
from shop.people.rules import Rejected
from tests.shop.conftest import open_van_job


@pytest.mark.parametrize("number", [411, 412, 413, 414, 415, 416, 417, 418])
def test_the_demo_s_records_hold(demo, number):
    verdict = chain.check(Job.objects.get(number=number))
    assert verdict.holds, verdict.wrong
    assert verdict.count > 10


def test_the_digest_is_hmac_sha_256(owner, settings):
    """RFC 2104 over a key derived the same way, by the standard library's own parts."""
    name = f"record {owner.shop.identity}".encode()
    key = hmac.new(settings.LASH_RECORD_KEY.encode(), name, hashlib.sha256).digest()
    wanted = hmac.new(key, b"text", "sha256").hexdigest()
    assert keys.digest(owner.shop, "record", "text") == wanted


def test_the_record_page_says_that_it_holds(client, owner):
    client.force_login(owner)
    page = client.get("/jobs/412/record").content.decode()
    assert "Every row is as it was written" in page


# ---- files


def brought(user, data) -> Job:
    text = json.dumps(data).encode()
    return read.read_job(user, io.BytesIO(text), len(text))[0]


def exported(number: int) -> dict:
    return json.loads(json.dumps(seal.sealed(Job.objects.get(number=number)), ensure_ascii=False))


def test_an_apprentice_brings_nothing_in(apprentice):
    with pytest.raises(Rejected, match="does not bring job files in"):
        brought(apprentice, exported(411))


def test_an_intact_file_is_told_from_an_altered_one(owner, stranger):
    data = exported(411)
    assert brought(owner, data).came_from["seal"].startswith("unaltered since this shop exported it")
    altered = exported(411)
    altered["sign_offs"][0]["by"] = "Somebody Else"
    assert brought(owner, altered).came_from["seal"].startswith("ALTERED since this shop exported it")
    assert "sealed by another shop (Obere Werkstatt)" in brought(stranger, data).came_from["seal"]
    del data["seal"]
    assert brought(owner, data).came_from["seal"].startswith("without a seal")


@pytest.mark.parametrize("number", [411, 412, 414])
def test_blanks_and_the_order_of_names_do_not_alter_a_file(owner, number):
    data = exported(number)
    turned = {name: data[name] for name in reversed(data)}
    assert brought(owner, turned).came_from["seal"].startswith("unaltered")


def test_a_seal_made_by_hand_does_not_fit(owner):
    data = exported(411)
    data["sign_offs"][0]["by"] = "Somebody Else"
    data["seal"]["digest"] = hashlib.sha256(json.dumps(data).encode()).hexdigest()
    assert brought(owner, data).came_from["seal"].startswith("ALTERED")


def test_signatures_of_a_file_are_the_file_s(client, owner):
    job = brought(owner, exported(411))
    client.force_login(owner)
    for address in (f"/jobs/{job.number}/sheet", f"/jobs/{job.number}/?station=sheet"):
        page = client.get(address).content.decode()
        assert "according to the file" in page
        assert "brought in by Ines Korb" in page or "From a file, by Ines Korb" in page
    again = exported(job.number)
    assert again["came_from"]["seal"].startswith("unaltered")


def test_a_brought_in_job_is_linked_too(owner):
    job = brought(owner, exported(412))
    first = Job.objects.get(number=412)
    # What was fitted from this shop's drawer is no other's: fits stay here.
    assert chain.check(job).count == chain.check(first).count - first.fits.count()


# ---- rows and links that nobody wrote through the program


@pytest.fixture
def van(owner):
    return open_van_job(owner)


def test_a_link_that_is_left_out_is_named(van, owner):
    for value in ("30", "31"):
        job = Job.objects.get(pk=van.pk)
        quantity = parse(value, THOU)
        given = readings.NewReading(kind="arrival_runout", place=1, quantity=quantity, entry=uuid.uuid4())
        readings.record_reading(owner, job, job.version, given)
    assert chain.check(van).holds
    row = Reading.objects.create(
        assembly=van.assemblies.get(),
        kind="arrival_runout",
        typed="3",
        value=0,
        at=van.touched_at,
        person=owner,
        by="A. Stranger",
    )
    found = chain.check(van)
    assert found.wrong == f"Readings, row {row.pk} was never linked (by A. Stranger)."


def test_a_link_of_another_row_does_not_fit(van, owner):
    last = ChainLink.objects.filter(job=van).last()
    ChainLink.objects.create(job=van, number=last.number + 1, table="readings", row=10**12, digest="0" * 64)
    assert "is gone" in chain.check(van).wrong
