"""Forms for readings: sounds, unless the shot has some, and words."""

from typing import Any

from django import forms
from django.core.files.uploadedfile import TemporaryUploadedFile

from tinfork.apps.cast.models import Character
from tinfork.apps.common.languages import named_languages, offer, spoken_languages
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import open_job
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.dropping import Drop, DropResult
from tinfork.apps.reading.actions.reading import is_arriving
from tinfork.apps.reading.casting import people_of, script_of, unknown_names
from tinfork.apps.reading.methods import ReadingMethod
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.sound.actions import Upload
from tinfork.apps.sound.forms import look_into
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message
from tinfork.engines import limits, listener
from tinfork.engines.transcribing import NO_LISTENER

#: The most unknown names for which new characters are offered.
MAX_UNKNOWN = 50


class ReadForm(forms.Form):
    """Words and their sounds."""

    #: Before the words, whose validation needs it.
    makes_people = forms.BooleanField(label=Message("Create characters for new names"), required=False, initial=True)
    words = forms.CharField(
        label=Message("Words"),
        required=False,
        max_length=limits.MAX_TEXT_CHARACTERS,
        widget=forms.Textarea(attrs={"rows": 9, "spellcheck": "true"}),
    )
    language = forms.ChoiceField(label=Message("Language of the lines"), required=False)
    way = forms.ChoiceField(
        choices=ReadingMethod.choices, initial=ReadingMethod.WORDS, required=False, widget=forms.RadioSelect
    )
    spoken = forms.ChoiceField(label=Message("Language"), required=False)
    everything = forms.BooleanField(label=Message("Re-read unchanged lines too"), required=False)

    def __init__(
        self, *args: Any, shot: Shot, sounds: list[TemporaryUploadedFile] | None = None, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.shot, self.sounds = shot, sounds or []
        offer(self.fields["language"], named_languages())
        offer(self.fields["spoken"], spoken_languages())
        self.uploaded: list[Upload] = []
        self.sound_errors: list[str] = []
        self.unknown: list[str] = []

    def clean(self) -> dict[str, Any]:
        """Refuse a second reading of a shot; check sounds before they are stored."""
        self.cleaned_data["way"] = self._way(self.cleaned_data.get("words", ""))
        if open_job(self.shot, Job.Kind.READ):
            self.add_error(
                "words", Message("This shot is being read. Wait until it is done, or cancel it, then read again.")
            )
        self._look_at_sounds()
        return self.cleaned_data

    def _way(self, words: str) -> str:
        """The chosen method; words that were just typed are always used."""
        way = str(self.data.get("way") or ReadingMethod.WORDS)
        return (
            ReadingMethod.WORDS
            if way == ReadingMethod.HEARD and words.strip() and words.split() != self.shot.words.split()
            else way
        )

    def _look_at_sounds(self) -> None:
        try:
            if self.sounds:
                self.uploaded, self.sound_errors = look_into(self.sounds)
            elif not soundtrack_of(self.shot).content.clips and not is_arriving(self.shot):
                self.sound_errors = [Message("Choose the recording: a WAV, MP3 or FLAC file.")]
        except TinForkError as error:
            self.sound_errors = [str(error)]
        if self.sound_errors:
            self.add_error(None, " ".join(self.sound_errors))

    def clean_words(self) -> str:
        """Require words by known characters, unless the reading needs no typed words."""
        words: str = self.cleaned_data["words"]
        way = self._way(words)
        if way == ReadingMethod.HEARD and not listener.is_there():
            raise forms.ValidationError(NO_LISTENER)
        if way in (ReadingMethod.HEARD, ReadingMethod.EAR, ReadingMethod.FLAP):
            return words
        people = people_of(self.shot.production.studio)
        try:
            lines = script_of(words, people)
        except TinForkError as error:
            raise forms.ValidationError(str(error)) from error
        if not lines:
            raise forms.ValidationError(
                Message("Type the dialogue, one phrase per line, or choose a reading method without words.")
            )
        self.unknown = unknown_names(lines, people)[:MAX_UNKNOWN]
        if self.unknown and not self.cleaned_data["makes_people"]:
            names = ", ".join(f"“{name}”" for name in self.unknown[:5])
            raise forms.ValidationError(
                Message("No character is called {names}. Create them below, or correct the name.", names=names)
            )
        return words


class DropForm(forms.Form):
    """The choices for recordings dropped on a production, with the last ones as defaults."""

    into = forms.ChoiceField(label=Message("Make"), choices=DropResult.choices)
    character = forms.ModelChoiceField(Character.objects.none(), label=Message("Character"), empty_label=None)
    spoken = forms.ChoiceField(label=Message("Language"), required=False)
    acts = forms.BooleanField(label=Message("Suggest acting, too"), required=False)

    def __init__(self, *args: Any, production: Production, **kwargs: Any) -> None:
        # Which shots with words have been read.
        written = list(production.shots.exclude(words="").values_list("soundtrack__is_read", flat=True))
        # Probably for the script's shots, if some have no sound yet.
        usual = DropResult.SHOTS if all(written) else DropResult.SCRIPT
        kwargs.setdefault("initial", {"into": usual, "spoken": production.language, **production.dropping})
        # Another form on the page has a character field.
        kwargs.setdefault("auto_id", "drop_%s")
        super().__init__(*args, **kwargs)
        people = self.fields["character"]
        assert isinstance(people, forms.ModelChoiceField)
        people.queryset = production.studio.characters.filter(archived_at=None)
        if not written:
            offer(self.fields["into"], [choice for choice in DropResult.choices if choice[0] != DropResult.SCRIPT])
        people.error_messages["required"] = Message("Create a character in Cast first.")
        offer(self.fields["spoken"], spoken_languages())

    def clean_into(self) -> str:
        """Without the listener, recordings can only become takes."""
        into: str = self.cleaned_data["into"]
        if into != DropResult.TAKES and not listener.is_there():
            raise forms.ValidationError(NO_LISTENER)
        return into

    @property
    def drop(self) -> Drop:
        """The choices."""
        given = self.cleaned_data
        return Drop(DropResult(given["into"]), given["character"], given["spoken"], given["acts"])


class StretchForm(forms.Form):
    """The first and last frame of a stretch, numbered as on the sheet."""

    first = forms.IntegerField(min_value=0, max_value=10_000_000)
    last = forms.IntegerField(min_value=0, max_value=10_000_000)
