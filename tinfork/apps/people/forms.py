"""Forms of accounts, studios and invitations."""

from collections.abc import Sequence
from typing import Any

from allauth.core import context
from django import forms
from django.http import HttpRequest

from tinfork.apps.people.models import Membership, User
from tinfork.core.messages import Message

#: The size limit of a person's picture in bytes.
MAX_PORTRAIT_BYTES = 10 * 2**20


class StudioSignupForm(forms.Form):
    """Asks for the studio's name besides email and password, unless there is an invitation to one."""

    studio = forms.CharField(
        label=Message("Studio"), max_length=120, help_text=Message("Your team's name, or your own.")
    )
    field_order = ["email", "password1", "studio"]

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        from tinfork.apps.people.invitations import invitation_of

        super().__init__(*args, **kwargs)
        # None if the form is made without a request (documentation, tests of fields).
        invitation = invitation_of(context.request) if context.request else None
        if invitation and invitation.studio:
            del self.fields["studio"]

    def signup(self, request: HttpRequest, user: User) -> None:
        """Called after the account was created."""
        from tinfork.apps.people.actions import found_studio
        from tinfork.apps.people.invitations import accept, invitation_of

        invitation = invitation_of(request)
        if not (invitation and accept(invitation, user)):
            found_studio(name=self.cleaned_data.get("studio") or user.email, owner=user)


class StudioForm(forms.Form):
    """A studio's name."""

    name = forms.CharField(label=Message("Name of the studio"), max_length=120)


class InvitationForm(forms.Form):
    """An invitation: for whom, and with which role."""

    role = forms.ChoiceField(label=Message("Role"), initial=Membership.Role.ANIMATOR)
    email = forms.EmailField(label=Message("Email"), required=False)
    days = forms.TypedChoiceField(
        label=Message("Expires in"),
        coerce=int,
        choices=[(14, Message("two weeks")), (2, Message("two days")), (90, Message("three months"))],
    )
    is_for_many = forms.BooleanField(label=Message("Can be used more than once"), required=False)

    def __init__(self, *args: Any, roles: Sequence[Membership.Role], has_mail: bool, **more: Any) -> None:
        super().__init__(*args, **more)
        role = self.fields["role"]
        assert isinstance(role, forms.ChoiceField)
        role.choices = [(one.value, one.label) for one in roles]
        if not has_mail:
            del self.fields["email"]
        else:
            self.fields["email"].help_text = Message("The link is mailed there. Leave empty to send it yourself.")

    def clean(self) -> dict[str, Any]:
        """A mailed invitation is for one person."""
        data = super().clean() or {}
        if data.get("email") and data.get("is_for_many"):
            raise forms.ValidationError(Message("A mailed invitation is for one person. Leave the email empty."))
        return data


class AboutMeForm(forms.Form):
    """A person's name and picture."""

    name = forms.CharField(
        label=Message("Name"),
        max_length=80,
        required=False,
        widget=forms.TextInput(attrs={"autocomplete": "name"}),
        help_text=Message("Your studio sees it beside your work. If empty: the first part of your email."),
    )
    picture = forms.FileField(
        label=Message("Picture"), required=False, widget=forms.FileInput(attrs={"accept": "image/*"})
    )

    def clean_picture(self) -> Any:
        """Refuse a file that is too large; its content is checked later."""
        picture = self.cleaned_data["picture"]
        if picture and picture.size > MAX_PORTRAIT_BYTES:
            raise forms.ValidationError(Message("This picture is larger than 10 MB. Save it smaller."))
        return picture


class DeleteForm(forms.Form):
    """The password, to confirm the deletion."""

    password = forms.CharField(
        label=Message("Your password"), widget=forms.PasswordInput(attrs={"autocomplete": "current-password"})
    )

    def __init__(self, *args: Any, user: User, **more: Any) -> None:
        super().__init__(*args, **more)
        self.user = user

    def clean_password(self) -> str:
        """Check the password."""
        password: str = self.cleaned_data["password"]
        if not self.user.check_password(password):
            raise forms.ValidationError(Message("This is not your password."))
        return password
