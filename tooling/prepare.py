"""Bring the database, the static files and the demo shop up to date; quick when they are."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import django
from django.core.management import call_command


def main() -> None:
    """Migrate, collect static files when they changed, load the demo where no shop ever was."""
    django.setup()
    call_command("migrate", interactive=False, verbosity=0)
    _collect_static()
    from shop.people.models import Shop

    if not Shop.objects.exists() and not os.environ.get("LASH_EMPTY"):
        from demo.load import load_demo

        load_demo()
        print("Loaded the demo shop.", flush=True)
    _begin_chains()
    Path(os.environ["LASH_MEDIA_ROOT"]).mkdir(parents=True, exist_ok=True)


def _begin_chains() -> None:
    """Link the records of jobs that were written before there was a chain."""
    from shop.jobs import chain
    from shop.jobs.models import Job

    for job in Job.objects.filter(chain=None).select_related("shop"):
        chain.extend(job)


def _collect_static() -> None:
    from django.conf import settings

    root = Path(settings.STATIC_ROOT)
    digest = hashlib.sha256()
    for path in sorted(Path(settings.STATICFILES_DIRS[0]).rglob("*")):
        if path.is_file():
            digest.update(str(path).encode() + path.read_bytes())
    stamp = root / "stamp.txt"
    if stamp.exists() and stamp.read_text() == digest.hexdigest():
        return
    call_command("collectstatic", interactive=False, verbosity=0, clear=True)
    stamp.write_text(digest.hexdigest())


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "shop.config.settings.loopback")
    main()
