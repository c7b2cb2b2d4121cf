from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "tinfork.apps.common"
