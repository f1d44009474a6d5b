"""An instrument, as it is put into the register."""

from typing import Any

from django import forms

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.measure.units import INCH_POUND, Dimension, Display, Quantity
from axle.procedure.instruments import instrument_kinds
from shop.instruments.models import Instrument
from shop.instruments.services import Given


class InstrumentForm(forms.Form):
    """One gauge, micrometer or wrench."""

    name = forms.CharField(label="Name, as it is marked", max_length=60)
    kind = forms.ChoiceField(label="Kind", choices=[])
    resolution = forms.CharField(label="Resolution", max_length=40)
    full_scale = forms.CharField(label="Full scale, where it has one", max_length=40, required=False)
    shows = forms.ChoiceField(label="A dial means", choices=Instrument.Shows, required=False)
    revolution = forms.CharField(label="One revolution of the dial", max_length=40, required=False)
    line = forms.SlugField(
        label="Its name on the instruments' line, where it is connected", max_length=20, required=False
    )
    calibrated_on = forms.DateField(
        label="Calibrated", required=False, widget=forms.DateInput(attrs={"type": "date"})
    )
    due_on = forms.DateField(label="Due", required=False, widget=forms.DateInput(attrs={"type": "date"}))

    def __init__(self, data: Any = None, *, display: Display, **kwargs: Any) -> None:
        super().__init__(data, **kwargs)
        self._display = display
        kind = self.fields["kind"]
        assert isinstance(kind, forms.ChoiceField)
        kind.choices = [(k.kind, k.title) for k in instrument_kinds().values()]
        self.fields["resolution"].label = f"Resolution, {display.length.symbol} or {INCH_POUND.symbol}"

    def clean(self) -> dict[str, Any]:
        """Read the resolution in the unit of the kind, and the revolution as a length."""
        cleaned = super().clean() or {}
        kind = instrument_kinds().get(cleaned.get("kind", ""))
        if kind is not None and cleaned.get("resolution"):
            unit = self._display.unit_for(kind.dimension, bolt=kind.kind == "torque_wrench")
            cleaned["resolution"] = self._read("resolution", cleaned["resolution"], unit)
            if cleaned.get("full_scale"):
                cleaned["full_scale"] = self._read("full_scale", cleaned["full_scale"], unit)
        if cleaned.get("revolution"):
            cleaned["revolution"] = self._read(
                "revolution", cleaned["revolution"], self._display.unit_for(Dimension.LENGTH)
            )
        return cleaned

    def _read(self, field: str, text: str, unit: Any) -> Quantity | None:
        try:
            quantity = parse(text, unit, field)
        except AxleError as error:
            self.add_error(field, str(error))
            return None
        if quantity.core <= 0:
            self.add_error(field, f"“{text}” was given; more than 0 is wanted.")
        return quantity

    @property
    def given(self) -> Given:
        """What was filled in, for the service."""
        made = self.cleaned_data
        return Given(
            made["name"].strip(),
            made["kind"],
            resolution=made["resolution"],
            shows=made["shows"] or Instrument.Shows.TRAVEL,
            revolution=made["revolution"] or None,
            calibrated_on=made["calibrated_on"],
            due_on=made["due_on"],
            line=made["line"],
            full_scale=made.get("full_scale") or None,
        )
