from django.apps import AppConfig


class ScriptConfig(AppConfig):
    name = "tinfork.apps.script"
