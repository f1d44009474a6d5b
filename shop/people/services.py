"""Changes to people."""

from collections.abc import Mapping

from axle.errors import AxleError
from axle.layout import CarrierBy
from axle.procedure.choices import choices
from shop.people import rules
from shop.people.models import FootSwitch, Role, Units, User
from shop.people.rules import Right


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
    assert shop is not None  # must() has refused it
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
    )


def set_role(owner: User, person_id: int, role: str) -> User:
    """Change a person's role; the shop keeps at least one owner."""
    rules.require_right(owner, Right.PEOPLE)
    people = User.objects.filter(shop=owner.shop)
    person = people.filter(pk=person_id).first()
    rules.require(
        person is not None and role in Role.values, "There is no such person or role in this shop."
    )
    assert person is not None  # must() has refused it
    others = people.filter(role=Role.OWNER, is_active=True).exclude(pk=person.pk)
    rules.require(role == Role.OWNER or others.exists(), "A shop keeps at least one owner.")
    person.role = role
    person.save(update_fields=["role"])
    return person
