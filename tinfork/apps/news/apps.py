from django.apps import AppConfig


class NewsConfig(AppConfig):
    name = "tinfork.apps.news"
