"""Holds every job's record to its chain, and every picture to its row; exits with 1 where one does not."""

from __future__ import annotations

import sys

import django


def main() -> int:
    """Check every job, and name the first row of each that does not fit."""
    django.setup()
    from shop.jobs import chain
    from shop.jobs.models import Job, Photo

    wrong, jobs, rows = 0, 0, 0
    for job, verdict in chain.check_all(Job.objects.order_by("shop", "number")):
        jobs, rows = jobs + 1, rows + verdict.count
        if not verdict.holds:
            wrong += 1
            print(f"▲ {job.shop.name}, {job}: {verdict.wrong}")
    for photo in Photo.objects.select_related("job").iterator():
        for file in (photo.original, photo.shown):
            if not file.storage.exists(str(file.name)):
                wrong += 1
                print(f"▲ {photo.job}: the picture {file.name} is gone.")
    if not wrong:
        print(f"✓ {jobs} jobs, {rows} rows: every one is as it was written.")
    return int(wrong > 0)


if __name__ == "__main__":
    sys.exit(main())
