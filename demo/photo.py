"""How the demo's print was photographed."""

from typing import Any, Final

PHOTOGRAPHED: Final[dict[str, Any]] = {"colour": "yellow", "seed": 7, "size": (1600, 1200)}
