from django.apps import AppConfig


class SpecsConfig(AppConfig):
    name = "shop.specs"
    label = "specs"
