import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("jobs", "0015_history_is_kept"),
    ]

    operations = [
        migrations.CreateModel(
            name="JobFigure",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("quantity", models.CharField(max_length=30)),
                ("value", models.FloatField()),
                ("std", models.FloatField()),
                ("used", models.BooleanField(default=True)),
                ("at", models.DateTimeField()),
                (
                    "job",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="figures", to="jobs.job"
                    ),
                ),
                (
                    "switched_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "indexes": [models.Index(fields=["quantity", "used"], name="jobs_jobfig_quantit_idx")],
                "constraints": [
                    models.UniqueConstraint(fields=("job", "quantity"), name="one_figure_of_a_kind")
                ],
            },
        ),
    ]
