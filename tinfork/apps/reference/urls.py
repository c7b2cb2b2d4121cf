"""Addresses of reference films."""

from django.urls import path

from tinfork.apps.reference import views

urlpatterns = [
    path("shots/<int:pk>/reference", views.reference, name="reference"),
    path("shots/<int:pk>/reference/begin", views.reference_begin, name="reference_begin"),
    path("shots/<int:pk>/reference/follow", views.reference_follow, name="reference_follow"),
    path("shots/<int:pk>/reference/stop", views.reference_stop, name="reference_stop"),
    path("shots/<int:pk>/reference/delete", views.reference_delete, name="reference_delete"),
    path("references/<int:pk>/film", views.reference_film, name="reference_film"),
]
