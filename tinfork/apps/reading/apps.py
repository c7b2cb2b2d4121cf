from django.apps import AppConfig


class ReadingConfig(AppConfig):
    name = "tinfork.apps.reading"
