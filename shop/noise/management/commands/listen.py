"""``manage.py listen``: a worker that listens to recordings until it is stopped."""

from __future__ import annotations

import signal
from typing import Any

from django.core.management.base import BaseCommand

from shop.noise.worker import run


class Command(BaseCommand):
    help = "Listen to recordings that wait, until stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        going = [True]

        def stop(*_: object) -> None:
            going[0] = False

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        run(lambda: going[0])
