from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "shop.bench"
    label = "bench"
