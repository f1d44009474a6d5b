"""Who may do what. An apprentice measures and records; a builder signs; an owner keeps the sheets."""

from shop.people.models import Role, User


class Rejected(Exception):
    """Something that will not be done, said in words: why, and what to do."""


def may_sign(user: User) -> bool:
    """Sign a station, a deviation or the build sheet."""
    return user.role in (Role.OWNER, Role.BUILDER)


def may_sign_on(user: User, *, practice: bool) -> bool:
    """Sign on a job: on a practice axle anybody does, since nobody drives it."""
    return practice or may_sign(user)


def may_edit_sheets(user: User) -> bool:
    """Change limits that every later job is built to."""
    return user.role in (Role.OWNER, Role.BUILDER)


def may_edit_people(user: User) -> bool:
    """Let people in and change their roles."""
    return user.role == Role.OWNER


def require(allowed: bool, words: str) -> None:
    """Refuse in words what a role does not allow."""
    if not allowed:
        raise Rejected(words)
