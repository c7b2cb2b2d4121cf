from django.apps import AppConfig


class SoundConfig(AppConfig):
    name = "tinfork.apps.sound"
