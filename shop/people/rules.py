"""Who may do what: each act with the roles that it belongs to. docs/guide.md shows the same table."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Final

from shop.people.models import Role, Shop, User


class Rejected(Exception):
    """Something that will not be done, said in words: why, and what to do."""


class Right(Enum):
    """A right to do something; every form belongs to one."""

    OWN = "own"
    MEASURE = "measure"
    OPEN = "open"
    PRACTISE = "practise"
    STOCK_IN = "stock in"
    PLAN = "plan"
    TORQUES = "torques"
    SIGN = "sign"
    REOPEN = "reopen"
    IMPORT = "import"
    STOCK_OUT = "stock out"
    INSTRUMENTS = "instruments"
    SHEETS = "sheets"
    PARTS = "parts"
    ORDER = "order"
    MONEY = "money"
    SCHEDULE = "schedule"
    PEOPLE = "people"
    SHOP = "shop"


@dataclass(frozen=True)
class Rule:
    """One act's rule.

    :param words: what the act is, for the guide.
    :param roles: whom it belongs to.
    :param refusal: what anybody else is told.
    :param on_practice: whether anybody does it on a practice axle, since nobody drives it.
    """

    words: str
    roles: frozenset[Role]
    refusal: str = ""
    on_practice: bool = False


_ALL: Final = frozenset(Role)
_BUILDERS: Final = frozenset({Role.OWNER, Role.BUILDER})
_OWNERS: Final = frozenset({Role.OWNER})
_ASK: Final = "Ask a builder or the owner."

RULES: Final[Mapping[Right, Rule]] = {
    Right.OWN: Rule("Own password, units, foot switch, sessions, second factor", _ALL),
    Right.MEASURE: Rule(
        "Read, print and photograph; mark steps done; fit packs and do moves; arrival, findings, register, "
        "heights, runout, waits, noise and turning by hand, the vehicle, counted turns, oil, road test and "
        "break-in; confirm a mark; strike and undo",
        _ALL,
    ),
    Right.OPEN: Rule("Open a job", _ALL),
    Right.PRACTISE: Rule("Practise", _ALL),
    Right.STOCK_IN: Rule("Receive shims, mic them, write down kits, call a lot damaged", _ALL),
    Right.PLAN: Rule(
        "Choose what a job covers, its ratio, parts, order, way of setting the carrier, countersignature",
        _BUILDERS,
        f"An apprentice does not choose how a job is built. {_ASK}",
        on_practice=True,
    ),
    Right.TORQUES: Rule(
        "Correct the torque sheet: torques, counts, threads, groups of the shop's own",
        _BUILDERS,
        f"An apprentice does not correct the torque sheet. {_ASK}",
        on_practice=True,
    ),
    Right.SIGN: Rule(
        "Sign: stations, torques, deviations, the build sheet; countersign",
        _BUILDERS,
        f"An apprentice does not sign. {_ASK}",
        on_practice=True,
    ),
    Right.REOPEN: Rule(
        "Open a signed job again", _BUILDERS, f"An apprentice does not open a signed job again. {_ASK}"
    ),
    Right.IMPORT: Rule(
        "Bring a job file in", _BUILDERS, f"An apprentice does not bring job files in. {_ASK}"
    ),
    Right.STOCK_OUT: Rule(
        "Scrap shims, call a lot sound again, take a table in, say what runs low",
        _BUILDERS,
        f"An apprentice does not scrap shims, count the drawer anew, or call a lot sound. {_ASK}",
    ),
    Right.INSTRUMENTS: Rule(
        "Change the register of instruments",
        _BUILDERS,
        f"An apprentice does not change the register of instruments. {_ASK}",
    ),
    Right.SHEETS: Rule("Change spec sheets", _BUILDERS, f"An apprentice does not change sheets. {_ASK}"),
    Right.PARTS: Rule(
        "Put parts on a job's list; say what came, what was fitted, spoilt or came wrong", _ALL
    ),
    Right.ORDER: Rule(
        "Order parts; change suppliers, their prices and the list of gear sets",
        _BUILDERS,
        f"An apprentice does not order. {_ASK}",
    ),
    Right.MONEY: Rule(
        "Write estimates, supplements and accounts; take down the customer's answers and payments",
        _BUILDERS,
        f"An apprentice does not write estimates or accounts. {_ASK}",
    ),
    Right.SCHEDULE: Rule(
        "Plan the week: make the plan, put work at a time or to a person, promise a date",
        _BUILDERS,
        f"An apprentice does not change the plan. {_ASK}",
    ),
    Right.PEOPLE: Rule(
        "Add people and let them go, set roles, reset passwords, end sessions",
        _OWNERS,
        "Only the owner lets people in and go. Ask the owner.",
    ),
    Right.SHOP: Rule(
        "The shop's name, units, usual ways, second factor; hours, machines, rates; the owner's page; "
        "leave or remove the demo",
        _OWNERS,
        "Only the owner sets how the shop works. Ask the owner.",
    ),
}


def shop_of(user: User) -> Shop:
    """The shop that a person works in.

    :raises Rejected: for a person without one.
    """
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    return user.shop


def may(user: User, right: Right, *, practice: bool = False) -> bool:
    """Whether an act is one of a person's; on a practice axle some are anybody's."""
    rule = RULES[right]
    return user.role in rule.roles or (practice and rule.on_practice)


def require_right(user: User, right: Right, *, practice: bool = False) -> None:
    """Refuse in words what a role does not allow.

    :raises Rejected: naming whom to ask.
    """
    require(may(user, right, practice=practice), RULES[right].refusal)


def require(allowed: bool, words: str) -> None:
    """Refuse in words what cannot be done."""
    if not allowed:
        raise Rejected(words)
