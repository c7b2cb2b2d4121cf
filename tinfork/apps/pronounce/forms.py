"""The form of a pronunciation."""

from django import forms


class PronunciationForm(forms.Form):
    """A word and its sounds as typed."""

    language = forms.RegexField(r"[A-Za-z0-9-]+", max_length=20)
    word = forms.CharField(max_length=120)
    sounds = forms.CharField(max_length=400, required=False)
