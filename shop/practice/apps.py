from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "shop.practice"
    label = "practice"
