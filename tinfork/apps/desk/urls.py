"""The Desk's address."""

from django.urls import path

from tinfork.apps.desk import views

urlpatterns = [path("<int:pk>/desk", views.desk, name="desk")]
