"""Sign-up: an account and its studio in one step."""

from django import forms
from django.http import HttpRequest

from tinfork.apps.people.models import User


class StudioSignupForm(forms.Form):
    """Asks for the studio's name besides e-mail and password."""

    studio = forms.CharField(label="Studio", max_length=120, help_text="Your team, or your own name.")
    field_order = ["email", "password1", "studio"]

    def signup(self, request: HttpRequest, user: User) -> None:
        """Called once the account is made."""
        from tinfork.apps.people.actions import found_studio

        found_studio(name=self.cleaned_data["studio"], owner=user)
