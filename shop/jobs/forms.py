"""Forms about jobs."""

from typing import Any

from django import forms
from django.utils import timezone

from axle.depth.marks import MarkConvention
from axle.errors import AxleError
from axle.units import THOU, Quantity, parse
from shop.jobs.words import MARK_WORDS
from shop.people.models import User
from shop.specs.models import SpecSheet


class NewJobForm(forms.Form):
    """Open a job: what arrived, whose it is, and what it is built to."""

    title = forms.CharField(label="Axle", max_length=120)
    customer = forms.CharField(label="Customer", max_length=120, required=False)
    complaint = forms.CharField(
        label="What the owner reports", max_length=2000, required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )  # fmt: skip
    sheet = forms.ModelChoiceField(label="Spec sheet", queryset=SpecSheet.objects.none())
    bearings = forms.ChoiceField(
        label="Pinion bearings", choices=[("new", "new"), ("used", "used, go back in")]
    )
    mark = forms.CharField(label="Mark on the pinion", max_length=40, initial="0")
    mark_convention = forms.ChoiceField(
        label="What the mark means", choices=[(k.value, words) for k, words in MARK_WORDS.items()]
    )
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

    def clean_mark(self) -> Quantity:
        """Read the mark in thou unless it says otherwise; "-0" is zero."""
        try:
            mark = parse(self.cleaned_data["mark"], THOU, "mark on the pinion")
        except AxleError as error:
            raise forms.ValidationError(str(error)) from None
        return mark

    def clean(self) -> dict[str, Any]:
        """A deviation is small; a whole distance is not: each is refused as the other."""
        cleaned = super().clean() or {}
        mark = cleaned.get("mark")
        if mark is not None:
            whole = cleaned.get("mark_convention") == MarkConvention.DISTANCE.value
            if whole and not 20 <= mark.core <= 300:
                self.add_error(
                    "mark", f"A mounting distance of {mark.text} was given; 20 to 300 mm is wanted."
                )
            if not whole and abs(mark.core) > 1:
                self.add_error(
                    "mark", f"A deviation of {mark.text} was given; at most 1 mm (0.039 in) is wanted. "
                    "Is it in hundredths of a millimetre? Type “5 1/100mm”.",
                )  # fmt: skip
        arrived, promised = cleaned.get("arrived_on"), cleaned.get("promised_on")
        if arrived and promised and promised < arrived:
            self.add_error(
                "promised_on", f"{promised} was given, before it arrived; a later day is wanted."
            )
        return cleaned


class ImportForm(forms.Form):
    """A job file."""

    file = forms.FileField(label="Job file (JSON)", max_length=200)
