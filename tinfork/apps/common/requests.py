"""The type of requests from signed-in people."""

from django.http import HttpRequest

from tinfork.apps.people.models import User


class UserRequest(HttpRequest):
    """A request of a signed-in person (the middleware refuses all others)."""

    user: User
