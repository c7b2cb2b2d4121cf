from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "tinfork.apps.desk"
