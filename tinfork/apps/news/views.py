"""Views of news, and of the activity of a production."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.news.actions import mark_read, set_mailing
from tinfork.apps.news.activity import activity_of
from tinfork.apps.news.models import News
from tinfork.apps.news.queries import MAILINGS, mailing_of, news_of
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.apps.produce.models import Production
from tinfork.core.messages import Message


def news(request: UserRequest) -> HttpResponse:
    """One's news, which are marked as read, and the mail settings."""
    rows = list(news_of(request.user))
    how = mailing_of(request.user)
    mark_read(request.user)
    context = {
        "rows": rows,
        "mailing": [(kind.value, kind.label, how[kind.value]) for kind in News.Kind],
        "ways": MAILINGS,
    }
    return render(request, "news/news.html", context)


@require_POST
def news_mailing(request: UserRequest) -> HttpResponse:
    """Save the mail settings."""
    set_mailing(request.user, {kind.value: request.POST.get(kind.value, "") for kind in News.Kind})
    messages.success(request, str(Message("Saved.")))
    return redirect("news")


def activity(request: UserRequest, pk: int) -> HttpResponse:
    """The activity of a production."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    context = {"production": production, "lines": activity_of(production)}
    return render(request, "news/activity.html", context)
