"""A real browser against the live server, with the demo shop in the database."""

from __future__ import annotations

import pytest
from django.conf import settings
from django.test import Client
from playwright.sync_api import Page, expect

from demo import PASSWORD
from shop.people.models import User
from tests.conftest import restore_demo

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-dev-shm-usage",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {"executable_path": "/usr/bin/chromium", "args": ARGUMENTS}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce"}


@pytest.fixture
def lash(transactional_db, live_server, page) -> Page:
    """A page of the demo shop, signed in as the owner; any script error fails the test."""
    restore_demo()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda m: faults.append(m.text) if "Content Security" in m.text else None)
    expect.set_options(timeout=8000)
    enter_as(page, live_server.url, "ines")
    page.goto(f"{live_server.url}/")
    yield page
    assert not faults, faults


def enter_as(page: Page, address: str, username: str) -> None:
    """Give a page a person's session, as a sign-in would; one test signs in by the form."""
    client = Client()
    client.force_login(User.objects.get(username=username), "django.contrib.auth.backends.ModelBackend")
    cookie = client.cookies[settings.SESSION_COOKIE_NAME]
    page.context.add_cookies([{"name": cookie.key, "value": cookie.value, "url": address}])


def sign_in(page: Page, address: str, username: str) -> None:
    page.goto(f"{address}/sign-in")
    page.get_by_label("Username").fill(username)
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    page.wait_for_url(f"{address}/")
