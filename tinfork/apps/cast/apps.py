from django.apps import AppConfig


class CastConfig(AppConfig):
    name = "tinfork.apps.cast"
