"""Answers that are files."""

from typing import Any

from django.http import HttpResponse


def file_answer(content: Any, kind: str, name: str, *, shown: bool = False) -> HttpResponse:
    """A file: kept by the browser under its name, or shown where it can show it.

    :param content: bytes or text.
    :param kind: its media type.
    :param name: of the file.
    :param shown: whether the browser shows it.
    """
    answer = HttpResponse(content, content_type=kind)
    answer["Content-Disposition"] = f'{"inline" if shown else "attachment"}; filename="{name}"'
    return answer
