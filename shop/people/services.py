"""Changes to people."""

import secrets
from collections.abc import Mapping
from typing import Final

from django.db import transaction

from axle.errors import AxleError
from axle.layout import CarrierBy
from axle.procedure.choices import choices
from shop.people import rules, second_factor, sign_ins
from shop.people.models import FootSwitch, Role, SecondFactor, Shop, Units, User
from shop.people.rules import Rejected, Right

# Letters and digits that are not mistaken for each other on paper.
_LETTERS: Final = "abcdefghjkmnpqrstuvwxyz23456789"


def set_units(user: User, units: str) -> None:
    """Read and type in other units from now on; records stay as they were typed."""
    if units in Units.values:
        user.units = units
        user.save(update_fields=["units"])


def set_foot_switch(user: User, key: str) -> None:
    """Say which key this person's foot switch sends."""
    rules.require(key in FootSwitch.values, "A foot switch sends one of the keys that the list names.")
    user.foot_switch = key
    user.save(update_fields=["foot_switch"])


def set_ways(owner: User, schools: Mapping[str, str], ring_side: str, far_side: str) -> None:
    """Say which school this shop usually follows on each kind of carrier, and what it calls its sides."""
    rules.require_right(owner, Right.SHOP)
    shop = owner.shop
    rules.require(shop is not None, "You belong to no shop.")
    assert shop is not None  # the line before has refused it
    values = choices()["school"].values
    for carrier, school in schools.items():
        if school and (school not in values or carrier not in schools_on()):
            raise AxleError("school", given=f"“{school[:20]}”", wanted="one that such an axle can follow")
        if school and school not in {name for name, _ in schools_on()[carrier]}:
            raise AxleError(
                "school",
                given=f"“{values[school].title}”",
                wanted=" or ".join(title for _, title in schools_on()[carrier]),
            )
    shop.schools = {carrier: school for carrier, school in schools.items() if school}
    shop.ring_side_name, shop.far_side_name = ring_side.strip()[:30], far_side.strip()[:30]
    shop.save(update_fields=["schools", "ring_side_name", "far_side_name"])


def schools_on() -> dict[str, list[tuple[str, str]]]:
    """Schools that each kind of carrier can follow, with their titles."""
    every = [kind.value for kind in CarrierBy]
    return {
        kind: [
            (name, value.title)
            for name, value in choices()["school"].values.items()
            if kind in value.where.get("carrier_by", every)
        ]
        for kind in every
    }


def add_person(
    owner: User, *, first_name: str, last_name: str, username: str, role: str, password: str
) -> User:
    """Let somebody into the owner's shop."""
    rules.require_right(owner, Right.PEOPLE)
    return User.objects.create_user(
        username=username,
        password=password,
        first_name=first_name,
        last_name=last_name,
        role=role,
        shop=owner.shop,
        units=owner.shop.units if owner.shop else Units.THOU,
        # The owner knows it, so it is good for one sign-in.
        must_change_password=True,
    )


def person_of(owner: User, person_id: int) -> User:
    """One of the owner's people.

    :raises Rejected: for anybody else's.
    """
    rules.require_right(owner, Right.PEOPLE)
    person = User.objects.filter(shop=owner.shop, pk=person_id).first() if owner.shop else None
    if person is None:
        raise Rejected("There is no such person in this shop.")
    return person


def set_role(owner: User, person_id: int, role: str) -> User:
    """Change a person's role; the shop keeps at least one owner."""
    with transaction.atomic():
        person = _held(owner, person_id)
        rules.require(role in Role.values, "There is no such role: owner, builder or apprentice is wanted.")
        _keep_an_owner(person, stays=role == Role.OWNER)
        person.role = role
        person.save(update_fields=["role"])
    return person


def reset_password(owner: User, person_id: int) -> tuple[User, str]:
    """Give somebody a password that lets in once and has to be changed then; ends every sign-in."""
    with transaction.atomic():
        person = _held(owner, person_id)
        rules.require(person.pk != owner.pk, "Your own password is changed under your name.")
        rules.require(person.is_active, "Let the person in again first.")
        password = "-".join("".join(secrets.choice(_LETTERS) for _ in range(4)) for _ in range(4))
        person.set_password(password)
        person.must_change_password = person.password_once = True
        person.save(update_fields=["password", "must_change_password", "password_once"])
        sign_ins.end(owner, sign_ins.open_of(person))
    return person, password


def let_go(owner: User, person_id: int) -> User:
    """Let somebody go: signed out at once, nothing on record changes."""
    with transaction.atomic():
        person = _held(owner, person_id)
        rules.require(person.pk != owner.pk, "You cannot let yourself go: another owner does.")
        _keep_an_owner(person, stays=False)
        person.is_active = False
        person.save(update_fields=["is_active"])
        sign_ins.end(owner, sign_ins.open_of(person))
    return person


def take_back(owner: User, person_id: int) -> User:
    """Let somebody in again who was let go, with the password of before."""
    person = person_of(owner, person_id)
    person.is_active = True
    person.save(update_fields=["is_active"])
    return person


def end_sign_ins(owner: User, person_id: int) -> int:
    """End every sign-in of a person."""
    return sign_ins.end(owner, sign_ins.open_of(person_of(owner, person_id)))


def remove_second_factor(owner: User, person_id: int) -> User:
    """Take away a device that was lost; where the shop asks for one, another is set up next."""
    person = person_of(owner, person_id)
    second_factor.remove(person)
    sign_ins.end(owner, sign_ins.open_of(person))
    return person


def set_second_factor(owner: User, chosen: str) -> None:
    """Say who of the shop signs in with a time code beside the password."""
    rules.require_right(owner, Right.SHOP)
    rules.require(chosen in SecondFactor.values, "Whoever wants to, every owner, or everybody is wanted.")
    assert owner.shop is not None  # the guard lets nobody without a shop on
    owner.shop.second_factor = chosen
    owner.shop.save(update_fields=["second_factor"])


def _held(owner: User, person_id: int) -> User:
    """One of the owner's people; the shop's row is held, so that two owners cannot both go."""
    assert owner.shop is not None  # the guard lets nobody without a shop on
    Shop.objects.select_for_update().get(pk=owner.shop.pk)
    return person_of(owner, person_id)


def _keep_an_owner(person: User, *, stays: bool) -> None:
    others = User.objects.filter(shop=person.shop, role=Role.OWNER, is_active=True).exclude(pk=person.pk)
    rules.require(stays or person.role != Role.OWNER or others.exists(), "A shop keeps at least one owner.")
