"""What moves: drag a shim, and depth, backlash, both preloads and the pattern answer."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any, Final

from axle.backlash.ratios import Ratios, prior_ratios
from axle.contact.target import target_of, targets
from axle.decision.carrier.what_moves import Effects, what_moves
from axle.errors import AxleError
from axle.gearset import GearSet, Stance
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy, SpacerSeat
from axle.measure.units import THOU, Display, show
from axle.stations.backlash import ratios_now
from axle.stations.pattern_map import PrintMap, map_of, print_map
from axle.stations.zero_play import per_hole
from shop.drawing import flanks
from shop.drawing.moving import Handle, moving
from shop.drawing.section import Moved
from shop.jobs.job_axle import JobAxle

# A set that stands for all where no job is open.
_GEARS: Final = GearSet(11, 41)
_HOLE: Final = 0.1
_MOST_STEPS: Final = 10
# So many units of the picture for a mm that moves: exaggerated.
_SHOWN: Final = 90.0
_TITLES: Final = {
    Place.DEPTH: "Depth shim",
    Place.PRELOAD: "Preload pack",
    Place.RING: "Ring side",
    Place.FAR: "Far side",
}
_CHOICES: Final = (
    ("depth_shim", "Depth shim", DepthShim),
    ("preload_by", "Pinion preload", PreloadBy),
    ("carrier_by", "Carrier", CarrierBy),
)
_WORDS: Final = {
    "head": "under the head",
    "cup": "behind the inner cup",
    "cartridge": "under the cartridge",
    "sleeve": "crushed sleeve",
    "spacer": "spacer and shims",
    "step": "shims to a step",
    "outboard": "shims outboard",
    "under_cone": "shims under the cones",
    "covers": "shims under covers",
    "adjusters": "adjusters",
}


def of_job(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """What moves on a job's axle, by its own ratios."""
    state = axle.state
    drawn = _drawn(
        state.layout,
        ratios_now(state),
        axle.display,
        query,
        mapped=print_map(state),
        hole=per_hole(state),
    )
    return {"explorer": drawn}


def of_layout(query: Mapping[str, str], display: Display) -> dict[str, Any]:
    """What moves on an axle of any layout.

    :raises AxleError: for a layout that no axle has.
    """
    layout = _layout(query)
    ratios = prior_ratios(_GEARS, Stance.UNSURE)
    drawn = _drawn(
        layout,
        ratios,
        display,
        query,
        mapped=map_of(_GEARS, target_of(targets({}, {}), "usual")),
        hole=_HOLE,
    )
    kinds: list[dict[str, Any]] = [
        {
            "name": name,
            "title": title,
            "now": getattr(layout, name).value,
            "values": [(value.value, _WORDS[value.value]) for value in kind],
        }
        for name, title, kind in _CHOICES
    ]
    return {"explorer": drawn, "kinds": kinds}


def _layout(query: Mapping[str, str]) -> Layout:
    values: dict[str, Any] = {}
    for name, title, kind in _CHOICES:
        given = query.get(name, next(iter(kind)).value)
        if given not in {value.value for value in kind}:
            wanted = ", ".join(_WORDS[value.value] for value in kind)
            raise AxleError(title, given=f"“{given[:20]}”", wanted=wanted)
        values[name] = kind(given)
    housing = Housing.SIDE_COVER if values["carrier_by"] is CarrierBy.COVERS else Housing.INTEGRAL
    # A step is a shoulder of the shaft: there is no other.
    seat = SpacerSeat.SHOULDER if values["preload_by"] is PreloadBy.STEP else SpacerSeat.BETWEEN_CONES
    return Layout(**values, housing=housing, spacer_seat=seat)


def _steps(query: Mapping[str, str], place: Place) -> int:
    """So many steps thicker; what is no whole number within the reach counts as none."""
    given = query.get(f"move-{place.value}", "0")
    if not given.lstrip("-").isdecimal() or len(given) > len("-10"):
        return 0
    return max(min(int(given), _MOST_STEPS), -_MOST_STEPS)


def _drawn(
    layout: Layout,
    ratios: Ratios,
    display: Display,
    query: Mapping[str, str],
    *,
    mapped: PrintMap | None,
    hole: float,
) -> dict[str, Any]:
    step = float(THOU.factor) if display.length is THOU else 0.02
    places = [*layout.shim_places, *((Place.RING, Place.FAR) if layout.has_adjusters else ())]
    steps = {place: _steps(query, place) for place in places}
    changes = {place: _change(layout, place, count, step) for place, count in steps.items()}
    effects = what_moves(layout, ratios, changes, display, per_hole=hole)
    handles = {
        place: Handle(place, _change_words(layout, place, changes[place], display), f"move-{place.value}")
        for place in places
    }
    moved = Moved(ring=-effects.away * _SHOWN, pinion=effects.deeper * _SHOWN)
    return {
        "drawing": moving(layout, moved, handles),
        "sliders": [
            {
                "name": f"move-{place.value}",
                "title": _TITLES[place],
                "value": steps[place],
                "words": handles[place].words,
                "most": _MOST_STEPS,
            }
            for place in places
        ],
        "answers": _answers(effects, display),
        "lines": effects.lines or ("Drag a shim, or move its slider: thicker is to the right.",),
        "flanks": _flanks(mapped, effects),
        "computed": mapped is not None,
    }


def _change(layout: Layout, place: Place, count: int, step: float) -> float:
    if layout.has_adjusters and place in (Place.RING, Place.FAR):
        return count / 2
    return count * step


def _change_words(layout: Layout, place: Place, change: float, display: Display) -> str:
    if layout.has_adjusters and place in (Place.RING, Place.FAR):
        return f"{Decimal(str(change)).normalize():+f} holes".replace("-", "−") if change else "0 holes"
    return f"{show(change, display.length, sign=bool(change))} {display.length.symbol}"


def _answers(effects: Effects, display: Display) -> list[dict[str, str]]:
    def row(title: str, value: float, more: str, less: str) -> dict[str, str]:
        shown = display.show(abs(value))
        still = not shown.strip("0.")
        return {
            "title": title,
            "value": "stays" if still else f"{shown} {display.length.symbol}",
            "way": "" if still else more if value > 0 else less,
            "key": "still" if still else "moved",
        }

    found = [
        row("Pinion", effects.deeper, "deeper", "out"),
        row("Ring gear", effects.away, "away from the pinion", "to the pinion"),
        row("Backlash", effects.backlash, "more", "less"),
        row("Carrier preload", effects.carrier, "tighter", "looser"),
    ]
    if effects.pinion is not None:
        found.append(row("Pinion preload", effects.pinion, "tighter", "looser"))
    elif effects.spoils_sleeve:
        found.append({"title": "Pinion preload", "value": "new sleeve", "way": "", "key": "moved"})
    return found


def _flanks(mapped: PrintMap | None, effects: Effects) -> list[str]:
    """The pattern as it would be computed there, where the set can be computed."""
    if mapped is None:
        return []
    looked = mapped.at(effects.deeper, effects.away)
    return [
        str(flanks.flank(name, None, flanks.Shown(computed=looked.outlines[name])))
        for name in ("drive", "coast")
    ]
