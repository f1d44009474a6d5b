"""The live values on the section drawing, and the newest print beside it."""

from __future__ import annotations

from django.urls import reverse

from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Dimension, brief, show
from axle.procedure.names import StationName
from axle.stations.carrier_preload import wanted_interference
from axle.stations.result import Outcome
from shop.drawing.section import Callout, FlankPair
from shop.jobs.job_axle import JobAxle


def callouts(axle: JobAxle) -> tuple[Callout, ...]:
    """The live values on the section drawing."""
    number, layout, state = axle.job.number, axle.spec.layout, axle.state
    bench = reverse("bench", args=[number])
    pieces = axle.pieces_of(axle.assembly)
    found = []
    titles = {
        Place.DEPTH: "Depth shim",
        Place.PRELOAD: "Preload pack",
        Place.RING: f"{layout.side_of(Place.RING).value.title()}, ring side",
        Place.FAR: f"{layout.side_of(Place.FAR).value.title()}, far side",
    }
    station_of_place = {Place.DEPTH: "depth", Place.PRELOAD: "pinion_preload"}
    for place in (Place.RING, Place.FAR, Place.DEPTH, Place.PRELOAD):
        station = station_of_place.get(place, "carrier_preload")
        link = f"{bench}?station={station}"
        standing = axle.standings[station]
        # Depth is the pack's own; what other packs bring is read, and shown on its own callout.
        own = place is Place.DEPTH or standing.is_done or standing.stale
        status = standing.status.value if own else "begun"
        if place is Place.PRELOAD and not layout.has_preload_pack:
            found.append(Callout(place.value, "Sleeve", value="crush", unit="", status=status, link=link))
        elif place in layout.shim_places:
            fitted = pieces.get(place.value, [])
            value = axle.display.show(state.setting(place)) if fitted else "—"
            words = f"{len(fitted)} piece{'s' if len(fitted) != 1 else ''}"
            if status == "out":
                words = f"{len(fitted)} pc"  # beside the ▲ there is no room for more
            known = status if fitted else "not begun"
            found.append(
                Callout(place.value, titles[place], value=value, unit=words, status=known, link=link)
            )
        else:
            held = f"{state.setting(place):.1f}" if place in state.settings else "—"
            found.append(
                Callout(place.value, titles[place], value=held, unit="holes in", status=status, link=link)
            )
    found += [
        _station_callout(axle, "backlash", "Backlash, smallest", bench),
        _station_callout(axle, "pinion_preload", "Pinion preload", bench),
        _station_callout(axle, "carrier_preload", "Carrier preload", bench),
    ]
    mounted = axle.standings[StationName.RING_GEAR]
    runout = mounted.result.value if mounted.result else None
    limit = axle.spec.sheet.single("ring_runout")
    found.append(
        Callout(
            "runout",
            "Ring runout",
            value=axle.display.show(runout) if runout is not None else "—",
            unit=f"≤ {brief(limit, axle.display.length)}" if limit is not None else "",
            status=mounted.status.value,
            link=f"{bench}?station=ring_gear",
        )
    )
    return tuple(found)


def flank_pair(axle: JobAxle) -> FlankPair:
    """The newest print, small, with what it says."""
    standing = axle.standings[StationName.PATTERN]
    newest = max(axle.state.prints, key=lambda p: p.order, default=None)
    words = standing.result.words if standing.result else "not marked yet"
    if newest is not None and newest.assembly != axle.state.assembly:
        words = f"as of assembly {newest.assembly}"
    return FlankPair(
        {name: flank.first for name, flank in newest.flanks.items()} if newest else {},
        words,
        status=standing.status.value,
        link=f"{reverse('bench', args=[axle.job.number])}?station=pattern",
    )


def _station_callout(axle: JobAxle, name: str, title: str, bench: str) -> Callout:
    standing = axle.standings[name]
    result, value, words = standing.result, "—", ""
    limits = limits_of(axle, name)
    dimension = Dimension.LENGTH if name == "backlash" else Dimension.TORQUE
    if result is not None and result.value is not None:
        value, dimension = show(result.value, axle.display.unit_for(result.dimension)), result.dimension
        if result.outcome is Outcome.END_PLAY:
            title, limits = f"{title.split(maxsplit=1)[0]} end play", None
        elif name != "backlash" and dimension is Dimension.LENGTH:
            # Set by interference: the sheet's torque is no limit of it.
            wanted = wanted_interference(axle.state) if name == "carrier_preload" else None
            limits = wanted.limits if wanted is not None else None
    if limits is not None:
        words = limits.words(axle.display.unit_for(dimension))
    return Callout(
        name, title, value=value, unit=words, status=standing.status.value, link=f"{bench}?station={name}"
    )


def limits_of(axle: JobAxle, name: str) -> Range | None:
    sheet = axle.spec.sheet
    key = {"pinion_preload": axle.state.preload_key}.get(name, name)
    return sheet.range(key)
