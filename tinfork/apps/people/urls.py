"""Addresses of people's own pages."""

from django.urls import path

from tinfork.apps.people import views

urlpatterns = [path("healthy", views.healthy, name="healthy")]
