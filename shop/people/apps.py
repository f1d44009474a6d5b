from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "shop.people"
    label = "people"
