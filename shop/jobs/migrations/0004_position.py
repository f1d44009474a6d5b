"""What is set in an axle besides packs is more than adjusters: one table takes it all."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """Rename the adjusters' table and let it hold other settings."""

    dependencies = [("jobs", "0003_append_only")]
    operations = [
        migrations.RemoveConstraint("adjusterposition", "adjuster_once_per_assembly"),
        migrations.RenameModel("AdjusterPosition", "Position"),
        migrations.RenameField("position", "holes", "value"),
        migrations.AddConstraint(
            "position",
            models.UniqueConstraint(fields=["assembly", "place"], name="position_once_per_assembly"),
        ),
    ]
