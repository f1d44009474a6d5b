from django.apps import AppConfig


class ProcedureConfig(AppConfig):
    name = "shop.procedure"
    label = "procedure"
