from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "tinfork.apps.people"
