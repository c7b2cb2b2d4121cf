"""Addresses of takes and story reels."""

from django.urls import path

from tinfork.apps.reading.views.drop import production_drop
from tinfork.apps.sound.views import files, library, take

urlpatterns = [
    path("productions/<int:pk>/takes", library.takes, name="takes"),
    path("productions/<int:pk>/drop", production_drop, name="production_drop"),
    path("productions/<int:pk>/takes/upload", library.take_upload, name="take_upload"),
    path("productions/<int:pk>/takes/speak", library.takes_speak, name="takes_speak"),
    path("productions/<int:pk>/record", library.record, name="record"),
    path("productions/<int:pk>/reels", library.reel_upload, name="reel_upload"),
    path("reels/<int:pk>/film", files.film, name="reel_film"),
    path("reels/<int:pk>/delete", library.reel_delete, name="reel_delete"),
    path("takes/<int:pk>/", take.take, name="take"),
    path("takes/<int:pk>/sound", files.sound, name="take_sound"),
    path("takes/<int:pk>/peaks/<int:level>", files.peaks, name="take_peaks"),
    path("takes/<int:pk>/edit", take.take_edit, name="take_edit"),
    path("takes/<int:pk>/delete", take.take_delete, name="take_delete"),
    path("takes/<int:pk>/lines", take.take_lines, name="take_lines"),
    path("takes/<int:pk>/find", take.take_find, name="take_find"),
    path("takes/<int:pk>/use/<int:line>", take.take_use, name="take_use"),
    path("takes/<int:pk>/replace", take.take_replace, name="take_replace"),
    path("takes/<int:pk>/send", take.take_send, name="take_send"),
]
