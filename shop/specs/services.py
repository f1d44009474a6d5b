"""Changes to spec sheets. Jobs keep their own copies, so nothing that was built changes."""

from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.utils import timezone

from axle.errors import AxleError
from axle.spec.sheet import spec_keys
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right
from shop.specs import bridge
from shop.specs.models import SheetVersion, SpecSheet


def save_sheet(
    user: User, plain: dict[str, Any], sheet: SpecSheet | None = None, parent: SpecSheet | None = None
) -> SpecSheet:
    """Keep a sheet, new or changed, with all of its values, as one more version."""
    rules.require_right(user, Right.SHEETS)
    fields, values = bridge.rows(plain)
    with transaction.atomic():
        sheet = sheet or SpecSheet(
            shop=user.shop, parent=parent, parent_version=parent.version if parent else 0
        )
        for name, value in fields.items():
            setattr(sheet, name, value)
        sheet.save()
        kept = {value.key for value in values}
        for old in sheet.values.exclude(key__in=kept):
            old.delete()
        for value in values:
            known = sheet.values.filter(key=value.key).first()
            value.sheet, value.pk = sheet, known.pk if known else None
            value.save()
        keep_version(user, sheet)
    return sheet


def keep_version(user: User, sheet: SpecSheet) -> None:
    """Keep a sheet as it is now as its newest version, where it differs from the one before."""
    plain = bridge.plain(SpecSheet.objects.get(pk=sheet.pk))
    newest = sheet.versions.first()
    if newest is not None and newest.plain == plain:
        return
    sheet.version += 1
    sheet.save(update_fields=["version"])
    SheetVersion.objects.create(
        sheet=sheet, number=sheet.version, at=timezone.now(), by=user.called, plain=plain
    )


def offered(sheet: SpecSheet) -> dict[str, tuple[dict[str, Any] | None, dict[str, Any] | None]]:
    """What changed on a sheet's parent since it was looked at last: by key, what is here, what there."""
    parent = sheet.parent
    if parent is None or parent.version == sheet.parent_version:
        return {}
    before = parent.versions.filter(number=sheet.parent_version).first()
    then = before.plain["values"] if before else {}
    there, here = bridge.plain(parent)["values"], bridge.plain(sheet)["values"]
    changed = [key for key in spec_keys() if then.get(key) != there.get(key)]
    return {key: (here.get(key), there.get(key)) for key in changed if here.get(key) != there.get(key)}


def follow_parent(user: User, sheet: SpecSheet, keys: Sequence[str]) -> int:
    """Take named values over from the parent, and leave the rest of what was offered."""
    rules.require_right(user, Right.SHEETS)
    with transaction.atomic():
        held = SpecSheet.objects.select_for_update().get(pk=sheet.pk)
        offers = offered(held)
        unknown = [key for key in keys if key not in offers]
        if unknown or held.parent is None:
            raise AxleError(
                "sheet",
                given=f"“{unknown[0][:30]}”" if unknown else "no parent",
                wanted="a value that is offered",
            )
        plain = bridge.plain(held) | {"note": held.note}
        for key in keys:
            there = offers[key][1]
            if there is None:
                plain["values"].pop(key, None)
            else:
                plain["values"][key] = there
        held.parent_version = held.parent.version
        held.save(update_fields=["parent_version"])
        save_sheet(user, plain, held)
    return len(keys)
