"""Addresses of productions."""

from django.urls import path

from tinfork.apps.produce import boardviews, views

urlpatterns = [
    path("", views.production_list, name="productions"),
    path("productions/new", views.production_new, name="production_new"),
    path("productions/<int:pk>/", views.production_detail, name="production"),
    path("productions/<int:pk>/shots", views.production_shots, name="production_shots"),
    path("productions/<int:pk>/board", boardviews.board, name="board"),
    path("productions/<int:pk>/board/plan", boardviews.board_plan, name="board_plan"),
    path("studios/<int:pk>/statuses", boardviews.status_rename, name="status_rename"),
    path("shots/<int:pk>/moving.webp", boardviews.shot_moving, name="shot_moving"),
    path("productions/<int:pk>/edit", views.production_edit, name="production_edit"),
    path("productions/<int:pk>/archive", views.production_archive, name="production_archive"),
    path("shots/<int:pk>/archive", views.shot_archive, name="shot_archive"),
    path("archive", views.archive, name="archive"),
    path("archive/productions/<int:pk>", views.archived_production, name="archived_production"),
    path("archive/shots/<int:pk>", views.archived_shot, name="archived_shot"),
]
