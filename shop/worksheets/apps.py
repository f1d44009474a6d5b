from django.apps import AppConfig


class WorksheetsConfig(AppConfig):
    name = "shop.worksheets"
    label = "worksheets"
