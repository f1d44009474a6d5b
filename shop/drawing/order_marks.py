"""Orders that an axle can make, as they are drawn over a spectrum."""

from __future__ import annotations

from typing import Final

from axle.noise.orders import known_orders
from axle.noise.recording import Given
from shop.drawing.order_spectrum import OrderMark

_SHORT: Final = {
    "mesh": "mesh",
    "mesh2": "2 × mesh",
    "mesh3": "3 × mesh",
    "shaft": "shaft",
    "joint": "2 × shaft",
    "tread": "tread",
}
_USUALLY: Final = {
    "carrier and wheel bearings": ("carrier", "wheel"),
    "pinion bearings": ("pinion_head", "pinion_tail"),
}


def order_marks(given: Given) -> dict[str, list[OrderMark]]:
    """Orders to draw: tones above the sound, blows above the envelope."""
    known = known_orders(given.machine)
    exact = [one for one in known if one.name in _SHORT and not one.usual]
    tones = [OrderMark(_SHORT[one.name], one.low, one.high) for one in exact]
    blows = [OrderMark("pinion", given.machine.ratio, given.machine.ratio)]
    typed = [one for one in known if one.struck and one.part in given.bearings]
    blows += [OrderMark(one.name.replace("_", " "), one.low, one.high) for one in typed]
    for words, parts in _USUALLY.items():
        usual = [one for one in known if one.part in parts and one.usual]
        if usual:
            low, high = min(one.low for one in usual), max(one.high for one in usual)
            blows.append(OrderMark(words, low, high))
    return {"tones": tones, "blows": blows}
