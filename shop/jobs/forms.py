"""Forms about jobs."""

from decimal import Decimal
from typing import Any

from django import forms
from django.utils import timezone

from axle.depth.marks import LARGE_MARK, MARK_UNITS, MarkConvention, read_mark
from axle.errors import AxleError
from axle.measure.parse import echo
from axle.measure.units import Quantity
from axle.procedure.scope import scopes
from shop.jobs.formatting import MARK_WORDS
from shop.people.models import User
from shop.specs.models import SpecSheet


class NewJobForm(forms.Form):
    """Open a job: what arrived, whose it is, and what it is built to."""

    title = forms.CharField(label="Axle", max_length=120, widget=forms.TextInput(attrs={"autofocus": True}))
    customer = forms.CharField(label="Customer", max_length=120, required=False)
    complaint = forms.CharField(
        label="Customer's complaint",
        max_length=2000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    sheet = forms.ModelChoiceField(label="Spec sheet", queryset=SpecSheet.objects.none())
    scope = forms.ChoiceField(
        label="The job covers",
        required=False,
        initial="whole",
        choices=[(name, scope.title) for name, scope in scopes().items()],
    )
    bearings = forms.ChoiceField(
        label="Pinion bearings", choices=[("new", "new"), ("used", "used, go back in")]
    )
    mark = forms.CharField(label="Mark on the pinion", max_length=40, initial="0")
    mark_convention = forms.ChoiceField(
        label="What the mark means", choices=[(k.value, words) for k, words in MARK_WORDS.items()]
    )
    mark_unit = forms.ChoiceField(
        label="The mark is in",
        required=False,
        choices=[("", "choose"), *((name, name) for name in MARK_UNITS)],
        help_text="Thou, hundredths of a millimetre, millimetres: chosen here, never guessed.",
    )
    mark_meant = forms.BooleanField(label="A mark over 0.15 mm (6 thou) is meant", required=False)
    arrived_on = forms.DateField(
        label="Arrived", widget=forms.DateInput(attrs={"type": "date"}), initial=timezone.localdate
    )
    promised_on = forms.DateField(
        label="Promised", required=False, widget=forms.DateInput(attrs={"type": "date"})
    )

    def __init__(self, user: User, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        field = self.fields["sheet"]
        assert isinstance(field, forms.ModelChoiceField)
        field.queryset = SpecSheet.objects.of(user.shop)
        self._user = user
        if user.shop is not None and user.units == "thou":
            self.fields["mark_unit"].initial = "thou"

    def _mark(self, text: str, unit: str) -> Quantity | None:
        """The mark in the unit chosen beside it; "-0" is zero in any."""
        chosen = unit or ("thou" if self._user.units == "thou" else "")
        try:
            mark = read_mark(text, chosen or "mm")
        except AxleError as error:
            self.add_error("mark", str(error))
            return None
        if not chosen and mark.value:
            self.add_error("mark_unit", "No unit was given; thou, 1/100 mm or mm is wanted.")
            return None
        return mark

    def clean(self) -> dict[str, Any]:
        """A deviation is small; a whole distance is not: each is refused as the other."""
        cleaned = super().clean() or {}
        cleaned["scope"] = cleaned.get("scope") or "whole"
        mark = self._mark(cleaned["mark"], cleaned.get("mark_unit", "")) if cleaned.get("mark") else None
        if mark is not None:
            cleaned["mark"] = mark
            whole = cleaned.get("mark_convention") == MarkConvention.DISTANCE.value
            if whole and not 20 <= mark.core <= 300:
                self.add_error(
                    "mark", f"A mounting distance of {mark.text} was given; 20 to 300 mm is wanted."
                )
            if not whole and abs(mark.core) > 1:
                self.add_error(
                    "mark",
                    f"A deviation of {mark.text} was given; at most 1 mm (0.039 in) is wanted. "
                    "Is it in hundredths of a millimetre? Type “5 1/100mm”.",
                )
            elif not whole and abs(mark.core) > Decimal(str(LARGE_MARK)) and not cleaned.get("mark_meant"):
                self.add_error(
                    "mark_meant",
                    f"A mark of {echo(mark)} is large. Is its unit right? Tick here if it is meant.",
                )
        arrived, promised = cleaned.get("arrived_on"), cleaned.get("promised_on")
        if arrived and promised and promised < arrived:
            self.add_error(
                "promised_on", f"{promised} was given, before it arrived; a later day is wanted."
            )
        return cleaned


class ImportForm(forms.Form):
    """A job file."""

    file = forms.FileField(label="Job file (JSON)", max_length=200)
