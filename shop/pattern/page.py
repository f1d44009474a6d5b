"""What the pattern station shows: both flanks, the patches, ghosts of earlier assemblies."""

from __future__ import annotations

import uuid
from typing import Any

from axle.advice.results import read_print
from axle.contact.patch import Patch
from axle.contact.reading import target
from shop.drawing import flanks
from shop.jobs.bridge import Axle


def context(axle: Axle) -> dict[str, Any]:
    """Both flanks with what is marked on them, and what the print says."""
    stale = axle.standings["pattern"].status.value == "stale"
    prints = sorted(axle.state.prints, key=lambda p: p.assembly)
    current = next((p for p in prints if p.assembly == axle.state.assembly), None)
    earlier = [p for p in prints if p is not current]
    words = {"convex": "convex flank", "concave": "concave flank"}
    drive = axle.spec.layout.drive_flank.value
    coast = "concave" if drive == "convex" else "convex"
    old = axle.state.found if axle.state.used_gears else {}
    views = []
    for name, side in (("drive", drive), ("coast", coast)):
        patch = current.patches.get(name) if current else None
        ghosts = [p.patches[name] for p in earlier if name in p.patches]
        views.append(
            {
                "flank": name,
                "words": words[side],
                "patch": patch,
                "reach": _percent(patch),
                "drawing": flanks.flank(
                    name, patch, ghosts, target=old.get(name, target(name)), stale=stale
                ),
            }
        )
    return {
        "flanks": views,
        "entries": {name: str(uuid.uuid4()) for name in ("drive", "coast")},
        "print": read_print(axle.state),
        "old_target": bool(old),
        "earlier": [p.assembly for p in earlier],
        "wanted": next((v["flank"] for v in views if v["patch"] is None), ""),
    }


def _percent(patch: Patch | None) -> dict[str, str]:
    """How far a patch reaches, as the four numbers a builder types."""
    if patch is None:
        return {}
    return dict(zip(("toe", "heel", "root", "top"), patch.percent, strict=True))
