"""The URLs of the site."""

from django.conf import settings
from django.urls import include, path

from tinfork.apps.common.language import messages_script
from tinfork.apps.people.views.site import no_mail

urlpatterns = [
    *([] if settings.HAS_MAIL else [path("account/password/reset/", no_mail)]),
    path("account/", include("allauth.account.urls")),
    path("account/two-factor/", include("allauth.mfa.urls")),
    path("account/sessions/", include("allauth.usersessions.urls")),
    path("", include("tinfork.apps.produce.urls")),
    path("", include("tinfork.apps.people.urls")),
    path("cast/", include("tinfork.apps.cast.urls")),
    path("", include("tinfork.apps.sound.urls")),
    path("productions/", include("tinfork.apps.script.urls")),
    path("productions/", include("tinfork.apps.pronounce.urls")),
    path("shots/", include("tinfork.apps.reading.urls")),
    path("shots/", include("tinfork.apps.desk.urls")),
    path("", include("tinfork.apps.reference.urls")),
    path("", include("tinfork.apps.handover.urls")),
    path("", include("tinfork.apps.review.urls")),
    path("", include("tinfork.apps.news.urls")),
    path("", include("tinfork.apps.help.urls")),
    path("jobs/", include("tinfork.apps.jobs.urls")),
    path("messages.js", messages_script, name="messages_script"),
]
handler400 = "tinfork.apps.common.errors.bad_request"
handler403 = "tinfork.apps.common.errors.forbidden"
handler404 = "tinfork.apps.common.errors.not_found"
handler500 = "tinfork.apps.common.errors.server_error"
