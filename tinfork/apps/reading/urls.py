"""Addresses of a shot before its Desk."""

from django.urls import path

from tinfork.apps.reading import views

urlpatterns = [
    path("<int:pk>/", views.shot_detail, name="shot"),
    path("<int:pk>/read", views.shot_read, name="shot_read"),
]
