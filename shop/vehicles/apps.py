from django.apps import AppConfig


class VehiclesConfig(AppConfig):
    name = "shop.vehicles"
    label = "vehicles"
    default_auto_field = "django.db.models.BigAutoField"
