"""Addresses of the help."""

from django.urls import path

from tinfork.apps.help import views

urlpatterns = [
    path("help/", views.help_index, name="help"),
    path("help/<slug:slug>", views.help_chapter, name="help_chapter"),
    path("tour", views.tour_step, name="tour"),
    path("tour/leave", views.tour_leave, name="tour_leave"),
    path("sample", views.sample, name="sample"),
]
