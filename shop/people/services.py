"""Changes to people."""

from shop.people import rules
from shop.people.models import Role, Units, User


def set_units(user: User, units: str) -> None:
    """Read and type in other units from now on; records stay as they were typed."""
    if units in Units.values:
        user.units = units
        user.save(update_fields=["units"])


def add_person(
    owner: User, *, first_name: str, last_name: str, username: str, role: str, password: str
) -> User:
    """Let somebody into the owner's shop."""
    rules.must(rules.may_edit_people(owner), "Only the owner lets people in.")
    return User.objects.create_user(
        username=username, password=password, first_name=first_name, last_name=last_name,
        role=role, shop=owner.shop,
    )  # fmt: skip


def set_role(owner: User, person_id: int, role: str) -> User:
    """Change a person's role; the shop keeps at least one owner."""
    rules.must(rules.may_edit_people(owner), "Only the owner changes roles.")
    people = User.objects.filter(shop=owner.shop)
    person = people.filter(pk=person_id).first()
    rules.must(person is not None and role in Role.values, "There is no such person or role in this shop.")
    assert person is not None  # must() has refused it
    others = people.filter(role=Role.OWNER, is_active=True).exclude(pk=person.pk)
    rules.must(role == Role.OWNER or others.exists(), "A shop keeps at least one owner.")
    person.role = role
    person.save(update_fields=["role"])
    return person
