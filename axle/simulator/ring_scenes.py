"""Scenes of the simulated camera drawn from a world's ranges: a set's own figures, then chance."""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

import numpy as np
from PIL import Image

from axle.contact.cut import Cut, tooth
from axle.data_file import read_table
from axle.simulator.ring_camera import RingScene, RingShot, photograph_ring
from axle.simulator.ring_paint import Paint
from axle.simulator.ring_teeth import RingTeeth

_WORLDS: Final = read_table(__file__, "ring_scene.toml", dict[str, Any])["level"]
LEVELS: Final = tuple(_WORLDS)
_CAMERA_NOTES, _FOCAL = 0x8769, 0xA405
COLOURS: Final = ("yellow", "white", "blue", "red")


@dataclass(frozen=True)
class Snap:
    """A picture, what was done to make it, and what the finger and the file tell.

    :param scene: what was photographed.
    :param shot: the picture and where things are on it.
    :param focal: focal length as on a 35 mm film that the file tells [mm], or None.
    """

    scene: RingScene
    shot: RingShot
    focal: float | None

    def taps(self, seed: int, share: tuple[float, float] = (0.01, 0.02), count: int = 6) -> np.ndarray:
        """Where a finger points: off by such a share of the flank's length, both ways [pixels].

        :param seed: of the finger.
        :param share: least and most, of the flank's length.
        :param count: 4 corners, or 6 with the middles of the long edges.
        """
        draw = np.random.default_rng(seed)
        true = self.shot.points[0][:count]
        length = float(np.linalg.norm(true[1] - true[0]) + np.linalg.norm(true[2] - true[3])) / 2
        size = draw.uniform(*share, true.shape) * draw.choice([-1, 1], true.shape)
        return np.asarray(true + size * length)


def teeth_of(item: Cut, world: Mapping[str, Any], draw: np.random.Generator, hand: int = 1) -> RingTeeth:
    """The ring gear of a set as it was really cut: near the sheet's figures, not on them.

    :param item: the set.
    :param world: ranges of taper, bow, angles and bulge.
    :param draw: source of chance.
    :param hand: of the spiral, +1 or −1.
    """
    made = tooth(item)
    pitch = made.pitch
    off = math.radians(world["angles"])
    return RingTeeth(
        item.ring_teeth,
        pitch.ring_angle + draw.normal(0, off / 2),
        pitch.mean_radius / math.sin(pitch.ring_angle),
        face_width=made.face_width,
        spiral=pitch.ring_spiral + draw.normal(0, off),
        cutter_radius=made.cutter_radius / draw.uniform(*world["bow"]),
        convex_angle=item.convex_angle + draw.normal(0, off),
        concave_angle=item.concave_angle + draw.normal(0, off),
        addendum=made.addendum * draw.uniform(0.95, 1.05),
        dedendum=made.dedendum * draw.uniform(0.95, 1.05),
        taper=draw.uniform(*world["taper"]),
        bulge=draw.uniform(*world["bulge"]),
        generated=draw.uniform(*world["generated"]),
        hand=hand,
    )


def some_outline(draw: np.random.Generator, clear_of: float = 0.0) -> tuple[tuple[float, float], ...]:
    """A round-cornered patch somewhere near the middle, as prints have it.

    :param draw: source of chance.
    :param clear_of: height that it stays above, share of the flank's.
    """
    long, high = draw.uniform(0.12, 0.26), draw.uniform(0.14, 0.26)
    high = min(high, (0.95 - clear_of) / 2.6)
    cu, cv, lean = draw.uniform(0.32, 0.68), draw.uniform(0.36, 0.68), draw.uniform(-0.15, 0.15)
    cv = float(np.clip(cv, clear_of + 1.25 * high, 0.97 - 1.2 * high))
    t = np.linspace(0, 2 * math.pi, 48, endpoint=False)
    size = 1 + 0.1 * np.cos(2 * t + draw.uniform(0, 6)) + 0.07 * np.cos(3 * t + draw.uniform(0, 6))
    power = draw.uniform(0.7, 1.0)
    x = np.sign(np.cos(t)) * np.abs(np.cos(t)) ** power
    y = np.sign(np.sin(t)) * np.abs(np.sin(t)) ** power
    u = cu + size * (long * x + lean * high * y)
    v = cv + size * (high * y + lean * long * x)
    return tuple(
        (float(a), float(b)) for a, b in zip(np.clip(u, 0.01, 0.99), np.clip(v, 0.02, 0.98), strict=True)
    )


def some_snap(
    level: str,
    seed: int,
    item: Cut,
    *,
    convex: bool | None = None,
    size: tuple[int, int] = (1200, 900),
    **more: Any,
) -> Snap:
    """A picture drawn from a world.

    :param level: "mild", "usual" or "rough".
    :param seed: the same seed gives the same picture.
    :param item: the gear set.
    :param convex: the flank looked at; by chance where it is not said.
    :param size: of the picture [pixels].
    :param more: fields of the scene that are not left to chance.
    """
    world, draw = _WORLDS[level], np.random.default_rng(seed)
    hand = int(draw.choice([-1, 1]))
    teeth = teeth_of(item, world, draw, hand)

    def pick(name: str) -> float:
        return float(draw.uniform(*world[name]))

    paint = Paint(
        COLOURS[int(draw.integers(4))],
        **{name: pick(name) for name in ("film", "streaks", "left", "border", "feather", "missed")},
        missed_on_flank=world["missed_on_flank"],
    )
    light = (draw.uniform(-1, 1), draw.uniform(0.3, 1.0), draw.uniform(0.2, 1.0))
    first, last = int(draw.integers(-3, 0)), int(draw.integers(1, 4))
    chosen = convex if convex is not None else bool(draw.integers(2))
    scene = RingScene(
        teeth,
        chosen,
        {},
        paint,
        (first, last),
        size,
        **{name: pick(name) for name in ("tilt", "lean", "roll", "fill", "focal", "distortion")},
        aside=(pick("aside"), pick("aside")),
        off_axis=tuple(draw.normal(0, world["off_axis"], 2)),
        **{name: pick(name) for name in ("exposure", "slope", "gloss", "glare", "shadow", "grain")},
        light=light,
        blur=pick("blur") / 1000 * max(size),
        quality=int(pick("quality")),
    )
    told = (
        float(round(scene.focal * draw.normal(1, 0.02))) if draw.random() < world["tells_focal"] else None
    )
    scene = replace(scene, **more)
    if "outlines" not in more:
        # Nobody photographs a print that the next tooth hides.
        one = some_outline(draw, clear_of=hidden_height(scene) if world["in_sight"] else 0.0)
        outlines = {k: (_wandered(one, draw),) if k else (one,) for k in range(-3, 4)}
        scene = replace(scene, outlines=outlines)
    return Snap(scene, photograph_ring(scene, seed), told)


def print_snap(
    item: Cut,
    outline: Sequence[tuple[float, float]],
    *,
    convex: bool,
    colour: str,
    seed: int,
    size: tuple[int, int] = (1200, 900),
    **more: Any,
) -> Snap:
    """A picture of one print, taken with care from where the root can be seen.

    :param item: the gear set.
    :param outline: what is wiped on the flank, a closed line (u, v); empty for nothing.
    :param convex: the flank is the ring gear's convex one.
    :param colour: of the compound.
    :param seed: the same seed gives the same picture.
    :param size: of the picture [pixels].
    :param more: fields of the scene.
    """
    draw = np.random.default_rng(seed)
    line = tuple((float(u), float(v)) for u, v in outline)
    beside = {k: (_wandered(line, draw),) if k else (line,) for k in range(-3, 4)} if line else {}
    scene = {
        "outlines": beside,
        "paint": Paint(colour, missed=0.08),
        "tilt": 43.0,
        "lean": float(draw.uniform(-8, 8)),
        "roll": float(draw.uniform(-12, 12)),
        "fill": 0.44,
        "focal": 50.0,
        "glare": 0.0,
    }
    return replace(some_snap("mild", seed, item, convex=convex, size=size, **(scene | more)), focal=50.0)


def as_file(snap: Snap, quality: int = 90) -> bytes:
    """A picture as a phone's file, with the focal length in its notes.

    :param snap: the picture.
    :param quality: of the compression, 1 to 100.
    """
    notes = Image.Exif()
    if snap.focal:
        notes.get_ifd(_CAMERA_NOTES)[_FOCAL] = round(snap.focal)
    file = io.BytesIO()
    Image.fromarray(snap.shot.image).save(file, "JPEG", quality=quality, exif=notes.tobytes())
    return file.getvalue()


def hidden_height(scene: RingScene) -> float:
    """Height up to which the next tooth hides the flank that is looked at, share of its height.

    :param scene: what is photographed.
    """
    small = replace(scene, size=(scene.size[0] // 5, scene.size[1] // 5), blur=0, quality=0, outlines={})
    shown = photograph_ring(small, 0).shown
    here = shown[..., 2] == 0
    u, v = shown[here][:, 0], shown[here][:, 1]
    lowest = [float(v[abs(u - at) < 0.06].min(initial=1.0)) for at in (0.3, 0.5, 0.7)]
    return max(lowest)


def _wandered(
    outline: tuple[tuple[float, float], ...], draw: np.random.Generator
) -> tuple[tuple[float, float], ...]:
    """The next tooth's patch: much the same, not quite."""
    by = draw.normal(0, 0.012, 2)
    grown = draw.normal(1, 0.05, 2)
    line = np.array(outline)
    middle = line.mean(axis=0)
    moved = np.clip(middle + by + (line - middle) * grown, 0.01, 0.99)
    return tuple((float(a), float(b)) for a, b in moved)
