"""Receiving shims by keyboard, kits, and what could be made."""

import re
from typing import Any, Final

from django import forms

from axle.errors import AxleError, quoted
from axle.measure.parse import parse
from axle.measure.units import THOU, Unit
from shop.stock.models import Condition, Family, ShimRole
from shop.stock.services import MOST_OF_A_SIZE, Lot
from shop.stock.table import readings

_LINE: Final = re.compile(r"(\w+)\s+([\d.]+)\s*([a-zA-Z\"]*)\s*[x×]\s*(\d{1,3})\s*(.*)", re.ASCII)
# Kept from one lot to the next: a drawerful is received a size at a time.
STICKY: Final = ("family", "shape", "role", "condition", "bin", "low_at")


class ReceiveForm(forms.Form):
    """Pieces of one size that go into the drawer."""

    miced = forms.CharField(label="Thickness as mic'd", max_length=80, required=False)
    quantity = forms.IntegerField(label="Pieces", min_value=1, max_value=MOST_OF_A_SIZE, initial=1)
    nominal = forms.CharField(label="Nominal, if marked", max_length=40, required=False)
    family = forms.ChoiceField(label="Fits", choices=Family)
    shape = forms.CharField(label="Shape", max_length=40, required=False)
    role = forms.ChoiceField(label="Kind", choices=ShimRole, required=False, initial=ShimRole.SELECT)
    condition = forms.ChoiceField(label="Condition", choices=Condition)
    bin = forms.CharField(label="Bin", max_length=20, required=False)
    low_at = forms.IntegerField(label="Low under", min_value=0, max_value=MOST_OF_A_SIZE, required=False)
    cast = forms.BooleanField(label="Cast iron", required=False)

    def __init__(
        self, data: Any = None, *, unit: Unit = THOU, going_on: bool = False, **kwargs: Any
    ) -> None:
        super().__init__(data, **kwargs)
        self._unit = unit
        if going_on or data:
            self.fields["miced"].widget.attrs["autofocus"] = True
        self.fields["miced"].label = f"As mic'd, {unit.symbol}, each reading"
        self.fields["nominal"].label = f"Nominal, {unit.symbol}, if marked"

    def clean(self) -> dict[str, Any]:
        """A mic'd size, or at least a nominal one; each more than nothing and less than an inch."""
        cleaned = super().clean() or {}
        try:
            miced = readings(cleaned.get("miced", ""), self._unit, "thickness")
            text = cleaned.get("nominal", "").strip()
            nominal = parse(text, self._unit, "nominal thickness") if text else None
            if nominal is None and not miced:
                raise AxleError("thickness", given="nothing", wanted="a size, as mic'd or as marked")
            for size in (*miced, *((nominal,) if nominal else ())):
                if not 0 < size.core < 25:
                    raise AxleError(
                        "thickness",
                        given=f"“{size.text}”",
                        wanted="more than 0 and under 25 mm (about 1 in)",
                        do="Check the unit.",
                    )
        except AxleError as error:
            self.add_error("miced" if cleaned.get("miced") else "nominal", str(error))
            return cleaned
        cleaned["lot"] = Lot(
            cleaned.get("family", ""),
            nominal or miced[0],
            miced=miced,
            quantity=cleaned.get("quantity") or 1,
            condition=cleaned.get("condition", ""),
            bin=cleaned.get("bin", ""),
            shape=cleaned.get("shape", ""),
            role=cleaned.get("role") or ShimRole.SELECT,
            cast=bool(cleaned.get("cast")),
            kit="",
            low_at=cleaned.get("low_at") or 0,
        )
        return cleaned


class KitForm(forms.Form):
    """What a kit holds, a size a line."""

    name = forms.CharField(label="Kit", max_length=60)
    lines = forms.CharField(
        label="Sizes, a line each: depth 30 x2, side 120 x2 base",
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 5}),
    )

    def __init__(self, data: Any = None, *, unit: Unit = THOU) -> None:
        super().__init__(data)
        self._unit = unit

    def clean_lines(self) -> list[Lot]:
        """Every line, or the ones that cannot be used named by their number."""
        lots, wrong = [], []
        for number, text in enumerate(self.cleaned_data["lines"].splitlines(), start=1):
            if not text.strip():
                continue
            try:
                lots.append(self._line(text.strip()))
            except AxleError as problem:
                wrong.append(f"Line {number}: {problem}")
        if wrong:
            raise forms.ValidationError(wrong)
        return lots

    def _line(self, text: str) -> Lot:
        found = _LINE.fullmatch(text)
        if found is None:
            raise AxleError(
                "kit", given=quoted(text), wanted="a family, a size and a number, such as depth 30 x2"
            )
        family, size, unit, count, rest = found.groups()
        if family not in Family.values:
            raise AxleError("family", given=f"“{family[:20]}”", wanted=", ".join(Family.values))
        words = rest.split()
        role = next((word for word in words if word in ShimRole.values), ShimRole.SELECT)
        shape = " ".join(word for word in words if word not in (*ShimRole.values, "cast"))
        nominal = parse(f"{size} {unit}".strip(), self._unit, "size")
        return Lot(
            family,
            nominal,
            miced=(),
            quantity=int(count),
            shape=shape[:40],
            role=role,
            cast="cast" in words,
        )


class TableForm(forms.Form):
    """A table of shims."""

    file = forms.FileField(label="Table of shims (CSV)", max_length=200)
