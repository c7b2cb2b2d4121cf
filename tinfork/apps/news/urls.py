"""Addresses of news."""

from django.urls import path

from tinfork.apps.news import views

urlpatterns = [
    path("news", views.news, name="news"),
    path("news/mailing", views.news_mailing, name="news_mailing"),
    path("productions/<int:pk>/activity", views.activity, name="activity"),
]
