from django.apps import AppConfig


class NoiseConfig(AppConfig):
    name = "shop.noise"
    label = "shop_noise"
    default_auto_field = "django.db.models.BigAutoField"
