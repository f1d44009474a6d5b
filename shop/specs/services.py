"""Changes to spec sheets. Jobs keep their own copies, so nothing that was built changes."""

from typing import Any

from django.db import transaction

from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right
from shop.specs import bridge
from shop.specs.models import SpecSheet


def save_sheet(user: User, plain: dict[str, Any], sheet: SpecSheet | None = None) -> SpecSheet:
    """Keep a sheet, new or changed, with all of its values."""
    rules.require_right(user, Right.SHEETS)
    fields, values = bridge.rows(plain)
    with transaction.atomic():
        sheet = sheet or SpecSheet(shop=user.shop)
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
    return sheet
