"""The request every view gets once a person is signed in."""

from django.http import HttpRequest

from tinfork.apps.people.models import User


class UserRequest(HttpRequest):
    """A request of a signed-in person (the middleware lets no other through)."""

    user: User
