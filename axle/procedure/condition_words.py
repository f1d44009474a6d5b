"""Words of the conditions that a reading is taken under."""

from __future__ import annotations

from typing import Final

OIL_WORDS: Final = {"oiled": "lightly oiled", "dry": "dry", "soaked": "soaked in oil"}
ATTITUDE_WORDS: Final = {"nose_up": "nose up", "level": "level", "nose_down": "nose down"}
FIGURE_WORDS: Final = {"running": "running", "breakaway": "breakaway peak"}
NUT_WORDS: Final = {"final": "final nut", "used": "old nut", "set_up": "set-up nut"}
SLEEVE_WORDS: Final = {"in": "sleeve in", "out": "without the sleeve"}
BOUND_WORDS: Final = {"": "as read", "over": "more than that", "under": "less than that"}
MESH_WORDS: Final = {
    "": "carrier in mesh",
    "parted": "mesh parted for it",
    "before": "read before the carrier went in",
}
INDICATOR_WORDS: Final = {"plunger": "plunger", "lever": "lever"}
STANCE_WORDS: Final = {
    "along": "in line with the motion",
    "square": "square to the flank",
    "unsure": "not sure how it stands",
}
CAPS_WORDS: Final = {"torqued": "caps torqued", "nipped": "caps nipped", "loose": "caps loose"}
PUSHED_WORDS: Final = {
    "": "no play",
    "away": "pushed away from the pinion",
    "towards": "pushed towards the pinion",
    "centred": "held in the middle",
}
SHOWS_WORDS: Final = {"travel": "its travel", "figure": "the figure pointed at"}
