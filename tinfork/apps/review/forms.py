"""Forms of review links and remarks."""

from typing import Any

from django import forms

from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.review.models import MAX_REMARK_CHARACTERS
from tinfork.core.messages import Message


class LinkForm(forms.Form):
    """A link: for whom, which shots, how long, with which password."""

    for_whom = forms.CharField(
        label=Message("Who is it for"),
        max_length=80,
        required=False,
        help_text=Message("Shown on the review page."),
    )
    shots = forms.ModelMultipleChoiceField(
        Shot.objects.none(),
        label=Message("Shots"),
        widget=forms.SelectMultiple(attrs={"size": 6}),
        help_text=Message("Ctrl click adds one, Shift click a row of them."),
    )
    days = forms.TypedChoiceField(
        label=Message("Opens for"),
        coerce=int,
        choices=[
            (14, Message("two weeks")),
            (2, Message("two days")),
            (90, Message("three months")),
            (0, Message("always")),
        ],
    )
    password = forms.CharField(
        label=Message("Password"),
        max_length=200,
        required=False,
        widget=forms.TextInput(attrs={"autocomplete": "off"}),
        help_text=Message("Optional. Send it separately from the link."),
    )

    is_newest = forms.BooleanField(label=Message("Always show the latest state"), required=False)
    burns_name = forms.BooleanField(label=Message("Burn their name into the picture"), required=False)

    def __init__(self, *args: Any, production: Production, **more: Any) -> None:
        super().__init__(*args, **more)
        shots = production.shots.filter(soundtrack__is_read=True)
        field = self.fields["shots"]
        assert isinstance(field, forms.ModelMultipleChoiceField)
        field.queryset = shots
        if not self.initial.get("shots"):
            self.initial["shots"] = [shot.pk for shot in shots]

    def clean(self) -> dict[str, Any]:
        """Require a name if it is to be burnt in."""
        data = super().clean() or {}
        if data.get("burns_name") and not data.get("for_whom"):
            self.add_error("for_whom", Message("Say who it is for, so that it can be written on the picture."))
        return data


class RemarkForm(forms.Form):
    """A remark: text, and the frames it is about, or the remark it answers."""

    text = forms.CharField(max_length=MAX_REMARK_CHARACTERS, widget=forms.Textarea(attrs={"rows": 2}))
    frame = forms.IntegerField(required=False, min_value=0, max_value=10_000_000)
    last = forms.IntegerField(required=False, min_value=0, max_value=10_000_000)
    answers_to = forms.IntegerField(required=False, min_value=1, max_value=2**31 - 1, widget=forms.HiddenInput)
