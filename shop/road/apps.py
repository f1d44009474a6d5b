from django.apps import AppConfig


class RoadConfig(AppConfig):
    name = "shop.road"
    label = "shop_road"
    default_auto_field = "django.db.models.BigAutoField"
