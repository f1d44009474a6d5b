"""What one record says against another: counts, pieces and packs that do not fit together."""

from __future__ import annotations

from decimal import Decimal
from typing import Final

from axle.layout import Place
from axle.procedure.names import KindName, StationName
from axle.procedure.register import Event
from axle.stations.depth_measurements import wanted_depth
from axle.stations.method import is_present
from shop.jobs import noted_lines
from shop.jobs.job_axle import JobAxle, item_of
from shop.jobs.reconcile import reconcile
from shop.stock import tray

# An old shim further off what is wanted than this is another axle's, or was read wrong [mm]; common
# practice: builders look again from about ten thou.
_FAR_OFF: Final = 0.254
_PACKS: Final = {
    KindName.PINION_TORQUE: (Place.PRELOAD,),
    KindName.TOTAL_TORQUE: (Place.RING, Place.FAR),
    KindName.CARRIER_TORQUE: (Place.RING, Place.FAR),
}


def cross_checks(axle: JobAxle, station: str) -> tuple[str, ...]:
    """Lines about a station's records that contradict others; at the build sheet about all of them."""
    every = station == StationName.SHEET
    lines: list[str] = []
    if every or station in ("final", "torque", "teardown"):
        lines += _tools(axle) + _shims(axle)
    if every or station in ("pinion_preload", "carrier_preload"):
        lines += _torques(axle, None if every else station)
    if every or station == StationName.DEPTH:
        lines += _old_shim(axle)
    if every or station == StationName.FINISH:
        lines += [f"Road: {words}" for words in noted_lines.road_of(axle.job).stops]
    return tuple(lines)


def _tools(axle: JobAxle) -> list[str]:
    """Small tools counted out at teardown against what was counted back."""
    counts = {row.event: row.count for row in axle.register if row.item == "tools"}
    out, back = counts.get(Event.OFF.value), counts.get(Event.BACK.value)
    if out is None or back is None or out == back:
        return []
    return [f"Small tools: {out} went out, {back} came back. Look for them before the cover goes on."]


def _shims(axle: JobAxle) -> list[str]:
    """Pieces that came out of the axle, or of the drawer, and are nowhere."""
    lines = [
        f"{line.difference} pieces of the drawer for the {line.place} place are not in the axle: look."
        for line in reconcile(axle)
        if line.difference > 0
    ]
    items = {item_of(place, axle.spec) for place in axle.spec.layout.shim_places}
    held: dict[str, int] = {}
    for own in tray.owned(axle.job.shop, axle.job.number):
        item = own.lot.tray_item
        held[item] = held.get(item, 0) + own.lot.quantity + own.in_axle + own.gone
    came_out = {
        row.item: len(row.pieces)
        for row in axle.register
        if row.item in items and row.event == Event.OFF.value and row.pieces
    }
    for item, count in came_out.items():
        # What a file brought in lies on no tray here.
        if held and held.get(item, 0) < count:
            where = item.removeprefix("shim_")
            lines.append(f"{count - held.get(item, 0)} of the {where} shims that came out are nowhere.")
    return lines


def _torques(axle: JobAxle, station: str | None) -> list[str]:
    """Torques that were read with nothing in the place that makes them."""
    layout = axle.spec.layout
    lines = []
    for kind, places in _PACKS.items():
        taken = axle.state.latest(kind)
        wanted = [p for p in places if p in layout.shim_places]
        if taken is None or not is_present(taken, axle.state) or not wanted:
            continue
        here = "pinion_preload" if kind == KindName.PINION_TORQUE else "carrier_preload"
        empty = [p for p in wanted if not taken.settings.get(p)]
        if empty and station in (None, here):
            what = kind.value.replace("_", " ")
            lines.append(
                f"The {what} was read with no {empty[0].value} pack in place: fit it, and read again."
            )
    return lines


def _old_shim(axle: JobAxle) -> list[str]:
    """The shim that came out against the one that is wanted."""
    old, wanted = axle.state.old_packs.get(Place.DEPTH), wanted_depth(axle.state)
    if old is None or wanted is None or axle.state.methods.get("depth") == "trial":
        return []
    apart = abs(float(old) - float(Decimal(str(wanted.thickness))))
    if apart <= _FAR_OFF:
        return []
    unit = axle.display.length
    show = axle.display.show
    now, before = show(wanted.thickness), show(old)
    return [
        f"The old depth shim was {before}, wanted is {now} {unit.symbol}: {show(apart)} apart. "
        "Look again at what the mark means, at the gauge and at the shim."
    ]
