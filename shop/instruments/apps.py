from django.apps import AppConfig


class InstrumentsConfig(AppConfig):
    name = "shop.instruments"
    label = "instruments"
