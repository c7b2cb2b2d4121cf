"""Forms of the cast."""

from typing import Any

from django import forms

from tinfork.apps.cast.models import Part
from tinfork.core.messages import Message
from tinfork.core.mouths.starter import STARTERS
from tinfork.core.mouths.style import KINDS, MOODS, WEIGHTS, Ink, Mood, Style
from tinfork.engines.limits import MAX_FACE_BYTES, MAX_PICTURES

_PICTURES = ".png,.svg,.webp,.gif,.tif,.tiff,.jpg,.jpeg,.ora"
_INKS = [
    (0, Message("any")),
    (1, Message("blue")),
    (2, Message("plum")),
    (3, Message("moss")),
    (4, Message("ochre")),
    (5, Message("pine")),
    (6, Message("chestnut")),
]


class NameField(forms.CharField):
    """A name in any alphabet, on one line."""

    def __init__(self, **more: Any) -> None:
        super().__init__(max_length=80, **more)

    def to_python(self, value: Any) -> str:
        """The name without line ends and unprintable characters."""
        return "".join(c for c in super().to_python(value) or "" if c.isprintable())


class CharacterForm(forms.Form):
    """A character: name, colour, face."""

    name = NameField(label=Message("Name"))
    ink = forms.TypedChoiceField(label=Message("Colour"), choices=_INKS, coerce=int, initial=0)
    face = forms.FileField(
        label=Message("Face"),
        required=False,
        help_text=Message("PNG, JPEG, WebP, GIF, TIFF, SVG or OpenRaster. Leave empty to show only the mouth."),
        widget=forms.ClearableFileInput(attrs={"accept": _PICTURES}),
    )

    def clean_face(self) -> Any:
        """Refuse a file that is too large; its content is checked by the job that opens it."""
        return _not_too_large(self.cleaned_data["face"])


def _not_too_large(face: Any) -> Any:
    if face and face.size > MAX_FACE_BYTES:
        raise forms.ValidationError(
            Message(
                "The face is larger than {max_face_bytes} MB. Save it smaller.", max_face_bytes=MAX_FACE_BYTES // 2**20
            )
        )
    return face


class SetFaceForm(forms.Form):
    """The face picture of a set of mouths."""

    face = forms.FileField(
        label=Message("Face picture"),
        error_messages={"required": Message("Choose the face picture: PNG, JPEG, WebP, GIF, TIFF, SVG or OpenRaster.")},
        widget=forms.FileInput(attrs={"accept": _PICTURES, "class": "form-control form-control-sm"}),
    )

    def clean_face(self) -> Any:
        """Refuse a file that is too large; its content is checked by the job that opens it."""
        return _not_too_large(self.cleaned_data["face"])


class NameForm(forms.Form):
    """A name alone."""

    name = NameField(label=Message("Name"))


class SetForm(forms.Form):
    """A new set: its name, and whether it begins as a copy."""

    name = NameField(label=Message("Name"))
    copy = forms.BooleanField(label=Message("Copy this set"), required=False)


class PartForm(forms.Form):
    """Another part of the face."""

    name = NameField(label=Message("Name"))
    kind = forms.ChoiceField(label=Message("Kind"), choices=[c for c in Part.Kind.choices if c[0] != Part.Kind.MOUTH])


class DrawingForm(forms.Form):
    """A drawing's name, number and key."""

    number = forms.IntegerField(label=Message("Number"), min_value=0, max_value=9999)
    name = NameField(label=Message("Name"))
    key = forms.CharField(label=Message("Key"), max_length=1, required=False)
    size = forms.TypedChoiceField(
        label=Message("For"),
        choices=[(0, Message("any loudness")), (-1, Message("quiet or short")), (1, Message("loud or long"))],
        coerce=int,
    )
    is_hidden = forms.BooleanField(label=Message("Hidden: never used automatically"), required=False)
    revision = forms.IntegerField(widget=forms.HiddenInput)

    def clean_key(self) -> str:
        """Keys are lower-case letters and digits."""
        return str(self.cleaned_data["key"]).lower()


def checked_files(files: list[Any]) -> list[Any]:
    """Uploaded pictures, none empty and not too many; raises `ValidationError`."""
    if not files:
        raise forms.ValidationError(
            Message("Choose the drawings: PNG, SVG, WebP, GIF, TIFF, JPEG or OpenRaster files.")
        )
    if len(files) > MAX_PICTURES:
        raise forms.ValidationError(
            Message(
                "These are {count} files; the limit is {max_pictures} at once. Nothing was added.",
                count=len(files),
                max_pictures=MAX_PICTURES,
            )
        )
    return files


class StarterForm(forms.Form):
    """The look of a starter chart."""

    drawings = forms.TypedChoiceField(
        label=Message("Drawings"), coerce=int, choices=[(n, str(n)) for n in STARTERS], initial=14,
    )  # fmt: skip
    kind = forms.ChoiceField(label=Message("Face"), choices=[(kind, Message(kind)) for kind in KINDS], initial="soft")
    weight = forms.FloatField(label=Message("Line weight"), min_value=WEIGHTS[0], max_value=WEIGHTS[1], initial=8)
    line = forms.CharField(label=Message("Line"), initial=Ink().line)
    lip = forms.CharField(label=Message("Lip"), initial=Ink().lip)
    inside = forms.CharField(label=Message("Inside"), initial=Ink().inside)
    tongue = forms.CharField(label=Message("Tongue"), initial=Ink().tongue)
    teeth = forms.CharField(label=Message("Teeth"), initial=Ink().teeth)
    lift = forms.FloatField(label=Message("Corners"), min_value=-1, max_value=1, initial=0)
    lean = forms.FloatField(label=Message("Lean"), min_value=-1, max_value=1, initial=0)
    opening = forms.FloatField(label=Message("Opening"), min_value=0.5, max_value=1.6, initial=1)

    @property
    def style(self) -> Style:
        """The chosen style; raises `ChartError` for an invalid colour."""
        c = self.cleaned_data
        ink = Ink(c["line"], c["inside"], c["tongue"], c["teeth"], c["lip"], c["weight"])
        return Style(ink, c["kind"], Mood(c["lift"], c["lean"], c["opening"]))


#: Moods as the page offers them: name, lift, lean, opening.
MOOD_CHOICES = [(name, mood.lift, mood.lean, mood.opening) for name, mood in MOODS.items()]


class PlaceForm(forms.Form):
    """The place of a part on the face."""

    x = forms.FloatField(label=Message("Across"), min_value=-0.5, max_value=1.5)
    y = forms.FloatField(label=Message("Down"), min_value=-0.5, max_value=1.5)
    width = forms.FloatField(label=Message("Width"), min_value=0.005, max_value=3)
    angle = forms.FloatField(label=Message("Turn"), min_value=-180, max_value=180)


class RegisterForm(forms.Form):
    """A drawing's registration point and offset, in its pixels."""

    point_x = forms.FloatField()
    point_y = forms.FloatField()
    offset_x = forms.FloatField()
    offset_y = forms.FloatField()


class SayForm(forms.Form):
    """A sentence to try."""

    text = forms.CharField(max_length=200)
