"""The languages in which words can be heard and read, as forms offer them."""

from django import forms

from tinfork.core.messages import Message
from tinfork.engines.synthesiser import languages


def spoken_languages() -> list[tuple[str, str]]:
    """Codes and names; before them that a language is found by itself."""
    return [("", Message("detect automatically")), *((one.code, one.name) for one in languages())]


def offer(field: forms.Field, choices: list[tuple[str, str]]) -> None:
    """Let a field offer what is only known at run time."""
    assert isinstance(field, forms.ChoiceField)
    field.choices = choices
