"""A job as one file: a round trip loses nothing, a bad file is refused whole."""

from __future__ import annotations

import copy
import csv
import io
import json
from datetime import datetime

import jsonschema
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from axle.errors import AxleError
from shop.jobs import loading
from shop.jobs.exchange import file_models, read, write
from shop.jobs.models import Job, PackPiece, Reading
from shop.people.rules import Rejected


def take_in(user, data):
    text = data if isinstance(data, bytes) else json.dumps(data).encode()
    return read.read_job(user, io.BytesIO(text), len(text))


def written(number: int) -> dict:
    return write.write_job(Job.objects.get(number=number))


@pytest.mark.parametrize("number", [411, 412, 413, 414])
def test_a_round_trip_loses_nothing(owner, stranger, number):
    first = written(number)
    job, keeps = take_in(stranger, first)
    assert keeps
    assert job.shop == stranger.shop
    assert write.write_job(job) == first


def test_both_stand_where_they_stood(owner, stranger):
    job, _ = take_in(stranger, written(412))
    here, there = (loading.load(j) for j in (Job.objects.get(number=412, shop=owner.shop), job))
    assert {n: s.status for n, s in here.standings.items()} == {
        n: s.status for n, s in there.standings.items()
    }
    assert here.standings["backlash"].result == there.standings["backlash"].result


def test_a_number_that_is_taken_is_replaced_and_said(owner):
    job, keeps = take_in(owner, written(412))
    assert not keeps
    assert job.number == 419
    again = written(419)
    assert again["job"].pop("number") == 419
    before = written(412)
    before["job"].pop("number")
    assert again == before


def test_shims_of_a_file_are_nobody_s_drawer(owner, stranger):
    job, _ = take_in(stranger, written(412))
    assert not PackPiece.objects.filter(assembly__job=job).exclude(lot=None).exists()


@pytest.mark.parametrize("number", [411, 412, 413, 414])
def test_what_is_written_is_valid_by_a_reference_validator(owner, number):
    schema = file_models.schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(json.loads(json.dumps(written(number))), schema)


def put(path: str, value):
    """An edit of the job file: what stands at a path becomes a value; None as path adds nothing."""

    def edit(data):
        inner = data
        *way, last = [int(p) if p.isdigit() else p for p in path.split("/")]
        for part in way:
            inner = inner[part]
        inner[last] = value

    return edit


def drop(path: str):
    def edit(data):
        inner = data
        *way, last = [int(p) if p.isdigit() else p for p in path.split("/")]
        for part in way:
            inner = inner[part]
        del inner[last]

    return edit


READING = "assemblies/1/readings/0"


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (
            put("format", "lash-job/10"),
            "job file, format: “lash-job/10” was given; one of lash-job/1, lash-job/2, lash-job/3, lash-job/4, lash-job/5, lash-job/6, lash-job/7, lash-job/8, lash-job/9 is wanted.",
        ),
        (put("extra", 1), "job file, the file"),
        (drop("sheet"), "all of format, job, sheet"),
        (put("job/number", 0), "job file, job/number: “0” was given"),
        (put("job/title", "x" * 121), "at most 120 characters is wanted"),
        (put("job/arrived_on", "yesterday"), "job/arrived_on: “yesterday” was given; a date"),
        (put("job/mark/convention", "sideways"), "one of distance, longer, shorter"),
        (put("sheet/layout/depth_shim", "roof"), "job file, sheet, depth shim: “roof” was given"),
        (put("sheet/layout/carrier_by", "covers"), "side-cover shims in a housing of the kind “integral”"),
        (put("sheet/gears/ring_teeth", 9), "ring gear teeth: 9 was given"),
        (
            put(
                "sheet/values/horn",
                {"low": None, "high": "1", "unit": "thou", "source": "demo", "note": ""},
            ),
            "“horn”",
        ),
        (put("assemblies", []), "job file, assemblies"),
        (put("assemblies/1/number", 1), "numbers out of order"),
        (put("assemblies/0/started_at", "2026-03-02"), "assemblies/0/started_at: “2026-03-02” was given"),
        (put(f"{READING}/kind", "horn"), f"{READING}/kind: “horn” was given"),
        (put(f"{READING}/value", "tight"), f"job file, {READING}/value"),
        (put(f"{READING}/value", "-3.0"), f"{READING}/value"),
        (put(f"{READING}/at", "noon"), f"{READING}/at: “noon” was given"),
        (put(f"{READING}/entry", "x"), f"{READING}/entry"),
        (
            put(f"{READING}/strikes", "00000000-0000-0000-0000-000000000000"),
            "the entry of an earlier reading",
        ),
        (put(f"{READING}/settings", {"roof": "1"}), f"{READING}/settings"),
        (put(f"{READING}/place", 1.5), f"{READING}/place"),
        (put("assemblies/1/patterns/0/outline", [[0, 0], [1, 1], [0.5, 0.5]]), "an outline without area"),
        (put("assemblies/1/patterns/0/flank", "roof"), "one of coast, drive"),
        (put("sign_offs", [{}]), "job file, sign_offs/0"),
    ],
)
def test_a_bad_file_is_refused_whole_naming_the_place(owner, stranger, edit, said):
    data = copy.deepcopy(written(412))
    edit(data)
    jobs, readings = Job.objects.count(), Reading.objects.count()
    with pytest.raises(AxleError) as refused:
        take_in(stranger, data)
    assert said in str(refused.value)
    assert (Job.objects.count(), Reading.objects.count()) == (jobs, readings)


def test_an_entry_stands_once(owner, stranger):
    data = written(412)
    rows = data["assemblies"][1]["readings"]
    rows[1]["entry"] = rows[0]["entry"]
    with pytest.raises(AxleError, match="each entry once"):
        take_in(stranger, data)


def test_a_reading_is_struck_once(owner, stranger):
    data = written(412)
    rows = data["assemblies"][1]["readings"]
    rows[1]["strikes"] = rows[2]["strikes"] = rows[0]["entry"]
    with pytest.raises(AxleError, match="struck once"):
        take_in(stranger, data)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (b"", "not JSON at line 1, column 1"),
        (b'{"format": ', "not JSON at line 1"),
        (b"\xff\xfe\x00", "JSON"),
        (b"[" * 100_000, "something unreadable"),
        (b'{"format": NaN}', "something unreadable"),
        (b"9" * 6000, "something unreadable"),
        (b"null", "job file, the file"),
    ],
)
def test_what_is_no_job_file_is_refused(owner, text, said):
    with pytest.raises(AxleError) as refused:
        take_in(owner, text)
    assert said in str(refused.value)


def test_twenty_megabytes_are_refused_unread(owner):
    class Unread(io.BytesIO):
        def read(self, most=-1, /):
            # Four bytes tell an archive from a text; no more of it is read.
            assert 0 <= most <= 4, "a file over the limit is not read"
            return b"{   "[:most]

    with pytest.raises(AxleError, match=r"20\.0 MB was given; at most 4 MB is wanted"):
        read.read_job(owner, Unread(), 20_000_000)


def test_a_million_readings_are_refused_at_the_first(owner):
    data = written(412)
    data["assemblies"][0]["readings"] = [0] * 1_000_000
    with pytest.raises(AxleError, match="assemblies/0/readings.*at most 5000 entries is wanted"):
        take_in(owner, json.dumps(data, separators=(",", ":")).encode())


def test_a_person_without_a_shop_takes_nothing_in(owner):
    data = written(412)
    owner.shop = None
    with pytest.raises(Rejected, match="you belong to no shop|You belong to no shop"):
        take_in(owner, data)


def test_the_page_takes_a_file_in_and_refuses_in_words(client, owner):
    client.force_login(owner)
    text = json.dumps(written(412)).encode()
    answer = client.post("/jobs/import", {"file": SimpleUploadedFile("a.json", text)})
    assert answer.status_code == 302
    assert answer.url == "/jobs/419/"
    bad = client.post("/jobs/import", {"file": SimpleUploadedFile("a.json", text[:-9])})
    assert bad.status_code == 422
    assert "not JSON at line" in bad.content.decode()
    assert client.post("/jobs/import", {}).status_code == 422


def test_the_schema_is_published(client):
    answer = client.get("/formats/job.schema.json")
    assert answer.status_code == 200
    assert answer.json()["$id"] == "urn:lash:job:9"


def test_readings_as_csv(client, owner):
    client.force_login(owner)
    job = Job.objects.get(number=411)
    text = client.get("/jobs/411/readings.csv").content.decode()
    rows = list(csv.DictReader(io.StringIO(text)))
    stored = Reading.objects.filter(assembly__job=job, value__isnull=False)
    assert len(rows) == stored.count()
    lash = [row for row in rows if row["kind"] == "backlash" and row["assembly"] == "2"]
    assert [row["typed"] for row in lash] == ["9.3", "8.9", "9.5", "9.2"]
    assert float(lash[0]["value_core"]) == pytest.approx(9.3 * 0.0254)
    assert lash[0]["core_unit"] == "mm"
    assert datetime.fromisoformat(lash[0]["at"]).tzinfo is not None


def test_a_csv_cell_runs_no_formula(client, owner):
    from shop.config.cells import text_cell

    assert text_cell("=cmd()") == "'=cmd()"
    assert text_cell("+1") == "'+1"
    assert text_cell("-2") == "-2"  # a mark may be negative


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d["job"]["mark"].update(value="5.00000"), "job/mark: a deviation of 5.000 mm"),
        (
            lambda d: reading_of(d, "depth_feeler")["conditions"].update(seal=True),
            "conditions: “seal” was given; one that this reading has",
        ),
        (
            lambda d: reading_of(d, "pinion_torque")["conditions"].update(turned=-5),
            "a turn that tightens, 0° or more",
        ),
        (lambda d: reading_of(d, "pinion_torque").update(resolution="fine"), "resolution"),
        (lambda d: d["job"].update(shapes={"roof": "x"}), "job/shapes"),
    ],
)
def test_a_file_with_conditions_or_a_mark_that_cannot_be_is_refused(owner, demo, change, said):
    data = written(412)
    change(data)
    with pytest.raises(AxleError) as refused:
        take_in(owner, data)
    assert said in str(refused.value)


def reading_of(data: dict, kind: str) -> dict:
    return next(r for a in data["assemblies"] for r in a["readings"] if r["kind"] == kind)


def test_instrument_and_confirmed_mark_go_round(owner, demo):
    data = written(412)
    reading = reading_of(data, "pinion_torque")
    reading |= {"instrument": "Beam wrench", "resolution": "0.11298483", "overdue": "overdue since May"}
    data["job"]["shapes"] = {"depth": "ring 41"}
    job, _ = take_in(owner, data)
    again = written(job.number)
    assert reading_of(again, "pinion_torque") == reading
    assert again["job"]["mark"]["confirmed"] == data["job"]["mark"]["confirmed"]
    assert again["job"]["shapes"] == {"depth": "ring 41"}


def test_a_file_of_before_counts_its_mark_as_told(owner, demo):
    data = written(412)
    del data["job"]["mark"]["confirmed"]
    for assembly in data["assemblies"]:
        for reading in assembly["readings"]:
            del reading["resolution"], reading["overdue"]
    job, _ = take_in(owner, data)
    assert job.mark_confirmed == "in the job's file"
