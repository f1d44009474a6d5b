"""Each shop gets an identity of its own; the demo shop of before is known as one."""

import uuid

from django.conf import settings
from django.db import migrations, models


def identify(apps, schema_editor):
    """One identity a shop, and the demo's sign."""
    Shop = apps.get_model("people", "Shop")
    for shop in Shop.objects.all():
        shop.identity = uuid.uuid4()
        shop.is_demo = shop.name == "Obere Werkstatt" and shop.people.filter(username="ines").exists()
        # Until now one setting told every shop's clock.
        shop.time_zone = settings.TIME_ZONE
        shop.save(update_fields=["identity", "is_demo", "time_zone"])


class Migration(migrations.Migration):

    dependencies = [
        ("people", "0003_accounts"),
    ]

    operations = [
        migrations.RunPython(identify, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="shop",
            name="identity",
            field=models.UUIDField(default=uuid.uuid4, editable=False, unique=True),
        ),
    ]
