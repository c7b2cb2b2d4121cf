"""Addresses of what leaves."""

from django.urls import path

from tinfork.apps.handover import views

urlpatterns = [
    path("<int:pk>/handover", views.handover, name="handover"),
    path("<int:pk>/sheet.csv", views.sheet_csv, name="sheet_csv"),
    path("<int:pk>/reading.json", views.reading_json, name="reading_json"),
    path("<int:pk>/weights.json", views.weights_json, name="weights_json"),
    path("<int:pk>/pictures", views.pictures, name="pictures"),
]
