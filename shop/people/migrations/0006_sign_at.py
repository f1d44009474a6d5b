from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0005_shops")]

    operations = [
        migrations.AddField(
            model_name="shop",
            name="sign_at",
            field=models.DecimalField(decimal_places=1, default="95.0", max_digits=3),
        ),
    ]
