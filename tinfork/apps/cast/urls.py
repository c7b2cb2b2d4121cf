"""Addresses of the cast."""

from django.urls import path

from tinfork.apps.cast import views

urlpatterns = [
    path("", views.cast_list, name="cast"),
    path("<int:pk>/face", views.face, name="face"),
    path("drawings/<int:pk>/picture", views.drawing_picture, name="drawing_picture"),
]
