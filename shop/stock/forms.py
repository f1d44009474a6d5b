"""Receiving shims by keyboard."""

from typing import Any

from django import forms

from axle.errors import AxleError
from axle.units import THOU, Quantity, Unit, parse
from shop.stock.models import Condition, Family


class ReceiveForm(forms.Form):
    """Pieces of one size that go into the drawer."""

    family = forms.ChoiceField(label="Fits", choices=Family)
    miced = forms.CharField(label="Thickness as mic'd", max_length=40)
    nominal = forms.CharField(label="Nominal, if marked", max_length=40, required=False)
    quantity = forms.IntegerField(label="Pieces", min_value=1, max_value=200, initial=1)
    condition = forms.ChoiceField(label="Condition", choices=Condition)
    bin = forms.CharField(label="Bin", max_length=20, required=False)

    def __init__(self, data: Any = None, *, unit: Unit = THOU) -> None:
        super().__init__(data)
        self._unit = unit
        self.fields["miced"].label = f"Thickness as mic'd, {unit.symbol}"
        self.fields["nominal"].label = f"Nominal, {unit.symbol}, if marked"

    def clean_miced(self) -> Quantity:
        """More than nothing, less than an inch."""
        return self._thickness(self.cleaned_data["miced"], "thickness")

    def clean_nominal(self) -> Quantity | None:
        """Left empty it is the mic'd size."""
        text = self.cleaned_data["nominal"]
        return self._thickness(text, "nominal thickness") if text.strip() else None

    def _thickness(self, text: str, what: str) -> Quantity:
        try:
            size = parse(text, self._unit, what)
        except AxleError as error:
            raise forms.ValidationError(str(error)) from None
        if not 0 < size.core < 25:
            raise forms.ValidationError(
                f"“{text}” was given; more than 0 and under 25 mm (about 1 in) is wanted. Check the unit."
            )
        return size
