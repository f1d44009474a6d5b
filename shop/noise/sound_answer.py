"""A sound as a player asks for it: whole, or the bytes from here to there."""

from __future__ import annotations

import re
from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase

_TYPES = {"flac": "audio/flac", "wav": "audio/wav", "csv": "text/csv"}
# A player is given so much at once.
_PART = 1 << 20


def sound_answer(request: HttpRequest, file: Any, name: str) -> HttpResponse:
    """The file, or the part that ``Range`` names; 416 for a part that it has not."""
    kind = _TYPES.get(name.rsplit(".", 1)[-1].lower(), "application/octet-stream")
    size = file.size
    wanted = re.fullmatch(r"bytes=(\d{1,15})-(\d{0,15})", request.headers.get("Range", ""))
    answer: HttpResponseBase
    if wanted is None:
        answer = FileResponse(file.open("rb"), content_type=kind)
    else:
        first = int(wanted[1])
        last = min(int(wanted[2]) if wanted[2] else size - 1, first + _PART - 1, size - 1)
        if first > last:
            return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
        with file.open("rb") as opened:
            opened.seek(first)
            answer = HttpResponse(opened.read(last - first + 1), status=206, content_type=kind)
        answer["Content-Range"] = f"bytes {first}-{last}/{size}"
    answer["Accept-Ranges"] = "bytes"
    answer["Content-Disposition"] = "inline"
    return answer  # type: ignore[return-value]
