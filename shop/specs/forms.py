"""The form of a spec sheet: layout, gears, and a row of limits per value."""

from decimal import Decimal
from typing import Any

from django import forms

from axle.contact.cut import families
from axle.errors import AxleError
from axle.measure.units import UNITS
from axle.spec.reader import GEAR_FIGURES, GEAR_WORDS, HANDS, choice_words, read_spec, starter_specs
from axle.spec.sheet import SOURCE_WORDS, Source, SpecKey, spec_keys
from shop.people.models import Shop
from shop.specs.models import SpecSheet

_PARTS = ("low", "high", "tolerance", "unit", "source", "note")
_RANGES = ("low", "tolerance")
# Between a value's key and the fields of what another manual gives for it.
_SECOND = "-second"
_IN_FORCE = [("first", "the first range"), ("second", "the other manual's")]
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
        self, shop: Shop, data: Any = None, *, plain: dict[str, Any], existing: SpecSheet | None = None
    ) -> None:
        super().__init__(data, initial=_initial(plain))
        self._shop, self._existing = shop, existing
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
        for key, spec in spec_keys().items():
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
        self.fields[f"{name}-unit"] = forms.ChoiceField(
            label=f"{title}, unit", choices=units, required=not name.endswith(_SECOND)
        )
        self.fields[f"{name}-source"] = forms.ChoiceField(
            label=f"{title}, source", choices=sources, required=not name.endswith(_SECOND)
        )
        self.fields[f"{name}-note"] = forms.CharField(
            label=f"{title}, book, page or person", required=False, max_length=160
        )

    def rows(self) -> list[dict[str, Any]]:
        """Rows of limits as the page lays them out."""
        return [self._row(spec) for spec in spec_keys().values()]

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
        self.plain = _plain(cleaned)
        try:
            read_spec(self.plain)
        except AxleError as error:
            raise forms.ValidationError(str(error)) from None
        return cleaned

    def _manual(self, name: str) -> str:
        """A range by where it comes from: the manual's name."""
        source, note = (str(self[f"{name}-{part}"].value() or "") for part in ("source", "note"))
        known = SOURCE_WORDS[Source(source)] if source in {s.value for s in Source} else "not said"
        return f"{known}, {note}" if note else known

    def _row(self, spec: SpecKey) -> dict[str, Any]:
        parts = [part for part in _PARTS if spec.has_low or part not in _RANGES]
        row: dict[str, Any] = {part: self[f"{spec.key}-{part}"] for part in parts}
        row |= {"title": spec.title, "section": spec.section}
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


def starter(key: str) -> dict[str, Any]:
    """A starter sheet's plain data; the first when the name is unknown."""
    starters = starter_specs()
    return starters.get(key) or next(iter(starters.values()))


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
    return row | ({"tolerance": tolerance} if tolerance else {})


def _plain(cleaned: dict[str, Any]) -> dict[str, Any]:
    values = {}
    for key, spec in spec_keys().items():
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
