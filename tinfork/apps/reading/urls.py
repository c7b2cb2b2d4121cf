"""URLs of a shot, except its Desk."""

from django.urls import path

from tinfork.apps.reading.views import alike, layout, sound, words

urlpatterns = [
    path("<int:pk>/", words.shot_detail, name="shot"),
    path("<int:pk>/background", layout.shot_background, name="shot_background"),
    path("<int:pk>/read", words.shot_read, name="shot_read"),
    path("<int:pk>/read/again", words.shot_read_again, name="shot_read_again"),
    path("<int:pk>/alike", alike.shot_alike, name="shot_alike"),
    path("<int:pk>/sounds", words.shot_sounds, name="shot_sounds"),
    path("<int:pk>/settings", words.shot_settings, name="shot_settings"),
    path("<int:pk>/cast", words.shot_cast, name="shot_cast"),
    path("<int:pk>/sound", sound.shot_sound, name="shot_sound"),
    path("<int:pk>/sound.json", sound.shot_sound_document, name="shot_sound_document"),
    path("<int:pk>/sound/edit", sound.shot_sound_edit, name="shot_sound_edit"),
    path("<int:pk>/mix", sound.shot_mix_file, name="shot_mix"),
    path("<int:pk>/peaks/<int:level>", sound.shot_peaks_level, name="shot_peaks"),
    path("<int:pk>/voices", sound.shot_voices, name="shot_voices"),
    path("<int:pk>/reel", sound.shot_reel, name="shot_reel"),
]
