from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "shop.reports"
    label = "reports"
