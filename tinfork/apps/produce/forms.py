"""Forms of productions and shots."""

from typing import Any

from django import forms

from tinfork.apps.cast.models import Character
from tinfork.apps.common.languages import offer, spoken_languages
from tinfork.apps.people.access import visible
from tinfork.apps.people.models import Studio, User
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.produce.planning import status_names
from tinfork.core.clock import STANDARD_RATES
from tinfork.core.messages import Message

_RATES = [(name, Message("{name} frames a second", name=name)) for name in STANDARD_RATES]
_SIZES = [
    ("1920x1080", "1920 × 1080"),
    ("3840x2160", "3840 × 2160"),
    ("1280x720", "1280 × 720"),
    ("2048x1152", "2048 × 1152"),
    ("1080x1080", Message("1080 × 1080 (square)")),
    ("1080x1920", Message("1080 × 1920 (upright)")),
]


class ProductionForm(forms.Form):
    """Name, frame rate and picture size of a production."""

    name = forms.CharField(max_length=120, label=Message("Name"), widget=forms.TextInput(attrs={"autofocus": True}))
    rate = forms.ChoiceField(choices=_RATES, initial="24", label=Message("Frame rate"))
    size = forms.ChoiceField(choices=_SIZES, label=Message("Picture size"))
    language = forms.ChoiceField(
        label=Message("Language"),
        required=False,
        help_text=Message("Of lines and recordings, unless you say otherwise."),
    )

    def __init__(self, *args: Any, studio: Studio, production: Production | None = None, **kwargs: Any) -> None:
        if production:
            size = f"{production.width}x{production.height}"
            kwargs["initial"] = {"name": production.name, "rate": production.rate.label, "size": size}
            kwargs["initial"]["language"] = production.language
        super().__init__(*args, **kwargs)
        self.studio, self.production = studio, production
        offer(self.fields["language"], spoken_languages())
        if production and size not in dict(_SIZES):
            field = self.fields["size"]
            assert isinstance(field, forms.ChoiceField)
            field.choices = [(size, size.replace("x", " × ")), *_SIZES]

    def clean_name(self) -> str:
        """Refuse a name that is taken."""
        name: str = self.cleaned_data["name"]
        others = Production.objects.filter(studio=self.studio, name=name)
        if self.production:
            others = others.exclude(pk=self.production.pk)
        if others.exists():
            raise forms.ValidationError(Message("“{name}” exists already. Choose another name.", name=name))
        return name

    def clean_size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        width, height = self.cleaned_data["size"].split("x")
        return int(width), int(height)


class ShotSettingsForm(forms.Form):
    """A shot's name and the number of its first frame."""

    name = forms.CharField(max_length=80, label=Message("Shot"))
    first_frame = forms.IntegerField(min_value=0, max_value=999_999, label=Message("First frame"))

    def __init__(self, *args: Any, shot: Shot, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.shot = shot

    def clean_name(self) -> str:
        """Refuse a name that is taken."""
        name: str = self.cleaned_data["name"]
        if Shot.objects.filter(production=self.shot.production, name=name).exclude(pk=self.shot.pk).exists():
            raise forms.ValidationError(
                Message("This production has a shot “{name}” already. Choose another name.", name=name)
            )
        return name


class ShotForm(forms.Form):
    """A new shot: its name, characters, and the number of the first frame."""

    name = forms.CharField(
        max_length=80, label=Message("Shot"), widget=forms.TextInput(attrs={"placeholder": Message("030 The oven")})
    )
    character = forms.ModelChoiceField(Character.objects.none(), label=Message("Who speaks"), empty_label=None)
    first_frame = forms.IntegerField(min_value=0, max_value=999_999, initial=1, label=Message("First frame"))

    def __init__(self, *args: Any, production: Production, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.production = production
        field = self.fields["character"]
        assert isinstance(field, forms.ModelChoiceField)
        field.queryset = visible(Character, user).filter(studio=production.studio, archived_at=None)

    def clean_name(self) -> str:
        """Refuse a name that is taken."""
        name: str = self.cleaned_data["name"]
        if Shot.objects.filter(production=self.production, name=name).exists():
            raise forms.ValidationError(
                Message("This production has a shot “{name}” already. Choose another name.", name=name)
            )
        return name


class PlanForm(forms.Form):
    """Changes of selected shots; empty fields change nothing.

    `before` or `place` moves them.
    """

    shots = forms.ModelMultipleChoiceField(Shot.objects.none(), label=Message("Shots"))
    status = forms.ChoiceField(label=Message("Status"), required=False)
    doer = forms.ChoiceField(label=Message("Who"), required=False)
    due = forms.DateField(label=Message("Due"), required=False, widget=forms.DateInput(attrs={"type": "date"}))
    no_due = forms.BooleanField(label=Message("No date"), required=False)
    priority = forms.ChoiceField(label=Message("Priority"), required=False)
    sequence = forms.ChoiceField(label=Message("Sequence"), required=False)
    new_sequence = forms.CharField(label=Message("New sequence"), required=False, max_length=80)
    place = forms.ChoiceField(
        label=Message("Place"),
        required=False,
        choices=[
            ("", Message("no change")),
            ("first", Message("first")),
            ("up", Message("one up")),
            ("down", Message("one down")),
            ("last", Message("last")),
        ],
    )
    before = forms.ModelChoiceField(Shot.objects.none(), required=False)

    def __init__(self, *args: Any, production: Production, **more: Any) -> None:
        super().__init__(*args, **more)
        for name in ("shots", "before"):
            field = self.fields[name]
            assert isinstance(field, forms.ModelChoiceField)
            field.queryset = production.shots.all()
        leave = ("", Message("no change"))
        people = sorted(production.studio.members.all(), key=lambda person: person.called.lower())
        choices = {
            "status": list(status_names(production.studio).items()),
            "doer": [("nobody", Message("nobody")), *((str(one.pk), one.called) for one in people)],
            "priority": [(str(value), label) for value, label in Shot.Priority.choices],
            "sequence": [("none", Message("none")), *((str(one.pk), one.name) for one in production.sequences.all())],
        }
        for name, offered in choices.items():
            field = self.fields[name]
            assert isinstance(field, forms.ChoiceField)
            field.choices = [leave, *offered]
        self.fields["shots"].error_messages["required"] = Message("Choose at least one shot.")
