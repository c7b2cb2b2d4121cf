from django.apps import AppConfig


class PronounceConfig(AppConfig):
    name = "tinfork.apps.pronounce"
