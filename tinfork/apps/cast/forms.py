"""What people may send about the cast."""

from typing import Any

from django import forms

from tinfork.apps.cast.models import Part
from tinfork.core.mouths.starter import STARTERS
from tinfork.core.mouths.style import KINDS, MOODS, WEIGHTS, Ink, Mood, Style
from tinfork.engines.limits import MAX_FACE_BYTES, MAX_PICTURES

_PICTURES = ".png,.svg,.webp,.gif,.tif,.tiff,.jpg,.jpeg,.ora"
_INKS = [(0, "any"), (1, "blue"), (2, "plum"), (3, "moss"), (4, "ochre"), (5, "pine"), (6, "chestnut")]


class NameField(forms.CharField):
    """A name in any alphabet, on one line."""

    def __init__(self, **more: Any) -> None:
        super().__init__(max_length=80, **more)

    def to_python(self, value: Any) -> str:
        """Without line ends and unprintable characters."""
        return "".join(c for c in super().to_python(value) or "" if c.isprintable())


class CharacterForm(forms.Form):
    """A character: name, colour, face."""

    name = NameField(label="Name")
    ink = forms.TypedChoiceField(label="Colour", choices=_INKS, coerce=int, initial=0)
    face = forms.FileField(
        label="Face",
        required=False,
        help_text="PNG, JPEG, WebP or SVG. Leave empty to show only the mouth.",
        widget=forms.ClearableFileInput(attrs={"accept": ".png,.jpg,.jpeg,.webp,.svg"}),
    )

    def clean_face(self) -> Any:
        """Too large a file is said at once; what is in it, by the job that opens it."""
        return _not_too_large(self.cleaned_data["face"])


def _not_too_large(face: Any) -> Any:
    if face and face.size > MAX_FACE_BYTES:
        raise forms.ValidationError(f"The face is larger than {MAX_FACE_BYTES // 2**20} MB. Save it smaller.")
    return face


class SetFaceForm(forms.Form):
    """The face picture of a set of mouths."""

    face = forms.FileField(
        label="Face picture",
        error_messages={"required": "Choose the face picture: PNG, JPEG, WebP or SVG."},
        widget=forms.FileInput(attrs={"accept": ".png,.jpg,.jpeg,.webp,.svg", "class": "form-control form-control-sm"}),
    )

    def clean_face(self) -> Any:
        """Too large a file is said at once; what is in it, by the job that opens it."""
        return _not_too_large(self.cleaned_data["face"])


class NameForm(forms.Form):
    """A name alone."""

    name = NameField(label="Name")


class SetForm(forms.Form):
    """A new set: its name, and whether it begins as a copy."""

    name = NameField(label="Name")
    copy = forms.BooleanField(label="Copy this set", required=False)


class PartForm(forms.Form):
    """Another part of the face."""

    name = NameField(label="Name")
    kind = forms.ChoiceField(label="Kind", choices=[c for c in Part.Kind.choices if c[0] != Part.Kind.MOUTH])


class DrawingForm(forms.Form):
    """What a drawing is called and how it is reached."""

    number = forms.IntegerField(label="Number", min_value=0, max_value=9999)
    name = NameField(label="Name")
    key = forms.CharField(label="Key", max_length=1, required=False)
    size = forms.TypedChoiceField(
        label="For", choices=[(0, "any loudness"), (-1, "quiet or short"), (1, "loud or long")], coerce=int
    )
    is_hidden = forms.BooleanField(label="Hidden: never used automatically", required=False)
    revision = forms.IntegerField(widget=forms.HiddenInput)

    def clean_key(self) -> str:
        """Keys are small letters and figures."""
        return str(self.cleaned_data["key"]).lower()


def checked_files(files: list[Any]) -> list[Any]:
    """Uploaded pictures, none empty and not too many; raises `ValidationError`."""
    if not files:
        raise forms.ValidationError("Choose the drawings: PNG, SVG, WebP, GIF, TIFF, JPEG or OpenRaster files.")
    if len(files) > MAX_PICTURES:
        raise forms.ValidationError(
            f"These are {len(files)} files; the limit is {MAX_PICTURES} at once. Nothing was added."
        )
    return files


class StarterForm(forms.Form):
    """The look of a starter chart."""

    drawings = forms.TypedChoiceField(
        label="Drawings", coerce=int, choices=[(n, str(n)) for n in STARTERS], initial=14,
    )  # fmt: skip
    kind = forms.ChoiceField(label="Face", choices=[(k, k) for k in KINDS], initial="soft")
    weight = forms.FloatField(label="Line weight", min_value=WEIGHTS[0], max_value=WEIGHTS[1], initial=8)
    line = forms.CharField(label="Line", initial=Ink().line)
    lip = forms.CharField(label="Lip", initial=Ink().lip)
    inside = forms.CharField(label="Inside", initial=Ink().inside)
    tongue = forms.CharField(label="Tongue", initial=Ink().tongue)
    teeth = forms.CharField(label="Teeth", initial=Ink().teeth)
    lift = forms.FloatField(label="Corners", min_value=-1, max_value=1, initial=0)
    lean = forms.FloatField(label="Lean", min_value=-1, max_value=1, initial=0)
    opening = forms.FloatField(label="Opening", min_value=0.5, max_value=1.6, initial=1)

    @property
    def style(self) -> Style:
        """The style asked for; raises `ChartError` for a colour that is none."""
        c = self.cleaned_data
        ink = Ink(c["line"], c["inside"], c["tongue"], c["teeth"], c["lip"], c["weight"])
        return Style(ink, c["kind"], Mood(c["lift"], c["lean"], c["opening"]))


#: Moods as the page offers them: name, lift, lean, opening.
MOOD_CHOICES = [(name, mood.lift, mood.lean, mood.opening) for name, mood in MOODS.items()]


class PlaceForm(forms.Form):
    """Where a part sits on the face."""

    x = forms.FloatField(label="Across", min_value=-0.5, max_value=1.5)
    y = forms.FloatField(label="Down", min_value=-0.5, max_value=1.5)
    width = forms.FloatField(label="Width", min_value=0.005, max_value=3)
    angle = forms.FloatField(label="Turn", min_value=-180, max_value=180)


class RegisterForm(forms.Form):
    """A drawing's registration point and offset, in its pixels."""

    point_x = forms.FloatField()
    point_y = forms.FloatField()
    offset_x = forms.FloatField()
    offset_y = forms.FloatField()


class SayForm(forms.Form):
    """Sentence to try."""

    text = forms.CharField(max_length=200)
