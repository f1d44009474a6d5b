from django.apps import AppConfig


class StockConfig(AppConfig):
    name = "shop.stock"
    label = "stock"
