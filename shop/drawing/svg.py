"""A small builder of SVG marks in the house's styles."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape

INK, SOFT, LINE = "#1b2a38", "#56636f", "#c9c6bb"
SHEET, STEEL, GEAR = "#fbfaf6", "#dfe3e4", "#cfd6d9"
WIPE, WIPE_PALE, OK, OUT, STALE = "#f0b91d", "#f6d777", "#0b7a5c", "#c4361b", "#6f6a5e"
STATUS = {
    "in range": OK,
    "signed": OK,
    "recorded": INK,
    "out": OUT,
    "stale": STALE,
    "begun": SOFT,
    "not begun": SOFT,
    "not part of this job": SOFT,
}

# Plain attributes per class; the page's theme overrides them by the class.
STYLES: dict[str, dict[str, str]] = {
    "steel": {"fill": STEEL, "stroke": INK, "stroke-width": "1.3"},
    "gear": {"fill": GEAR, "stroke": INK, "stroke-width": "1.3"},
    "void": {"fill": SHEET, "stroke": INK, "stroke-width": "1.2"},
    "roller": {"fill": "#ffffff", "stroke": INK, "stroke-width": "1.1"},
    "shim": {"fill": WIPE, "stroke": INK, "stroke-width": "1.2"},
    "shim-pale": {"fill": WIPE_PALE, "stroke": INK, "stroke-width": "1.2"},
    "cast": {"fill": "url(#cast)", "stroke": INK, "stroke-width": "1.6"},
    "cast-plain": {"fill": STEEL, "stroke": INK, "stroke-width": "1.6"},
    "cast-carrier": {"fill": "url(#cast-carrier)", "stroke": INK, "stroke-width": "1.4"},
    "dark": {"fill": SOFT, "stroke": INK, "stroke-width": "1.2"},
    "thin": {"fill": "none", "stroke": INK, "stroke-width": "0.8"},
    "ghost-housing": {"fill": "none", "stroke": SOFT, "stroke-width": "1.2", "stroke-dasharray": "6 4"},
    "axis": {"fill": "none", "stroke": SOFT, "stroke-width": "1", "stroke-dasharray": "16 4 3 4"},
    "hatch": {"fill": "none", "stroke": "#9aa5ab", "stroke-width": "1.1"},
    "tag": {"fill": SHEET, "stroke-width": "1.6"},
    "title": {"fill": SOFT, "font-family": "Barlow", "font-size": "14", "font-weight": "500"},
    "value": {"fill": INK, "font-family": "Barlow Condensed", "font-size": "26", "font-weight": "600"},
    "unit": {"fill": SOFT, "font-family": "Barlow", "font-size": "16", "font-weight": "500"},
    "tag-unit": {"fill": SOFT, "font-family": "Barlow Condensed", "font-size": "17", "font-weight": "500"},
    "place": {"fill": INK, "font-family": "Barlow Condensed", "font-weight": "600"},
    "tick": {"fill": "none", "stroke": INK, "stroke-width": "1"},
    "tick-strong": {"fill": "none", "stroke": INK, "stroke-width": "2"},
    "face": {"fill": SHEET, "stroke": INK, "stroke-width": "3"},
    "needle": {"fill": "none", "stroke": OUT, "stroke-width": "3"},
    "needle-ok": {"fill": "none", "stroke": OK, "stroke-width": "3"},
    "range": {"fill": "none", "stroke": OK, "stroke-width": "11"},
    "band": {"fill": OK, "fill-opacity": "0.12", "stroke": OK, "stroke-dasharray": "5 3"},
    "curve-band": {"fill": WIPE_PALE, "fill-opacity": "0.6", "stroke": "none"},
    "ink": {"fill": INK, "stroke": INK, "stroke-width": "1"},
    "doubt": {"fill": SHEET, "stroke": OUT, "stroke-width": "2.4"},
    "in-hand": {"fill": WIPE, "stroke": INK, "stroke-width": "1.4"},
    "wanting": {"fill": SHEET, "stroke": SOFT, "stroke-width": "1.4", "stroke-dasharray": "3 2"},
    "part-name": {"fill": INK, "font-family": "Barlow", "font-size": "17", "font-weight": "600"},
    "bin": {"fill": SHEET, "stroke": LINE, "stroke-width": "1.6"},
    "bin-size": {"fill": INK, "font-family": "Barlow Condensed", "font-size": "25", "font-weight": "600"},
    "bin-count": {"fill": INK, "font-family": "Barlow", "font-size": "17", "font-weight": "600"},
    "bin-note": {"fill": SOFT, "font-family": "Barlow", "font-size": "14", "font-weight": "500"},
    "gap": {"fill": OUT, "fill-opacity": "0.22", "stroke": "none"},
    "chosen": {"fill": WIPE, "fill-opacity": "0.28", "stroke": INK, "stroke-width": "2"},
    "words": {"fill": INK, "font-family": "Barlow", "font-size": "16", "font-weight": "500"},
    "yes": {"fill": OK, "font-family": "Barlow", "font-size": "17", "font-weight": "600"},
    "no": {"fill": OUT, "font-family": "Barlow", "font-size": "17", "font-weight": "600"},
    "crack": {"fill": "none", "stroke": OUT, "stroke-width": "2.6"},
    "heat": {"fill": "#5f7cc0", "fill-opacity": "0.6", "stroke": "none"},
    "rust": {"fill": "#a5561c", "fill-opacity": "0.8", "stroke": "none"},
    "wear": {"fill": WIPE, "fill-opacity": "0.75", "stroke": "none"},
    "lane": {"fill": SHEET, "stroke": LINE, "stroke-width": "1"},
    "closed-day": {"fill": LINE, "fill-opacity": "0.35", "stroke": "none"},
    "bar": {"fill": STEEL, "stroke": INK, "stroke-width": "1.3"},
    "bar-begun": {"fill": WIPE, "stroke": INK, "stroke-width": "1.6"},
    "bar-late": {"fill": STEEL, "stroke": OUT, "stroke-width": "2.4"},
    "bar-part": {"fill": "transparent", "stroke": SOFT, "stroke-width": "0.8"},
    "bar-wait": {
        "fill": "url(#wait-hatch)",
        "stroke": SOFT,
        "stroke-width": "1",
        "stroke-dasharray": "4 3",
    },
    "bar-chosen": {"fill": "none", "stroke": INK, "stroke-width": "3.4"},
    "now-line": {"fill": "none", "stroke": OUT, "stroke-width": "2"},
    "flank": {"fill": "#efc84e", "stroke": INK, "stroke-width": "2"},
    "flank-plain": {"fill": "#efc84e", "stroke": INK, "stroke-width": "4"},
    "flank-stale": {"fill": "#e7dfc3", "stroke": STALE, "stroke-width": "1.6", "stroke-dasharray": "5 3"},
    "flank-grid": {"fill": "none", "stroke": "#a98a1f", "stroke-width": "1", "stroke-dasharray": "2 5"},
    "wiped": {"fill": "#93a0a6", "fill-opacity": "0.92", "stroke": INK, "stroke-width": "1.6"},
    "wiped-soft": {"fill": "#93a0a6", "fill-opacity": "0.75", "stroke": "none"},
    "computed": {"fill": "none", "stroke": INK, "stroke-width": "2.4"},
    "handle": {"fill": SHEET, "stroke": INK, "stroke-width": "1.6"},
    "ghost": {"fill": "none", "stroke": INK, "stroke-width": "1.4", "stroke-dasharray": "2 4"},
    "target": {"fill": "none", "stroke": OK, "stroke-width": "2.2", "stroke-dasharray": "9 5"},
    "expected": {"fill": "none", "stroke": SOFT, "stroke-width": "2", "stroke-dasharray": "5 4"},
}


class Marked(str):
    """Finished marks, which templates put in as they are: every text inside is escaped here."""

    __slots__ = ()

    def __html__(self) -> str:
        return self


class Svg:
    """An SVG being drawn. ``str()`` gives the finished picture."""

    def __init__(self, width: int, height: int, label: str, name: str, role: str = "img") -> None:
        self.width, self.height = width, height
        self._open = (
            f'<svg class="{name}" viewBox="0 0 {width} {height}" role="{role}" '
            f'aria-label="{escape(label)}" xmlns="http://www.w3.org/2000/svg">'
        )
        self._marks: list[str] = []

    def __str__(self) -> str:
        return Marked(self._open + "".join(self._marks) + "</svg>")

    def hold_links(self) -> None:
        """Let it hold links, which a picture may not."""
        self._open = self._open.replace('role="img"', 'role="group"')

    def raw(self, text: str) -> None:
        """Add marks that were built here already."""
        self._marks.append(text)

    def path(self, style: str, d: str, **more: str) -> None:
        """Add a path."""
        self._marks.append(f"<path {attributes(style, d=d, **more)}/>")

    def rect(self, style: str, x: float, y: float, width: float, height: float, **more: str) -> None:
        """Add a rectangle."""
        place = {"x": number(x), "y": number(y), "width": number(width), "height": number(height)}
        self._marks.append(f"<rect {attributes(style, **place, **more)}/>")

    def polygon(self, style: str, points: Iterable[tuple[float, float]], **more: str) -> None:
        """Add a closed polygon."""
        joined = " ".join(f"{number(x)},{number(y)}" for x, y in points)
        self._marks.append(f"<polygon {attributes(style, points=joined, **more)}/>")

    def circle(self, style: str, x: float, y: float, radius: float, **more: str) -> None:
        """Add a circle."""
        place = {"cx": number(x), "cy": number(y), "r": number(radius)}
        self._marks.append(f"<circle {attributes(style, **place, **more)}/>")

    def text(self, style: str, x: float, y: float, words: str, **more: str) -> None:
        """Add a text."""
        marks = attributes(style, x=number(x), y=number(y), **more)
        self._marks.append(f"<text {marks}>{escape(words)}</text>")


def attributes(style: str, **more: str) -> str:
    """Write a mark's attributes: its class, the class's plain attributes, and its own."""
    all_of = {"class": f"s-{style}"} | STYLES.get(style, {})
    all_of |= {name.replace("_", "-"): value for name, value in more.items()}
    return " ".join(f'{name}="{escape(str(value))}"' for name, value in all_of.items())


def path_of(points: Iterable[Iterable[float]], *, closed: bool = True) -> str:
    """Path data through places of a picture.

    :param points: (x, y) of each.
    :param closed: back to the first.
    """
    steps = " L".join(f"{number(float(x))} {number(float(y))}" for x, y in points)
    return f"M{steps}{'Z' if closed else ''}"


def number(value: float) -> str:
    """Write a coordinate shortly."""
    return f"{value:.1f}".removesuffix(".0")
