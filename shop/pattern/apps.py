from django.apps import AppConfig


class PatternConfig(AppConfig):
    name = "shop.pattern"
    label = "pattern"
