from django.apps import AppConfig


class PlanningConfig(AppConfig):
    name = "shop.planning"
    default_auto_field = "django.db.models.BigAutoField"
