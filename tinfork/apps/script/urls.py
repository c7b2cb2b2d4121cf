"""Addresses of scripts."""

from django.urls import path

from tinfork.apps.script import views

urlpatterns = [
    path("<int:pk>/script", views.script, name="script"),
    path("<int:pk>/script/look", views.script_look, name="script_look"),
    path("<int:pk>/script/lay", views.script_lay, name="script_lay"),
]
