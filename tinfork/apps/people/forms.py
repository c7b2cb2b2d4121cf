"""Sign-up: an account and its studio in one step."""

from typing import Any

from allauth.core import context
from django import forms
from django.http import HttpRequest

from tinfork.apps.people.models import User
from tinfork.core.messages import Message


class StudioSignupForm(forms.Form):
    """Asks for the studio's name besides e-mail and password, unless an invitation names one."""

    studio = forms.CharField(
        label=Message("Studio"), max_length=120, help_text=Message("Your team's name, or your own.")
    )
    field_order = ["email", "password1", "studio"]

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        from tinfork.apps.people.invitations import invitation_of

        super().__init__(*args, **kwargs)
        # None where a form is made without a request (documentation, tests of fields).
        invitation = invitation_of(context.request) if context.request else None
        if invitation and invitation.studio:
            del self.fields["studio"]

    def signup(self, request: HttpRequest, user: User) -> None:
        """Called once the account is made."""
        from tinfork.apps.people.actions import found_studio
        from tinfork.apps.people.invitations import accept, invitation_of

        invitation = invitation_of(request)
        if not (invitation and accept(invitation, user)):
            found_studio(name=self.cleaned_data.get("studio") or user.email, owner=user)
