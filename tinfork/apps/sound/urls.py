"""Addresses of takes."""

from django.urls import path

from tinfork.apps.sound import views

urlpatterns = [
    path("<int:pk>/sound", views.sound, name="take_sound"),
    path("<int:pk>/peaks/<int:level>", views.peaks, name="take_peaks"),
]
