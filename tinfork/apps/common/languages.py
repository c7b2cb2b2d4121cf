"""The languages in which words can be heard and read, as forms offer them."""

from django import forms
from django.utils.translation import gettext

from tinfork.core.messages import Message
from tinfork.engines.synthesiser import languages


def spoken_languages() -> list[tuple[str, str]]:
    """Codes and names; before them that a language is found by itself."""
    return [("", Message("detect automatically")), *named_languages()]


def named_languages() -> list[tuple[str, str]]:
    """Every language of the synthesiser: its code and its name, as Django knows it in the reader's language."""
    out = []
    for one in languages():
        name, _, place = one.name.partition(" (")
        out.append((one.code, f"{gettext(name)} ({place}" if place else gettext(name)))
    return out


def offer(field: forms.Field, choices: list[tuple[str, str]]) -> None:
    """Let a field offer what is only known at run time."""
    assert isinstance(field, forms.ChoiceField)
    field.choices = choices
