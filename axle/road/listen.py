"""What to listen for on the road, and what a sound there means."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError


class Sound(Enum):
    """What was heard."""

    QUIET = "quiet"
    TONE = "tone"
    HOWL = "howl"
    GROWL = "growl"
    HUM = "hum"
    CLUNK = "clunk"
    CLICK = "click"
    CHATTER = "chatter"
    SHAKE = "shake"
    LEAK = "leak"


SOUND_WORDS: Final = {
    Sound.QUIET: "nothing",
    Sound.TONE: "tone",
    Sound.HOWL: "howl",
    Sound.GROWL: "growl",
    Sound.HUM: "hum",
    Sound.CLUNK: "clunk",
    Sound.CLICK: "click",
    Sound.CHATTER: "chatter",
    Sound.SHAKE: "shake",
    Sound.LEAK: "leak",
}


class Listen(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One point of a road test, as in ``data/listen.toml``."""

    title: str
    how: str
    stop: tuple[str, ...]
    means: dict[str, str]

    @property
    def sounds(self) -> tuple[Sound, ...]:
        """What may be heard there, nothing first."""
        return (Sound.QUIET, *(Sound(name) for name in self.means))


@cache
def listen_points() -> Mapping[str, Listen]:
    """Every point of a road test by name, in the order in which it is driven.

    :raises AxleError: when the file names a sound that is none.
    :source: ``data/listen.toml``; common practice, no source.

    >>> listen_points()["coast"].title
    'On the overrun'
    """
    found = read_table(__file__, "data/listen.toml", dict[str, Listen])
    known = {sound.value for sound in Sound}
    for name, point in found.items():
        wrong = [sound for sound in (*point.means, *point.stop) if sound not in known]
        if wrong:
            raise AxleError(f"listen.toml, {name}", given=wrong[0], wanted=", ".join(sorted(known)))
    return found


def means(point: str, sound: Sound) -> str:
    """What a sound at a point means, in a sentence; "" where it is quiet.

    :param point: of the road test.
    :param sound: what was heard.
    :raises AxleError: for a point or a sound that is not asked there.
    :source: ``data/listen.toml``.

    >>> means("pull", Sound.HUM)
    'If it stays in neutral: a tyre.'
    """
    known = listen_points().get(point)
    if known is None:
        raise AxleError("road test", given=f"“{point[:20]}”", wanted=", ".join(listen_points()))
    if sound is Sound.QUIET:
        return ""
    if sound.value not in known.means:
        raise AxleError(known.title, given=sound.value, wanted=", ".join(s.value for s in known.sounds))
    return known.means[sound.value]


def is_stop(point: str, sound: Sound) -> bool:
    """Whether nobody drives on after it.

    :param point: of the road test.
    :param sound: what was heard.
    :source: ``data/listen.toml``.
    """
    return sound.value in listen_points()[point].stop
