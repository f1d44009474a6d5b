"""The second factor: time codes of a device (RFC 6238), and codes on paper for when it is lost."""

import base64
import ipaddress
import secrets
from typing import Final

import segno
from django.conf import settings
from django.utils.safestring import SafeString, mark_safe
from django_otp import devices_for_user, match_token
from django_otp.models import Device
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from axle.errors import AxleError
from shop.people.models import Role, SecondFactor, User

_PAPER_CODES: Final = 8
_DEVICE: Final = "authenticator"
_PAPER: Final = "paper"


def is_required(user: User) -> bool:
    """Whether somebody may not go on without one: as the shop chose, and an owner whom others reach."""
    chosen = user.shop.second_factor if user.shop else SecondFactor.OPTIONAL
    if chosen == SecondFactor.ALL:
        return True
    return user.role == Role.OWNER and (chosen == SecondFactor.OWNERS or reached_by_others())


def reached_by_others() -> bool:
    """Whether the installation's addresses name one that other machines reach."""
    return any(not _is_loopback(host) for host in settings.ALLOWED_HOSTS)


def _is_loopback(host: str) -> bool:
    name = host.strip("[].").lower()
    if name in ("localhost", "testserver") or name.endswith(".localhost"):
        return True
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False


def begin(user: User) -> TOTPDevice:
    """The device that is being set up; it counts only once a code of it was typed."""
    device, _ = TOTPDevice.objects.get_or_create(user=user, confirmed=False, defaults={"name": _DEVICE})
    return device


def picture(device: TOTPDevice) -> SafeString:
    """The device's secret as a picture that a phone reads."""
    drawn = segno.make(device.config_url, error="m").svg_inline(scale=5, dark="#1b2a38", light="#ffffff")
    return mark_safe(drawn)  # noqa: S308 - drawn here from a secret of ours


def secret_of(device: TOTPDevice) -> str:
    """The device's secret in letters, to be typed, in groups of four."""
    letters = base64.b32encode(device.bin_key).decode().rstrip("=")
    return " ".join(letters[n : n + 4] for n in range(0, len(letters), 4))


def confirm(user: User, code: str) -> list[str]:
    """Take the device into use by a code of it; gives the codes for paper, shown once.

    :raises AxleError: for a code that the device does not show now.
    """
    device = begin(user)
    if not device.verify_token(_digits(code)):
        raise AxleError(
            "code",
            given="one that does not fit",
            wanted="the six digits that the device shows now",
            do="Are both clocks right? Wait for the next code.",
        )
    for old in devices_for_user(user, confirmed=True):
        old.delete()
    device.confirmed = True
    device.save()
    paper = StaticDevice.objects.create(user=user, name=_PAPER)
    codes = [f"{secrets.randbelow(10**10):010d}" for _ in range(_PAPER_CODES)]
    paper.token_set.bulk_create(paper.token_set.model(device=paper, token=code) for code in codes)
    user.has_second_factor = True
    user.save(update_fields=["has_second_factor"])
    return codes


def newest(user: User) -> TOTPDevice:
    """The device that is in use."""
    return TOTPDevice.objects.get(user=user, confirmed=True)


def remove(user: User) -> None:
    """Go back to the password alone."""
    for device in devices_for_user(user):
        device.delete()
    user.has_second_factor = False
    user.save(update_fields=["has_second_factor"])


def verified(user: User, code: str) -> Device:
    """The device that a code is of.

    :raises AxleError: for a code that fits none, or too soon after wrong ones.
    """
    device = match_token(user, _digits(code))
    if device is None:
        raise AxleError(
            "code",
            given="one that does not fit",
            wanted="the six digits that the device shows now, or a code from your paper",
            do="After wrong ones wait a little.",
        )
    return device


def _digits(code: str) -> str:
    return "".join(c for c in code if c.isascii() and c.isdigit())[:12]
