"""The Desk's addresses."""

from django.urls import path

from tinfork.apps.desk import views

urlpatterns = [
    path("<int:pk>/desk", views.desk, name="desk"),
    path("<int:pk>/dials", views.shot_dials, name="shot_dials"),
    # Browsers store unsent edits under this URL, also across updates of the site: never change it.
    path("<int:pk>/mouths", views.shot_edit, name="shot_edit"),
    path("<int:pk>/changes", views.shot_changes, name="shot_changes"),
    path("<int:pk>/versions", views.shot_versions, name="shot_versions"),
    path("<int:pk>/versions/<int:version>", views.shot_version, name="shot_version"),
    path("<int:pk>/why", views.shot_why, name="shot_why"),
]
