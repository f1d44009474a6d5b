"""Signing in, and what each person does about the own account."""

import math

from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth import views as auth
from django.contrib.auth.forms import PasswordChangeForm, SetPasswordForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django_otp import login as verify

from shop.people import second_factor, shops, sign_ins, throttle
from shop.people.forms import SignInForm
from shop.people.models import FootSwitch
from shop.people.request import USER_ERRORS, plain_number, posts_only, user_of


class SignInView(auth.LoginView):
    """Sign in; an address that tried many names waits between tries."""

    template_name = "people/sign_in.html"
    redirect_authenticated_user = True
    authentication_form = SignInForm

    def get(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """Show the form; where no shop is yet, the page that makes the first one."""
        if not shops.open_shops():
            return redirect("set-up")
        return super().get(request, *args, **kwargs)

    def post(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """Check a name and a password, unless it is too soon after wrong ones."""
        wait = math.ceil(throttle.wait_for(request).total_seconds())
        if wait:
            form = self.get_form_class()(request)
            words = f"Many wrong passwords came from here. Try again in {wait} s."
            return render(
                request, self.template_name, {"form": form, "wait": words, "next": ""}, status=429
            )
        return super().post(request, *args, **kwargs)


def code(request: HttpRequest) -> HttpResponse:
    """Ask for the code of the second factor."""
    user = user_of(request)
    error = ""
    if request.method == "POST":
        try:
            device = second_factor.verified(user, request.POST.get("code", ""))
        except USER_ERRORS as problem:
            error = str(problem)
        else:
            verify(request, device)
            return redirect("jobs")
    return render(request, "people/code.html", {"error": error}, status=422 if error else 200)


def me(request: HttpRequest) -> HttpResponse:
    """A person's own page: password, second factor, foot switch, and where the person is signed in."""
    user = user_of(request)
    return render(
        request,
        "people/me.html",
        {
            "foot_switches": FootSwitch.choices,
            "sign_ins": sign_ins.open_of(user),
            "this": sign_ins.key_of(request),
            "required": second_factor.is_required(user),
        },
    )


def own_password(request: HttpRequest) -> HttpResponse:
    """Change the own password; every other sign-in ends."""
    user = user_of(request)
    # Whoever signed in with a password of the owner's has just shown it.
    kind = SetPasswordForm if user.must_change_password else PasswordChangeForm
    form = kind(user, request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.save()
        user.must_change_password = user.password_once = False
        user.save(update_fields=["must_change_password", "password_once"])
        update_session_auth_hash(request, user)
        others = sign_ins.open_of(user).exclude(pk=sign_ins.key_of(request))
        sign_ins.end(user, others)
        messages.success(request, "Your password is changed. You are signed out everywhere else.")
        return redirect("me")
    return render(
        request,
        "people/own_password.html",
        {"form": form, "must": user.must_change_password},
        status=422 if form.errors else 200,
    )


def set_up(request: HttpRequest) -> HttpResponse:
    """Set a second factor up, or go back to the password alone."""
    user = user_of(request)
    error = ""
    if request.method == "POST":
        try:
            if request.POST.get("remove"):
                second_factor.verified(user, request.POST.get("code", ""))
                second_factor.remove(user)
                messages.success(request, "Signing in asks for the password alone now.")
                return redirect("me")
            codes = second_factor.confirm(user, request.POST.get("code", ""))
            verify(request, second_factor.newest(user))
        except USER_ERRORS as problem:
            error = str(problem)
        else:
            return render(request, "people/paper_codes.html", {"codes": codes})
    context: dict[str, object] = {"error": error, "required": second_factor.is_required(user)}
    if not user.has_second_factor:
        device = second_factor.begin(user)
        context |= {"picture": second_factor.picture(device), "secret": second_factor.secret_of(device)}
    return render(request, "people/second_factor.html", context, status=422 if error else 200)


@posts_only
def end_own(request: HttpRequest) -> HttpResponse:
    """End one of the own sign-ins, or all others."""
    user = user_of(request)
    rows = sign_ins.open_of(user)
    chosen = plain_number(request.POST.get("sign_in"), 0, longest=18)
    this = sign_ins.key_of(request)
    count = sign_ins.end(user, rows.filter(pk=chosen) if chosen else rows.exclude(pk=this))
    messages.success(request, f"{count} sign-in{'' if count == 1 else 's'} ended.")
    return redirect("me")
