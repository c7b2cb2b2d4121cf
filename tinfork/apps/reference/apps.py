from django.apps import AppConfig


class ReferenceConfig(AppConfig):
    name = "tinfork.apps.reference"
