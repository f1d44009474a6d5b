from django.apps import AppConfig


class GearingConfig(AppConfig):
    name = "shop.gearing"
    label = "shop_gearing"
    default_auto_field = "django.db.models.BigAutoField"
