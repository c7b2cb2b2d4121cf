"""Addresses of what leaves."""

from django.urls import path

from tinfork.apps.handover import views

urlpatterns = [
    path("shots/<int:pk>/handover", views.handover, name="handover"),
    path("shots/<int:pk>/handover/preview", views.preview, name="handover_preview"),
    path("shots/<int:pk>/handover/make", views.handover_make, name="handover_make"),
    path("shots/<int:pk>/handover/<slug:kind>", views.handover_file, name="handover_file"),
    path("productions/<int:pk>/handover", views.handover_all, name="handover_all"),
    path("productions/<int:pk>/handover/make", views.handover_all_make, name="handover_all_make"),
]
