"""What stands at an edge, through the pages: sheets with one end, two manuals, odd words, locked gears."""

from __future__ import annotations

import re
import uuid

import pytest

from axle.procedure.findings import parts
from axle.procedure.stations import reading_kinds, stations
from axle.spec.sheet import spec_keys
from shop.instruments.models import Instrument
from shop.jobs import loading
from shop.jobs.exchange import write
from shop.jobs.models import Job, Reading
from shop.specs.forms import SheetForm, starter
from shop.specs.models import SpecSheet
from tests.shop.test_bench import HTMX, send, words
from tests.shop.test_shop_pages import job_form


def sheet_form(owner, key: str = "works-van", **more: str) -> dict[str, str]:
    """The form of a starter sheet as a browser sends it."""
    form = SheetForm(owner.shop, plain=starter(key))
    found = {name: form[name].value() for name in form.fields}
    # A select without a value sends its first choice.
    found |= {n: f.choices[0][0] for n, f in form.fields.items() if hasattr(f, "choices") and not found[n]}
    return {name: "" if value is None else str(value) for name, value in found.items()} | more


def keep_sheet(pages, owner, name: str, key: str = "works-van", **more: str) -> SpecSheet:
    answer = pages.post("/sheets/new", sheet_form(owner, key, name=name, **more))
    assert answer.status_code == 302, words(answer).split("▲")[1:]
    return SpecSheet.objects.get(name=name)


def open_job(pages, sheet: SpecSheet, **more: str) -> Job:
    answer = pages.post("/jobs/new", job_form(sheet=sheet.pk, mark="0", **more))
    assert answer.status_code == 302, words(answer).split("▲")[1:]
    return Job.objects.latest("pk")


ENDS = {"at least": ("7", ""), "at most": ("", "7"), "one figure": ("7", "7"), "nil": ("0", "0")}


@pytest.mark.parametrize(
    ("key", "ends"),
    [
        ("works-van", "at least"),
        ("funicular-truck", "at least"),
        ("works-van", "at most"),
        ("side-cover", "at most"),
        ("works-van", "one figure"),
        ("funicular-truck", "nil"),
    ],
)
def test_a_sheet_of_one_end_goes_from_its_form_through_every_station_to_paper(pages, owner, key, ends):
    low, high = ENDS[ends]
    figures = {}
    for name, known in spec_keys().items():
        if known.has_low:
            figures |= {f"{name}-low": low, f"{name}-high": high}
    sheet = keep_sheet(pages, owner, f"Ends {key} {ends}", key, **figures)
    kept = sheet.values.get(key="pinion_preload_new")
    assert [None if v is None else f"{v.normalize():f}" for v in (kept.low, kept.high)] == [
        low or None,
        high or None,
    ]
    job = open_job(pages, sheet)
    # At its mark; every reading that the bench takes is stored and judged.
    for name in ("arrival", "pinion_preload", "carrier_preload", "backlash", "torque"):
        assert pages.get(f"/jobs/{job.number}/?station={name}").status_code == 200
    for name, kind in reading_kinds().items():
        if not kind.limit or name in ("spread", "arrival_runout"):
            continue
        answer = send(pages, "7", kind=name, number=job.number, questioned="7", station="arrival")
        assert answer.status_code in (200, 422), (name, answer.status_code)
    for name in stations():
        assert pages.get(f"/jobs/{job.number}/?station={name}").status_code == 200, name
    for page in ("sheet", "torque", "carrier", "work"):
        assert pages.get(f"/jobs/{job.number}/{page}").status_code == 200, page


def test_two_manuals_stand_on_a_sheet_and_the_one_in_force_is_printed(pages, owner):
    other = {
        "pinion_preload_new-second-low": "20",
        "pinion_preload_new-second-high": "30",
        "pinion_preload_new-second-unit": "in·lb",
        "pinion_preload_new-second-source": "published",
        "pinion_preload_new-second-note": "green handbook",
        "pinion_preload_new-in_force": "second",
    }
    sheet = keep_sheet(pages, owner, "Two manuals", **other)
    shown = words(pages.get(f"/sheets/{sheet.pk}/"))
    assert "published, green handbook" in shown
    job = open_job(pages, sheet)
    limits = loading.load(job).state.preload_range()
    assert round(limits.low, 3) == 2.26  # 20 in·lb by the conversion of 1959
    send(pages, "22", kind="pinion_torque", number=job.number, questioned="22", station="pinion_preload")
    printed = words(pages.get(f"/jobs/{job.number}/sheet"))
    assert "published, green handbook; not in force: 18–27 (made up for the demo)" in printed


def test_a_tolerance_beside_a_range_is_refused_in_words(pages, owner):
    given = sheet_form(owner, name="Odd", **{"backlash-tolerance": "1"})
    answer = pages.post("/sheets/new", given)
    assert answer.status_code == 422
    assert "one figure, the same as low and as high" in words(answer)


# ---- words in, units out


OBJECT = re.compile(
    r"(?:<|&lt;)[\w.]+ object|bound method|functools\.|Decimal\(|datetime\.|Quantity\(|Unit\(|\{&#x27;|\{'\w+':"
)


@pytest.mark.parametrize("number", [411, 412, 413, 414, 415, 416, 417, 418])
def test_every_page_shows_and_none_prints_a_python_object(pages, number):
    pages_of = (
        "",
        "work",
        "tools",
        "arrival",
        "register",
        "findings",
        "runout",
        "spread",
        "heights",
        "carrier",
        "torque",
        "photos",
        "sheet",
        *(f"?station={name}" for name in stations()),
    )
    for page in pages_of:
        answer = pages.get(f"/jobs/{number}/{page}")
        assert answer.status_code == 200
        text = answer.content.decode()
        assert f"Job {number:04d}" in text or page == "sheet", page
        found = OBJECT.search(re.sub(r"<script.*?</script>", "", text, flags=re.DOTALL))
        assert found is None, (page, found)


@pytest.mark.parametrize("steady", ["", "1"])
@pytest.mark.parametrize("kind", ["backlash", "pinion_torque", "cap_torque", "depth_feeler"])
def test_taking_from_the_instrument_prints_no_python_object(pages, kind, steady):
    answer = pages.get(f"/jobs/412/take?kind={kind}&place=1&steady={steady}", headers=HTMX)
    assert answer.status_code in (200, 422)
    assert OBJECT.search(answer.content.decode()) is None, answer.content.decode()[:600]


@pytest.mark.parametrize(
    ("unit", "typed", "thou"),
    [("thou", "2", 2.0), ("1/100 mm", "5", 1.9685), ("mm", "+0.02", 0.7874), ("mm", "-0.05", -1.9685)],
)
def test_a_mark_is_read_in_the_unit_that_is_chosen_beside_it(pages, owner, unit, typed, thou):
    # 0.02 mm are 0.7874 thou: an inch is 25.4 mm.
    sheet = keep_sheet(pages, owner, "Mark")
    answer = pages.post("/jobs/new", job_form(sheet=sheet.pk, mark=typed, mark_unit=unit))
    assert answer.status_code == 302, words(answer)
    assert float(Job.objects.latest("pk").mark_value) == pytest.approx(thou * 0.0254, abs=1e-4)


def test_in_a_metric_shop_a_mark_without_a_unit_is_asked_about_and_a_whole_distance_is_taken(pages, owner):
    owner.units = "mm"
    owner.save()
    sheet = keep_sheet(pages, owner, "Metric mark")
    asked = pages.post("/jobs/new", job_form(sheet=sheet.pk, mark="+0.02", mark_unit=""))
    assert asked.status_code == 422
    assert "No unit was given" in words(asked)
    whole = job_form(sheet=sheet.pk, mark="104.52", mark_unit="mm", mark_convention="distance")
    assert pages.post("/jobs/new", whole).status_code == 302
    large = pages.post("/jobs/new", job_form(sheet=sheet.pk, mark="0.5", mark_unit="mm"))
    assert large.status_code == 422
    assert "is large" in words(large)


def test_a_torque_beyond_what_can_be_read_is_a_bound_and_not_a_point(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Bound"))
    for typed in (">5", "cannot be turned"):
        answer = send(
            pages,
            typed,
            kind="pinion_torque",
            number=job.number,
            station="pinion_preload",
            questioned=typed,
        )
        assert answer.status_code == 200, words(answer)[:1500]
    newest = Reading.objects.filter(assembly__job=job, kind="pinion_torque").latest("pk")
    assert newest.conditions.get("bound")


def test_a_metric_shop_is_asked_in_its_own_units(pages, owner):
    owner.units = "mm"
    owner.save()
    answer = words(send(pages, "18", kind="backlash", place="2", twice=False))
    assert "0.18 mm" in answer
    assert "18 thou" not in answer


def test_both_ends_of_a_dial_are_what_lies_between_them(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Ends of a dial"))
    send(pages, "40 → 52", kind="pinion_end_play", number=job.number, station="pinion_preload", status=200)
    newest = Reading.objects.filter(assembly__job=job, kind="pinion_end_play").latest("pk")
    assert float(newest.value) == pytest.approx(12 * 0.0254)
    assert newest.typed == "40 → 52"


def test_a_torque_past_a_wrench_s_full_scale_is_asked_about(pages, owner):
    wrench = Instrument.objects.of(owner.shop).filter(kind="rotating_wrench", retired=False).first()
    Instrument.objects.filter(pk=wrench.pk).update(full_scale="3")
    job = open_job(pages, keep_sheet(pages, owner, "Scale"))
    answer = send(
        pages, "40", kind="pinion_torque", number=job.number, station="pinion_preload", tool=str(wrench.pk)
    )
    assert "It reads to" in words(answer)
    assert not Reading.objects.filter(assembly__job=job, kind="pinion_torque").exists()


# ---- findings act


def find(pages, job: Job, part: str, sign: str, decision: str, reason: str = ""):
    job.refresh_from_db()
    given = {
        "version": job.version,
        "part": part,
        "sign": sign,
        "decision": decision,
        "reason": reason,
        "entry": str(uuid.uuid4()),
    }
    return pages.post(f"/jobs/{job.number}/findings", given, follow=True)


def test_a_bearing_that_is_replaced_is_new_asks_for_its_partner_and_stands_on_the_list(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Found"), bearings="used")
    used = loading.load(job).state.preload_range()
    page = words(
        find(pages, job, part="pinion_outer", sign="flaked", decision="replace", reason="pitted race")
    )
    assert "its partner is replaced" in page
    job = Job.objects.get(pk=job.pk)
    assert job.new_bearings
    assert loading.load(job).state.preload_range().low > used.low
    listed = words(pages.get(f"/jobs/{job.number}/tools"))
    assert "New: pinion outer bearing and cup" in listed
    given = {"version": job.version, "tool-part-pinion_outer": "missing"}
    assert "Missing, and the job would stop" in words(
        pages.post(f"/jobs/{job.number}/tools", given, follow=True)
    )
    kept = words(
        find(pages, job, part="pinion_inner", sign="sound", decision="keep", reason="new last month")
    )
    assert "its partner is replaced" not in kept


def test_metal_in_the_oil_with_every_part_sound_wants_a_source(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Metal"))
    Job.objects.filter(pk=job.pk).update(choices={"oil": "metal"})
    for part in parts():
        page = words(find(pages, job, part=part, sign="sound", decision="keep"))
    assert "where does it come from?" in page
    assert "where does it come from?" not in words(
        find(pages, job, part="shims", sign="sound", decision="keep", reason="chips of the old sleeve")
    )


def test_side_play_stops_runout_on_the_card_too(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Side play"))
    send(pages, "4", kind="arrival_side_play", number=job.number, station="arrival", status=200)
    page = words(pages.get(f"/jobs/{job.number}/?station=arrival"))
    assert "Side play first: runout cannot be read through it" in page
    send(pages, "0", kind="arrival_side_play", number=job.number, station="arrival", status=200)
    assert "Side play first" not in words(pages.get(f"/jobs/{job.number}/?station=arrival"))


# ---- torques of the shop's own


def test_a_group_of_the_shop_s_own_is_added_signed_in_its_turn_and_taken_over(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Own"))
    given = {
        "version": job.version,
        "do": "add",
        "title": "Spring U-bolts",
        "count": "4",
        "shape": "rectangle",
        "thread": "1/2-20",
        "grade": "grade 5",
        "hand": "right",
        "coating": "dry",
        "low": "60",
        "high": "75",
        "source": "yard's sheet",
    }
    page = words(pages.post(f"/jobs/{job.number}/torque", given, follow=True))
    assert "Spring U-bolts" in page
    assert "60–75" in page
    job.refresh_from_db()
    wrong = given | {"version": job.version, "thread": "9/9-9"}
    refused = words(pages.post(f"/jobs/{job.number}/torque", wrong, follow=True))
    assert "9/9-9" in refused
    other = open_job(pages, keep_sheet(pages, owner, "Own too"))
    again = {"version": other.version, "do": "again", "from": f"{job.number} own-1"}
    assert "Spring U-bolts" in words(pages.post(f"/jobs/{other.number}/torque", again, follow=True))
    printed = words(pages.get(f"/jobs/{other.number}/sheet"))
    assert "Spring U-bolts" in printed
    assert "assumed: look at the part" in printed, "of the usual groups nobody has looked at the part"
    exported = write.write_job(Job.objects.get(pk=other.pk))
    assert exported["job"]["fasteners"]["own-1"]["title"] == "Spring U-bolts"


# ---- what nobody should send


@pytest.mark.parametrize(
    ("page", "given"),
    [
        ("torque", {"do": "add"}),
        ("torque", {"do": "add", "title": "U", "count": "-3", "low": "x"}),
        (
            "torque",
            {
                "do": "add",
                "title": "U-bolts",
                "count": "4",
                "shape": "heap",
                "thread": "M10",
                "grade": "8.8",
                "hand": "right",
                "low": "40",
                "high": "30",
            },
        ),
        (
            "torque",
            {
                "do": "add",
                "title": "U-bolts",
                "count": "4",
                "shape": "circle",
                "thread": "M10",
                "grade": "8.8",
                "hand": "right",
                "low": "40",
                "high": "50",
                "after": "no-such-group",
            },
        ),
        ("torque", {"do": "drop", "group": "caps"}),
        ("torque", {"do": "again", "from": "9 own-9"}),
        ("torque", {"do": "trial", "group": "cartridge", "value": ""}),
        ("torque", {"do": "trial", "group": "caps", "value": "50"}),
        ("register", {"own": "99999999", "do": "drawer"}),
        ("register", {"own": "all", "do": "scrap"}),
        ("work", {"scope": "half an axle"}),
        ("findings", {"part": "roof", "sign": "sound", "decision": "keep"}),
        ("tools", {"tool-part-roof": "have"}),
    ],
)
def test_what_cannot_be_is_refused_in_words_and_changes_nothing(pages, owner, page, given):
    job = open_job(pages, keep_sheet(pages, owner, "Nonsense"))
    before = (job.version, job.fasteners, job.scope)
    answer = pages.post(f"/jobs/{job.number}/{page}", {"version": job.version, **given}, follow=True)
    assert answer.status_code < 500
    assert "▲" in words(answer), words(answer)[-2000:]
    job.refresh_from_db()
    assert (job.version, job.fasteners, job.scope) == before


def test_an_apprentice_signs_no_trial_and_a_stranger_sees_no_tray(
    client, pages, owner, apprentice, stranger
):
    job = open_job(pages, keep_sheet(pages, owner, "Roles", key="funicular-truck"))
    client.force_login(apprentice)
    given = {
        "version": job.version,
        "do": "trial",
        "group": "cartridge",
        "value": "35",
        "entry": str(uuid.uuid4()),
    }
    assert "Ask a builder" in words(client.post(f"/jobs/{job.number}/torque", given, follow=True))
    client.force_login(stranger)
    assert client.get(f"/jobs/{job.number}/register").status_code == 404
    assert client.post(f"/jobs/{job.number}/register", {"own": "1", "do": "drawer"}).status_code == 404


def test_what_the_shop_has_no_job_asks_for(pages, owner):
    number = open_job(pages, keep_sheet(pages, owner, "Tools"), bearings="used").number
    before = loading.load(Job.objects.get(number=number))
    wanted = [need.tool for need in before.plan.needs if need.tool.kind == "gauge"]
    assert f"{wanted[0].title}: " in " ".join(before.records.open_lists["tools"])
    answer = pages.post("/shop/tools", {"tool": [tool.tool for tool in wanted]}, follow=True)
    assert f"{len(wanted)} tools are the shop's" in words(answer)
    after = loading.load(Job.objects.get(number=number))
    assert not [
        line for line in after.records.open_lists["tools"] if line.startswith(f"{wanted[0].title}: ")
    ]
    assert f"The shop has {len(wanted)} more of what this job needs" in words(
        pages.get(f"/jobs/{number}/tools")
    )
    # What is away is said on the job, and counts before what the shop has.
    version = Job.objects.get(number=number).version
    pages.post(f"/jobs/{number}/tools", {"version": version, f"tool-{wanted[0].tool}": "missing"})
    assert loading.load(Job.objects.get(number=number)).tool_state(wanted[0].tool) == "missing"
    refused = pages.post("/shop/tools", {"tool": ["roof"]})
    assert refused.status_code == 422
    assert "roof" in words(refused)
    assert wanted[0].title in words(pages.get("/shop/tools"))
