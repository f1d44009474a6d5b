"""Bring the database, the static files and the demo shop up to date; quick when they are."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import django
from django.core.management import call_command


def main() -> None:
    """Migrate, collect static files when they changed, load the demo into an empty database."""
    django.setup()
    call_command("migrate", interactive=False, verbosity=0)
    _collect_static()
    from demo.load import load_demo

    if load_demo():
        print("Loaded the demo shop.", flush=True)


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
