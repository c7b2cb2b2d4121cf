"""Addresses of scripts."""

from django.urls import path

from tinfork.apps.script import views

urlpatterns = [
    path("<int:pk>/script", views.script, name="script"),
    path("<int:pk>/script/preview", views.script_preview, name="script_preview"),
    path("<int:pk>/script/apply", views.script_apply, name="script_apply"),
]
