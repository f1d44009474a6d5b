"""Uploaded files of the tests, in memory."""

from threading import Lock

from django.core.files.base import ContentFile, File
from django.core.files.storage import InMemoryStorage

_LOCK = Lock()


class SeparateFiles(InMemoryStorage):
    """Every reader gets a file of its own, as from a disk.

    Django's own storage in memory hands all of them the same open file: a page that played a recording moved
    the worker that listened to it, and the recording was said to break off.
    """

    def _open(self, name: str, mode: str = "rb") -> File:
        with _LOCK:
            file = super()._open(name, mode)
            return file if "w" in mode else ContentFile(file.read(), name=name)
