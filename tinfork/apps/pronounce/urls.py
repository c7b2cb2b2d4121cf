"""Addresses of pronunciations."""

from django.urls import path

from tinfork.apps.pronounce import views

urlpatterns = [
    path("<int:pk>/pronunciations", views.pronunciations, name="pronunciations"),
    path("<int:pk>/pronunciations/set", views.pronunciation_set, name="pronunciation_set"),
    path("<int:pk>/pronunciations/say", views.pronunciation_say, name="pronunciation_say"),
]
