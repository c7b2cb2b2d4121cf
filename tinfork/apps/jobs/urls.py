"""Addresses of jobs."""

from django.urls import path

from tinfork.apps.jobs import views

urlpatterns = [
    path("", views.job_list, name="jobs"),
    path("<uuid:pk>/", views.job_panel, name="job"),
    path("<uuid:pk>/cancel", views.job_cancel, name="job_cancel"),
    path("<uuid:pk>/again", views.job_again, name="job_again"),
    path("<uuid:pk>/result", views.job_result, name="job_result"),
]
