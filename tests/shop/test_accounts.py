"""Accounts: passwords, sign-ins, second factor, throttling; what a stranger and a colleague can do."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import pytest
from django.test import Client, RequestFactory
from django_otp.oath import totp

from demo import PASSWORD
from shop.people import second_factor, throttle
from shop.people.models import SignIn, User


def signed_in(name: str, password: str = PASSWORD, **more) -> Client:
    client = Client(**more)
    answer = client.post("/sign-in", {"username": name, "password": password})
    assert answer.status_code == 302, answer.content.decode()[:2000]
    return client


def is_out(client: Client) -> bool:
    answer = client.get("/")
    return answer.status_code == 302 and answer.url.startswith("/sign-in")


@pytest.fixture
def reset(owner, apprentice):
    """The owner's browser, and the password it showed for the apprentice."""
    browser = signed_in("ines")
    page = browser.post(f"/people/{apprentice.pk}/password").content.decode()
    return browser, re.search(r'class="password">([\w-]+)<', page)[1]


def test_a_reset_password_lets_in_once_and_has_to_be_changed(reset, apprentice):
    _, password = reset
    client = signed_in("lio", password)
    assert client.get("/").url == "/me/password"
    assert client.get("/jobs/412/").url == "/me/password"
    # It is spent: a second sign-in with it fails.
    assert Client().post("/sign-in", {"username": "lio", "password": password}).status_code == 200
    own = "a-pass-over-the-ridge"
    answer = client.post("/me/password", {"new_password1": own, "new_password2": own})
    assert answer.url == "/me"
    assert client.get("/").status_code == 200
    signed_in("lio", own)


def test_a_reset_ends_what_was_open(apprentice, owner):
    before = signed_in("lio")
    assert not is_out(before)
    signed_in("ines").post(f"/people/{apprentice.pk}/password")
    assert is_out(before)


def test_whoever_is_let_go_is_out_at_once_and_comes_back_when_let_in(apprentice, owner):
    theirs, browser = signed_in("lio"), signed_in("ines")
    browser.post(f"/people/{apprentice.pk}/let-go")
    assert is_out(theirs)
    assert Client().post("/sign-in", {"username": "lio", "password": PASSWORD}).status_code == 200
    browser.post(f"/people/{apprentice.pk}/let-go", {"back": "1"})
    signed_in("lio")


def test_the_last_owner_neither_goes_nor_steps_down(owner):
    browser = signed_in("ines")
    page = browser.post(f"/people/{owner.pk}/let-go", follow=True).content.decode()
    assert "You cannot let yourself go" in page
    page = browser.post(f"/people/{owner.pk}/role", {"role": "builder"}, follow=True).content.decode()
    assert "keeps at least one owner" in page
    owner.refresh_from_db()
    assert (owner.is_active, owner.role) == (True, "owner")


def test_changing_the_own_password_ends_the_other_sign_ins(apprentice):
    here, there = signed_in("lio"), signed_in("lio")
    own = "a-pass-over-the-ridge"
    given = {"old_password": PASSWORD, "new_password1": own, "new_password2": own}
    assert here.post("/me/password", given).url == "/me"
    assert not is_out(here)
    assert is_out(there)


def test_sign_ins_are_listed_and_ended_one_by_one(apprentice):
    here, there = signed_in("lio"), signed_in("lio", headers={"user-agent": "Tablet in the pit"})
    assert "Tablet in the pit" in here.get("/me").content.decode()
    row = SignIn.objects.get(user=apprentice, program="Tablet in the pit")
    here.post("/me/sign-ins", {"sign_in": row.pk})
    assert is_out(there)
    assert not is_out(here)


def test_another_s_sign_in_is_out_of_reach(apprentice, owner):
    theirs, mine = signed_in("ines"), signed_in("lio")
    row = SignIn.objects.get(user=owner)
    mine.post("/me/sign-ins", {"sign_in": row.pk})
    mine.post(f"/people/{owner.pk}/sign-ins")
    assert not is_out(theirs)


def test_a_person_let_in_begins_as_an_apprentice_and_changes_the_first_password(owner):
    browser = signed_in("ines")
    page = browser.get("/people").content.decode()
    assert '<option value="apprentice" selected>' in page
    first = "first-of-all-words"
    given = {"first_name": "Pia", "username": "pia", "role": "apprentice", "password": first}
    assert browser.post("/people", given).status_code == 302
    assert signed_in("pia", first).get("/").url == "/me/password"


# ---- second factor


def code_of(user: User, device=None, later: int = 0) -> str:
    device = device or second_factor.newest(user)
    return f"{totp(device.bin_key, device.step, device.t0, device.digits, device.drift + later):06d}"


def test_codes_follow_rfc_6238():
    """The published test vector: secret "12345678901234567890", T = 59 s, SHA-1, eight digits: 94287082."""
    from django_otp.oath import TOTP

    clock = TOTP(b"12345678901234567890", step=30, t0=0, digits=8)
    clock.time = 59
    assert clock.token() == 94287082


def test_a_second_factor_is_set_up_asked_for_and_left(apprentice):
    browser = signed_in("lio")
    assert "<svg" in browser.get("/me/second-factor").content.decode()
    assert browser.post("/me/second-factor", {"code": "000000"}).status_code == 422
    apprentice.refresh_from_db()
    assert not apprentice.has_second_factor
    # A wrong code makes the device wait: RFC 6238 wants tries limited.
    from django_otp.plugins.otp_totp.models import TOTPDevice

    TOTPDevice.objects.update(throttling_failure_count=0)
    page = browser.post("/me/second-factor", {"code": code_of(apprentice, second_factor.begin(apprentice))})
    codes = re.findall(r"<li>(\d{5}) (\d{5})</li>", page.content.decode())
    assert len(codes) == 8
    other = signed_in("lio")
    assert other.get("/jobs/412/").url == "/sign-in/code"
    assert other.post("/sign-in/code", {"code": "123"}).status_code == 422
    TOTPDevice.objects.update(throttling_failure_count=0)
    from django_otp.plugins.otp_static.models import StaticDevice

    StaticDevice.objects.update(throttling_failure_count=0)
    assert other.post("/sign-in/code", {"code": "".join(codes[0])}).status_code == 302
    assert other.get("/jobs/412/").status_code == 200
    third = signed_in("lio")
    assert third.post("/sign-in/code", {"code": "".join(codes[0])}).status_code == 422, (
        "each code is good once"
    )


def test_the_shop_may_ask_everybody_for_one(apprentice, owner):
    theirs = signed_in("lio")
    signed_in("ines").post("/people/second-factor", {"second_factor": "all"})
    assert theirs.get("/").url == "/me/second-factor"
    assert theirs.get("/me/second-factor").status_code == 200


def test_an_owner_whom_others_reach_needs_one(owner, apprentice, settings):
    owner_s, theirs = signed_in("ines"), signed_in("lio")
    settings.ALLOWED_HOSTS = ["testserver", "lash.varnholt.example"]
    assert owner_s.get("/").url == "/me/second-factor"
    assert theirs.get("/").status_code == 200


@pytest.mark.parametrize(
    ("hosts", "reached"),
    [
        (["127.0.0.1", "localhost", "[::1]"], False),
        (["192.0.2.7"], True),
        (["shop.example"], True),
        (["*"], True),
    ],
)
def test_which_addresses_others_reach(settings, hosts, reached):
    settings.ALLOWED_HOSTS = hosts
    assert second_factor.reached_by_others() is reached


# ---- throttling


def wrong(client: Client, name: str) -> int:
    return client.post("/sign-in", {"username": name, "password": "wrong-one"}).status_code


def test_nobody_locks_a_colleague_out_from_the_same_address(apprentice):
    """The colleague has signed in on this browser before: it counts as an address of its own."""
    known = signed_in("lio")
    known.post("/sign-out")
    stranger = Client()
    answers = {wrong(stranger, "lio") for _ in range(20)}
    assert 429 in answers
    assert known.post("/sign-in", {"username": "lio", "password": PASSWORD}).status_code == 302


def test_a_known_browser_is_throttled_too(apprentice):
    known = signed_in("lio")
    known.post("/sign-out")
    assert 429 in {wrong(known, "lio") for _ in range(20)}


def test_twelve_names_from_one_address_are_slowed(demo):
    stranger = Client()
    answers = [wrong(stranger, f"nobody-{n}") for n in range(12)]
    assert answers[:8] == [200] * 8
    assert 429 in answers[8:]
    page = stranger.post("/sign-in", {"username": "lio", "password": PASSWORD}).content.decode()
    assert re.search(r"Try again in \d+ s", page)


def test_the_wait_doubles_up_to_a_minute():
    """By hand: free up to 8, then 1, 2, 4 … seconds, never more than 60."""
    now = datetime(2026, 3, 2, 9, tzinfo=UTC)
    waits = [throttle.wait_after(count, now, now).total_seconds() for count in (0, 7, 8, 9, 11, 20, 900)]
    assert waits == [0, 0, 1, 2, 8, 60, 60]
    assert throttle.wait_after(9, now - timedelta(seconds=3), now) == timedelta(0)


@pytest.mark.parametrize(
    ("hops", "header", "found"),
    [
        (0, "203.0.113.9", "10.0.0.1"),
        (1, "203.0.113.9", "203.0.113.9"),
        (1, "198.51.100.1, 203.0.113.9", "203.0.113.9"),
        (2, "198.51.100.1, 203.0.113.9", "198.51.100.1"),
        (2, "203.0.113.9", "10.0.0.1"),
        (1, "no address", "10.0.0.1"),
    ],
)
def test_only_our_own_proxies_are_believed(settings, hops, header, found):
    settings.LASH_TRUSTED_HOPS = hops
    request = RequestFactory().get("/", headers={"x-forwarded-for": header}, REMOTE_ADDR="10.0.0.1")
    assert throttle.address_of(request) == found


def test_a_name_longer_than_any_is_refused_in_words(demo):
    answer = Client().post("/sign-in", {"username": "x" * 300, "password": "y"})
    assert answer.status_code == 200
    assert "longer than any name" in answer.content.decode()


def test_a_person_without_a_shop_is_told_so(demo):
    User.objects.create_user("nobody", password=PASSWORD)
    client = signed_in("nobody")
    for address in ("/", "/jobs/412/", "/drawer/", "/people", "/sheets/new", "/practice/"):
        answer = client.get(address)
        assert answer.status_code == 403
        assert "You belong to no shop" in answer.content.decode()


def test_pages_behind_the_sign_in_are_kept_nowhere(owner):
    client = signed_in("ines")
    for address in ("/", "/jobs/412/", "/jobs/411/sheet.pdf", "/jobs/412/job.json"):
        assert "no-store" in client.get(address).headers["Cache-Control"]
