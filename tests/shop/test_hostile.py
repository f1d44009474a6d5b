"""No request and no job file, whatever it is, is answered by an error of ours."""

from __future__ import annotations

import io
import json
import random

import pytest
from django.test import Client

from axle.errors import AxleError
from shop.jobs.exchange import read, seal
from shop.jobs.models import Job
from shop.people.models import User
from tests.hostile import hostile_request, learn, mutated
from tests.shares import share_of

REQUESTS, FILES = share_of(10_000, 200), share_of(2_000, 60)


def test_no_hostile_request_is_answered_by_an_error_of_ours(demo):
    source = random.Random(2026)
    clients = []
    for name in ("ines", "mattis", "lio"):
        client = Client(raise_request_exception=False)
        client.force_login(User.objects.get(username=name))
        clients.append(client)
    pages, forms = learn(clients[0])
    assert len(forms) > 40
    broken = []
    for _ in range(REQUESTS):
        what, answer = hostile_request(source, source.choice(clients), pages, forms)
        if answer.status_code >= 500:
            broken.append(f"{answer.status_code} {what}")
    assert not broken, "\n".join(broken[:20])


@pytest.fixture
def files(demo) -> list[dict]:
    jobs = Job.objects.filter(practice=False, photos=None).order_by("number")
    return [json.loads(json.dumps(seal.sealed(job))) for job in jobs]


def test_no_mutated_job_file_is_answered_by_an_error_of_ours(files, owner):
    source = random.Random(2026)
    client = Client(raise_request_exception=False)
    client.force_login(owner)
    taken, refused, broken = 0, 0, []
    for number in range(FILES):
        text = json.dumps(mutated(source, source.choice(files))).encode()
        try:
            job, _ = read.read_job(owner, io.BytesIO(text), len(text))
        except AxleError:
            refused += 1
            continue
        except Exception as problem:  # noqa: BLE001 - that is what is looked for
            broken.append(f"{number}: {problem!r}")
            continue
        taken += 1
        station = source.choice(("depth", "backlash", "pattern", "carrier_preload", "sheet", ""))
        for page in (f"/jobs/{job.number}/?station={station}", f"/jobs/{job.number}/sheet"):
            if client.get(page).status_code >= 500:
                broken.append(f"{number}: {page}")
    assert not broken, "\n".join(broken[:20])
    assert refused > taken
