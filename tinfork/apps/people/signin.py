"""The sign-in form. It is not in `forms.py`, since the library's own forms derive from the sign-up form there."""

from typing import Any

from allauth.account.forms import LoginForm


class SignInForm(LoginForm):  # type: ignore[misc]
    """Email and password; the help for a forgotten password is on the page, which knows whether mail is available."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["password"].help_text = ""
