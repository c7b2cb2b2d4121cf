from django.apps import AppConfig


class ReviewConfig(AppConfig):
    name = "tinfork.apps.review"
