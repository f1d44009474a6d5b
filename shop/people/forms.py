"""Forms about people."""

from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password
from django.core.validators import MaxLengthValidator

from shop.people.models import Role, Units, User
from shop.people.shops import CURRENCIES, OwnerWords, ShopWords


class SignInForm(AuthenticationForm):
    """Name and password; a name longer than any is refused here, not by the database."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        longest = User._meta.get_field("username").max_length
        self.fields["username"].validators.append(
            MaxLengthValidator(longest or 150, "That is longer than any name to sign in with.")
        )


class ShopForm(forms.Form):
    """What a shop is called, and how it counts."""

    name = forms.CharField(label="Name of the shop", max_length=80)
    place = forms.CharField(label="Place", max_length=80, required=False)
    units = forms.ChoiceField(label="Units that people begin with", choices=Units)
    currency = forms.ChoiceField(label="Currency", choices=[(name, name) for name in CURRENCIES])
    time_zone = forms.ChoiceField(
        label="Time zone",
        choices=[(name, name.replace("_", " ")) for name in sorted(available_timezones())],
    )
    sign_at = forms.DecimalField(
        label="Sign from this chance on, in %",
        min_value=50,
        max_value=99,
        decimal_places=1,
        required=False,
        help_text="Under it the advice names the reading that would settle it before the sheet is signed.",
    )

    @property
    def shop_words(self) -> ShopWords:
        """The shop as the core of people takes it."""
        names = ("name", "place", "units", "currency", "time_zone", "sign_at")
        told = {name: self.cleaned_data[name] for name in names if name in self.cleaned_data}
        return ShopWords(**told)


class NewPersonForm(forms.Form):
    """Let somebody in."""

    first_name = forms.CharField(label="First name", max_length=40)
    last_name = forms.CharField(label="Last name", max_length=40, required=False)
    username = forms.SlugField(label="Signs in as", max_length=30)
    role = forms.ChoiceField(label="Role", choices=Role, initial=Role.APPRENTICE)
    password = forms.CharField(
        label="First password",
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
        max_length=128,
        help_text="It is changed at the first sign-in.",
    )

    def clean_username(self) -> str:
        """A sign-in name is one person's, in whichever shop."""
        name = self.cleaned_data["username"]
        if User.objects.filter(username__iexact=name).exists():
            raise forms.ValidationError(f"“{name}” is taken; choose another name to sign in with.")
        return str(name)

    def clean_password(self) -> str:
        """The first password must be worth having."""
        validate_password(self.cleaned_data["password"])
        return str(self.cleaned_data["password"])


class SetUpForm(ShopForm):
    """A shop with its owner."""

    sign_at = None  # type: ignore[assignment]  # set later, once somebody has seen what it does
    first_name = forms.CharField(label="Your first name", max_length=40)
    last_name = forms.CharField(label="Your last name", max_length=40, required=False)
    username = forms.SlugField(label="You sign in as", max_length=30)
    password = forms.CharField(
        label="Your password",
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
        max_length=128,
        help_text="Eight letters or more.",
    )

    clean_username = NewPersonForm.clean_username
    clean_password = NewPersonForm.clean_password

    @property
    def owner_words(self) -> OwnerWords:
        """The owner as the core of people takes it."""
        names = ("first_name", "last_name", "username", "password")
        return OwnerWords(**{name: self.cleaned_data[name] for name in names})
