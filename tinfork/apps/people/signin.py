"""Signing in. Apart from sign-up, whose form the library's own forms are built on."""

from typing import Any

from allauth.account.forms import LoginForm


class SignInForm(LoginForm):  # type: ignore[misc]
    """Email and password; what to do about a forgotten one is said by the page, which knows whether there is mail."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["password"].help_text = ""
