"""The languages that can be heard and read, as choices of forms."""

from django import forms
from django.utils.translation import gettext

from tinfork.core.messages import Message
from tinfork.engines.synthesiser import languages


def spoken_languages() -> list[tuple[str, str]]:
    """Codes and names, after the choice of automatic detection."""
    return [("", Message("detect automatically")), *named_languages()]


def named_languages() -> list[tuple[str, str]]:
    """All languages of the synthesiser: their codes, and their names in the reader's language, from Django."""
    out = []
    for one in languages():
        name, _, place = one.name.partition(" (")
        out.append((one.code, f"{gettext(name)} ({place}" if place else gettext(name)))
    return out


def offer(field: forms.Field, choices: list[tuple[str, str]]) -> None:
    """Set the choices of a field that are only known at run time."""
    assert isinstance(field, forms.ChoiceField)
    field.choices = choices
