"""How the demo's print was photographed."""

from typing import Any, Final

PHOTOGRAPHED: Final[dict[str, Any]] = {
    "size": (1600, 900),
    "tilt": (14, 9),
    "roll": 4,
    "glare": 0.03,
    "fill": 0.8,
}
