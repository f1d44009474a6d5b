"""The list of jobs with 300 and with 20,000 jobs in the shop: it must cost about the same.

`./start` in one terminal, then `.venv/bin/python -m benchmarks.job_list` in another. Two shops of its own
are made in the started database, their jobs as copies of one of the demo's; nine in ten are signed. They
are taken away again. Every chip and a late page are asked for, and the database says which index it reads
(EXPLAIN).
"""

from __future__ import annotations

import json
import statistics
import sys
import time
import urllib.request
from datetime import timedelta
from http.cookiejar import CookieJar

from benchmarks.posts import PASSWORD, as_started, sign_in
from tooling.environment import STATE

SIZES, REPEATS, MOST = (300, 20_000), 15, 1.5
PAGES = ("/", "/?show=mine", "/?show=waiting", "/?show=signed", "/?show=signed&page=3")
OPEN_OF_TEN = 1


def main() -> int:
    """Make the shops, ask for each page, print medians, their ratio and the plan of the query."""
    as_started()
    address = json.loads((STATE / "running.json").read_text())["address"]
    from django.db import connection

    from shop.jobs import queries
    from shop.people.models import User

    times: dict[str, list[float]] = {page: [] for page in PAGES}
    for size in SIZES:
        name = f"jobs-trial-{size}"
        prepare(name, size)
        browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        sign_in(browser, address, name)
        for page in PAGES:
            times[page].append(statistics.median(asked(browser, address + page) for _ in range(REPEATS)))
        user = User.objects.get(username=name)
        with connection.cursor() as cursor:
            rows = queries.jobs_of(user, shown=queries.Shown.OPEN).filter(promised_on__isnull=False)[:26]
            sql, given = rows.query.sql_with_params()
            cursor.execute(f"EXPLAIN {sql}", given)
            plan = [
                dict(zip([c[0] for c in cursor.description], row, strict=True)) for row in cursor.fetchall()
            ]
        for row in plan:
            print(f"{size} jobs: reads {row['key']}, about {row['rows']} rows, {row['Extra']}")
    for size in SIZES:
        take_away(f"jobs-trial-{size}")
    worst = 0.0
    for page, (few, many) in times.items():
        worst = max(worst, many / few)
        print(f"{page}: {few:.1f} ms with {SIZES[0]}, {many:.1f} ms with {SIZES[1]}: × {many / few:.2f}")
    print(f"worst × {worst:.2f} (target {MOST})")
    return 0 if worst <= MOST else 1


def prepare(name: str, size: int) -> None:
    """A shop with so many copies of one job."""
    from django.utils import timezone

    from shop.jobs.models import Job
    from shop.people.models import Shop, User

    user = User.objects.filter(username=name).first()
    if user is None:
        shop = Shop.objects.create(name=f"Trial of the job list, {size}")
        user = User.objects.create_user(name, password=PASSWORD, role="owner", shop=shop)
    shop = user.shop
    pattern = Job.objects.get(shop__is_demo=True, number=412)
    today, now = timezone.localdate(), timezone.now()
    rows = []
    for count in range(size):
        values = {
            f.attname: getattr(pattern, f.attname) for f in Job._meta.concrete_fields if f.name != "id"
        }
        values |= {
            "shop_id": shop.pk,
            "number": count + 1,
            "built_to_id": None,
            "state": Job.State.OPEN if count % 10 < OPEN_OF_TEN else Job.State.SIGNED,
            "promised_on": today + timedelta(days=count % 90) if count % 7 else None,
            "touched_at": now - timedelta(minutes=count),
            "touched_by_id": user.pk,
        }
        rows.append(Job(**values))
    Job.objects.bulk_create(rows, batch_size=500)


def take_away(name: str) -> None:
    """A trial's jobs, which no record hangs on."""
    from django.db import connection

    from shop.people.models import User

    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM jobs_job WHERE shop_id = %s", [User.objects.get(username=name).shop_id])


def asked(browser: urllib.request.OpenerDirector, address: str) -> float:
    """Milliseconds that one page takes."""
    began = time.perf_counter()
    browser.open(address).read()
    return 1000 * (time.perf_counter() - began)


if __name__ == "__main__":
    sys.exit(main())
