"""URLs of exports."""

from django.urls import path

from tinfork.apps.handover import importviews, setviews, views

urlpatterns = [
    path("shots/<int:pk>/handover", views.handover, name="handover"),
    path("shots/<int:pk>/handover/preview", views.preview, name="handover_preview"),
    path("shots/<int:pk>/handover/make", views.handover_make, name="handover_make"),
    path("shots/<int:pk>/handover/<slug:kind>", views.handover_file, name="handover_file"),
    path("shots/<int:pk>/import", importviews.shot_import, name="shot_import"),
    path("shots/<int:pk>/set", setviews.at_the_set, name="at_the_set"),
    path("shots/<int:pk>/set/link", setviews.set_link, name="set_link"),
    path("shots/<int:pk>/set/withdraw", setviews.set_withdraw, name="set_withdraw"),
    path("set/<str:token>/", setviews.set_by_link, name="set_by_link"),
    path("set/<str:token>/sound", setviews.set_sound, name="set_sound"),
    path("productions/<int:pk>/pack", views.production_pack, name="production_pack"),
    path("productions/<int:pk>/dials.json", views.production_dials, name="production_dials"),
    path("productions/<int:pk>/dials/in", views.production_dials_in, name="production_dials_in"),
    path("productions/unpack", views.production_unpack, name="production_unpack"),
    path("productions/<int:pk>/handover", views.handover_all, name="handover_all"),
    path("productions/<int:pk>/handover/make", views.handover_all_make, name="handover_all_make"),
]
