"""The form of a spec sheet: layout, gears, and a row of limits per value."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django import forms

from axle.contact.cut import families
from axle.errors import AxleError
from axle.measure.parse import unit_named
from axle.measure.units import IMPERIAL, METRIC, UNITS, brief
from axle.spec.reader import (
    GEAR_FIGURES,
    GEAR_WORDS,
    HANDS,
    LAYOUT_CHOICES,
    choice_words,
    read_spec,
    starter_specs,
)
from axle.spec.sheet import SOURCE_WORDS, Source, SpecKey, spec_keys
from shop.people.models import Shop
from shop.specs.models import SpecSheet

_PARTS = ("low", "high", "tolerance", "unit", "source", "note")
_RANGES = ("low", "tolerance")
# Between a value's key and the fields of what another manual gives for it.
_SECOND = "-second"
_IN_FORCE = [("first", "the first range"), ("second", "the other manual's")]
_FIRST = ("name", "pinion_teeth", "ring_teeth", "ring_diameter")
# Torques that bolts of an axle are set to [N·m]: a plug to a large pinion nut; common practice, no source.
_LEAST_BOLT, _MOST_BOLT = 2.0, 700.0
_FIGURE_LABELS = {
    "face_width": "Face width, mm",
    "offset": "Pinion offset, mm",
    "ring_spiral": "Ring spiral angle, °",
    "drive_angle": "Drive pressure angle, °",
    "coast_angle": "Coast pressure angle, °",
    "cutter_radius": "Cutter radius, mm",
    "working_depth": "Working depth of the teeth, mm",
    "addendum_share": "Ring addendum, share of that depth",
}


class SheetForm(forms.Form):
    """A sheet as plain data in, as plain data out; the core says whether an axle can be so."""

    name = forms.CharField(label="Name", max_length=80)
    note = forms.CharField(
        label="Note", max_length=2000, required=False, widget=forms.Textarea(attrs={"rows": 2})
    )

    def __init__(
        self,
        shop: Shop,
        data: Any = None,
        *,
        plain: dict[str, Any],
        existing: SpecSheet | None = None,
        hints: dict[str, Any] | None = None,
    ) -> None:
        super().__init__(data, initial=_initial(plain))
        self._shop, self._existing = shop, existing
        self._before = plain["values"]
        self._hints = (hints or {}).get("values", {})
        layout = {name: (data or {}).get(name) or plain["layout"].get(name) for name in LAYOUT_CHOICES}
        self._keys = {
            key: spec
            for key, spec in spec_keys().items()
            if spec.belongs(layout) or _has_figure(plain["values"].get(key))
        }
        self.plain: dict[str, Any] = {}
        for name, words in choice_words().items():
            choices = [(value, text) for value, text in words.items() if value != "title"]
            self.fields[name] = forms.ChoiceField(label=words["title"], choices=choices)
        for name, label in (("pinion_teeth", "Pinion teeth"), ("ring_teeth", "Ring gear teeth")):
            self.fields[name] = forms.IntegerField(label=label, min_value=5, max_value=80)
        self.fields["ring_diameter"] = forms.DecimalField(
            label="Ring gear diameter, mm", max_digits=7, decimal_places=2, min_value=Decimal(0)
        )
        cuts = [("", "not known: the usual one"), *((f.key, f.name) for f in families().values())]
        self.fields["family"] = forms.ChoiceField(
            label="Family of cut",
            choices=cuts,
            required=False,
            help_text="What is left empty below is taken from it.",
        )
        self.fields["hand"] = forms.ChoiceField(
            label="Pinion's hand",
            choices=[*HANDS.items()],
            required=False,
            help_text="A pinion above centre is the mirror image: the pattern is the same.",
        )
        for name in GEAR_FIGURES:
            places = 4 if name == "addendum_share" else 2
            self.fields[name] = forms.DecimalField(
                label=_FIGURE_LABELS[name],
                max_digits=7,
                decimal_places=places,
                min_value=Decimal(0),
                required=False,
                widget=forms.NumberInput(attrs={"placeholder": "not known"}),
            )
        sources = [(source.value, SOURCE_WORDS[source]) for source in Source]
        for key, spec in self._keys.items():
            units = [(u.symbol, u.symbol) for u in UNITS if u.dimension is spec.dimension]
            self._add_figures(key, spec.title, units, sources)
            if spec.has_low:
                self._add_figures(f"{key}{_SECOND}", f"{spec.title}, other manual", units, sources)
                self.fields[f"{key}-in_force"] = forms.ChoiceField(
                    label=f"{spec.title}, in force", choices=_IN_FORCE, required=False
                )

    def _add_figures(
        self, name: str, title: str, units: list[tuple[str, str]], sources: list[tuple[str, str]]
    ) -> None:
        """Fields of one range: its figures, their unit, and where they come from."""
        for part, words in (("low", "low"), ("high", "high"), ("tolerance", "give or take")):
            self.fields[f"{name}-{part}"] = forms.CharField(
                label=f"{title}, {words}", required=False, max_length=20
            )
        hint = self._hints.get(name, {})
        for part in ("low", "high"):
            if hint.get(part):
                # Somebody's figure of another axle: it shows what is meant, and is not taken.
                self.fields[f"{name}-{part}"].widget.attrs["placeholder"] = _as_hint(
                    hint[part], hint["unit"], self.initial.get(f"{name}-unit") or hint["unit"]
                )
        self.fields[f"{name}-unit"] = forms.ChoiceField(
            label=f"{title}, unit", choices=units, required=False
        )
        self.fields[f"{name}-source"] = forms.ChoiceField(
            label=f"{title}, source", choices=sources, required=False
        )
        self.fields[f"{name}-note"] = forms.CharField(
            label=f"{title}, book, page or person", required=False, max_length=160
        )

    def rows(self) -> list[dict[str, Any]]:
        """Rows of limits as the page lays them out."""
        return [self._row(spec) for spec in self._keys.values()]

    def sections(self) -> list[dict[str, Any]]:
        """The rows by heading, each with how many of them have a figure."""
        found: dict[str, list[dict[str, Any]]] = {}
        for row in self.rows():
            found.setdefault(row["section"], []).append(row)
        return [
            {"title": title, "rows": rows, "filled": sum(row["filled"] for row in rows), "count": len(rows)}
            for title, rows in found.items()
        ]

    def first_fields(self) -> list[forms.BoundField]:
        """What every sheet needs: its name, teeth, diameter."""
        return [self[name] for name in _FIRST]

    def layout_fields(self) -> list[forms.BoundField]:
        """Where the axle keeps its shims, and how the sheet is read."""
        return [self[name] for name in choice_words()]

    def gear_fields(self) -> list[forms.BoundField]:
        """What else may be known of the gears."""
        return [self[name] for name in ("family", "hand", *GEAR_FIGURES, "note")]

    def limit_errors(self) -> list[str]:
        """What is wrong among the limits, each naming its field."""
        return [
            f"{self.fields[name].label}: {error}"
            for name, errors in self.errors.items()
            if "-" in name
            for error in errors
        ]

    def general_fields(self) -> list[forms.BoundField]:
        """Every field that is not a limit."""
        return [self[name] for name in self.fields if "-" not in name]

    def clean_name(self) -> str:
        """Two sheets of one name would be mixed up."""
        name = str(self.cleaned_data["name"]).strip()
        same = SpecSheet.objects.of(self._shop).filter(name__iexact=name)
        if self._existing is not None:
            same = same.exclude(pk=self._existing.pk)
        if same.exists():
            raise forms.ValidationError(f"There is a sheet “{name}” already; choose another name.")
        return name

    def clean(self) -> dict[str, Any]:
        """Let the core read it; its refusal names the entry."""
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        self.plain = _plain(cleaned, self._keys)
        self._forget_sources()
        try:
            read_spec(self.plain)
        except AxleError as error:
            raise forms.ValidationError(str(error)) from None
        return cleaned

    def _forget_sources(self) -> None:
        """A figure typed over a made-up one is made up no more: where it comes from is not said yet."""
        for key, row in self.plain["values"].items():
            known = self._before.get(key)
            before = known if _has_figure(known) else self._hints.get(key)
            if before is None or row["source"] != Source.DEMO.value:
                continue
            if any(row.get(part) != before.get(part) for part in ("low", "high", "unit")):
                row["source"] = Source.NOT_SAID.value

    def odd_torques(self) -> list[str]:
        """Bolts' torques that no bolt of an axle is set to in that unit: asked about, and kept."""
        found = []
        for key, row in self.plain.get("values", {}).items():
            spec = spec_keys()[key]
            high = row["high"] or row["low"]
            if not spec.bolt or high is None:
                continue
            torque = float(Decimal(high) * unit_named(row["unit"]).factor)
            if not _LEAST_BOLT <= torque <= _MOST_BOLT:
                found.append(f"{spec.title}: {high} {row['unit']}. Is the unit right?")
        return found

    def _manual(self, name: str) -> str:
        """A range by where it comes from: the manual's name."""
        source, note = (str(self[f"{name}-{part}"].value() or "") for part in ("source", "note"))
        known = SOURCE_WORDS[Source(source)] if source in {s.value for s in Source} else "not said"
        return f"{known}, {note}" if note else known

    def _row(self, spec: SpecKey) -> dict[str, Any]:
        parts = [part for part in _PARTS if spec.has_low or part not in _RANGES]
        row: dict[str, Any] = {part: self[f"{spec.key}-{part}"] for part in parts}
        row |= {"title": spec.title, "section": spec.section}
        row["filled"] = any(self[f"{spec.key}-{part}"].value() for part in ("low", "high") if part in parts)
        if spec.has_low:
            second = f"{spec.key}{_SECOND}"
            row |= {f"second_{part}": self[f"{second}-{part}"] for part in _PARTS}
            row["in_force"] = self[f"{spec.key}-in_force"]
            self.fields[f"{spec.key}-in_force"].choices = [  # type: ignore[attr-defined]
                ("first", self._manual(spec.key)),
                ("second", self._manual(second)),
            ]
            row["has_second"] = any(self[f"{second}-{part}"].value() for part in ("low", "high"))
        return row


def _has_figure(row: Mapping[str, Any] | None) -> bool:
    return row is not None and any(row.get(part) for part in ("low", "high"))


def starter(key: str) -> dict[str, Any]:
    """A starter sheet's plain data; the first when the name is unknown."""
    starters = starter_specs()
    return starters.get(key) or next(iter(starters.values()))


def _as_hint(figure: str, unit: str, wanted: str) -> str:
    """A starter's figure in the unit in which the row begins."""
    return brief(Decimal(str(figure)) * unit_named(unit).factor, unit_named(wanted))


def begun_from(key: str, units: str) -> dict[str, Any]:
    """A new sheet of a starter's layout: nothing in it is filled but the layout and how it is read.

    :param key: of a starter sheet.
    :param units: "thou" or "mm", the units in which its rows begin.
    """
    found = starter(key)
    empty: dict[str, Any] = {"low": None, "high": None, "source": Source.MAKER.value, "note": ""}
    units_of = {key: {"unit": _usual_unit(spec, units)} | empty for key, spec in spec_keys().items()}
    return {**found, "name": "", "note": "", "gears": {}, "values": units_of}


def _usual_unit(spec: SpecKey, units: str) -> str:
    """The unit a row begins with: bolts have the shop's bolt unit."""
    display = METRIC if units == "mm" else IMPERIAL
    return display.unit_for(spec.dimension, bolt=spec.bolt).symbol


def _initial(plain: dict[str, Any]) -> dict[str, Any]:
    found = {
        "name": plain["name"],
        "note": plain.get("note", ""),
        "backlash_rule": plain["backlash_rule"],
        "stance": plain["stance"],
        "torque_figure": plain.get("torque_figure", "running"),
        **plain["layout"],
        **plain["gears"],
    }
    for key, row in plain["values"].items():
        found |= {f"{key}-{part}": row.get(part) or "" for part in _PARTS}
        second = row.get("second") or {}
        found |= {f"{key}{_SECOND}-{part}": second.get(part) or "" for part in _PARTS}
        found[f"{key}-in_force"] = row.get("in_force", "first")
    return found


def _figures(cleaned: dict[str, Any], name: str) -> dict[str, Any] | None:
    """One range as plain data, or nothing where no figure was typed."""
    low, high, tolerance = (cleaned[f"{name}-{part}"].strip() for part in ("low", "high", "tolerance"))
    if not (low or high or tolerance):
        return None
    if tolerance and bool(low) != bool(high):
        low = high = low or high  # one figure, give or take so much
    row = {"low": low or None, "high": high or None}
    row |= {part: cleaned[f"{name}-{part}"] for part in ("unit", "source", "note")}
    # A row that only came with another layout was not on the page: it is in the usual unit.
    row["unit"] = row["unit"] or _usual_unit(spec_keys()[name.removesuffix(_SECOND)], "thou")
    row["source"] = row["source"] or Source.NOT_SAID.value
    return row | ({"tolerance": tolerance} if tolerance else {})


def _plain(cleaned: dict[str, Any], keys: Mapping[str, SpecKey]) -> dict[str, Any]:
    values = {}
    for key, spec in keys.items():
        row = _figures(cleaned, key)
        second = _figures(cleaned, f"{key}{_SECOND}") if spec.has_low else None
        if second is not None and row is None:
            row, second = second, None  # the only figures there are stand first
        if row is None:
            continue
        values[key] = row
        if second is not None:
            row |= {"second": second, "in_force": cleaned[f"{key}-in_force"] or "first"}
    readings = ("backlash_rule", "stance", "torque_figure")
    layout = {name: cleaned[name] for name in choice_words() if name not in readings}
    figures = ("ring_diameter", *GEAR_FIGURES)
    gears: dict[str, Any] = {
        name: float(cleaned[name]) for name in figures if cleaned[name] is not None
    } | {name: cleaned[name] for name in GEAR_WORDS if cleaned[name]}
    teeth = {name: cleaned[name] for name in ("pinion_teeth", "ring_teeth")}
    return {
        "name": cleaned["name"],
        "note": cleaned["note"],
        "layout": layout,
        "gears": teeth | gears,
        **{name: cleaned[name] for name in readings},
        "values": values,
    }
