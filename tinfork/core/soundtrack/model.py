"""A shot's sound as values.

A `Clip` plays a part of a take, `[in_us, in_us + length_us)`, from `start_us` of the shot. A voice is a take with its
reading in this shot. The reading is stored in the take's own time, so that trimming a clip hides words but never loses
them, and moving it moves them. Times are whole microseconds, spans half-open.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field

from tinfork.core.errors import TimingError
from tinfork.core.motion.pose import Pose
from tinfork.core.speech.reading import Reading

VOICE, EFFECTS = "voice", "effects"
#: The least length of a fade and of a clip, and the highest gain of a clip (dB).
SHORTEST_US = 10_000
MAX_GAIN_DB = 24.0
MAX_CLIPS = 2_000
MAX_TRACKS = 24
MAX_NOTES = 5_000
MAX_KEYS = 20_000
MAX_PASS_NOTES = 500
MAX_NOTE_CHARACTERS = 400
#: The highest lasting number of lines, words, turns and notes.
MOST_NUMBERS = 2**31 - 1
#: The longest shot.
LONGEST_US = 2 * 3600 * 1_000_000


@dataclass(frozen=True, slots=True)
class Track:
    """A row of clips that do not overlap; effects are played, but never read."""

    id: int
    name: str
    kind: str = VOICE
    is_muted: bool = False

    def __post_init__(self) -> None:
        if self.kind not in (VOICE, EFFECTS):
            raise TimingError("track.kind")


@dataclass(frozen=True, slots=True)
class Voice:
    """A take with its reading in this shot, in the take's time."""

    id: int
    take: int
    reading: Reading


@dataclass(frozen=True, slots=True)
class Clip:
    """A part of a take of `take_us` on a track; `slip_us` is the shift of its reading against its sound."""

    id: int
    track: int
    take: int
    take_us: int
    start_us: int
    in_us: int
    length_us: int
    voice: int | None = None
    fade_in_us: int = 0
    fade_out_us: int = 0
    gain_db: float = 0.0
    slip_us: int = 0

    def __post_init__(self) -> None:
        if self.start_us < 0 or self.end_us > LONGEST_US:
            raise TimingError("clip.outside_shot")
        if self.in_us < 0 or self.length_us < SHORTEST_US or self.out_us > self.take_us:
            raise TimingError("clip.too_short")
        if min(self.fade_in_us, self.fade_out_us) < 0 or self.fade_in_us + self.fade_out_us > self.length_us:
            raise TimingError("clip.fades")
        if abs(self.gain_db) > MAX_GAIN_DB:
            raise TimingError("clip.gain", max_gain_db=MAX_GAIN_DB)

    @property
    def end_us(self) -> int:
        """Its end in the shot."""
        return self.start_us + self.length_us

    @property
    def out_us(self) -> int:
        """Its end in the take."""
        return self.in_us + self.length_us

    def take_time(self, shot_us: int) -> int:
        """The time in the take that is played at a time of the shot."""
        return shot_us - self.start_us + self.in_us

    def shot_time(self, take_us: int) -> int:
        """The time in the shot at which a time of the take is played."""
        return take_us - self.in_us + self.start_us


@dataclass(frozen=True, slots=True)
class PinnedMouth:
    """What a character shows in a pinned stretch.

    A drawing of a set ("" its first), `NO_MOUTH`, or, with None, the best drawing, held on exactly these frames.

    A drawing that is not `exact` is shown there for as long as is best.
    """

    character: str
    drawing: int | None = None
    set: str = ""
    is_exact: bool = True


@dataclass(frozen=True, slots=True)
class Pin:
    """A stretch of the shot that a person set; `key` is the caller's, `mouth` what is shown there, if any."""

    key: int
    start_us: int
    end_us: int
    mouth: PinnedMouth | None = None


@dataclass(frozen=True, slots=True)
class Note:
    """A note on a frame; at most one at a time."""

    at_us: int
    text: str
    #: Its lasting number; 0: none yet. Numbers do not count in comparisons.
    id: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True)
class MotionKey:
    """A key of a column of motion, at the time of its frame.

    `part` is "head" (the whole character), "face" (what is on the face picture), "mouth", or the key of another part of
    the face. `made_by` is the rule that proposed it, empty for a key set by hand.
    """

    character: str
    part: str
    at_us: int
    pose: Pose
    way: str = "ease"
    step: int = 1
    made_by: str = ""


@dataclass(frozen=True, slots=True)
class PassNote:
    """A note about a pass, that is all keys of a column of motion; at most one for each."""

    character: str
    part: str
    text: str


def key_order(key: MotionKey) -> tuple[int, str, str]:
    """The sort key of keys: by time."""
    return key.at_us, key.character, key.part


@dataclass(frozen=True, slots=True)
class Soundtrack:
    """Tracks, clips in time order, voices, pins, notes and keys in time order.

    `length_us` of 0: the shot is as long as its clips.
    """

    tracks: tuple[Track, ...] = ()
    clips: tuple[Clip, ...] = ()
    voices: tuple[Voice, ...] = ()
    pins: tuple[Pin, ...] = ()
    length_us: int = 0
    notes: tuple[Note, ...] = ()
    keys: tuple[MotionKey, ...] = ()
    pass_notes: tuple[PassNote, ...] = ()

    def __post_init__(self) -> None:
        if len(self.notes) > MAX_NOTES:
            raise TimingError("shot.most_notes", max_notes=MAX_NOTES)
        if len(self.keys) > MAX_KEYS:
            raise TimingError("shot.most_keys", max_keys=MAX_KEYS)
        if len(self.pass_notes) > MAX_PASS_NOTES:
            raise TimingError("shot.most_pass_notes", max_pass_notes=MAX_PASS_NOTES)
        if len(self.clips) > MAX_CLIPS or len(self.tracks) > MAX_TRACKS:
            raise TimingError("shot.most_clips", max_clips=MAX_CLIPS, max_tracks=MAX_TRACKS)
        if not 0 <= self.length_us <= LONGEST_US:
            raise TimingError("shot.too_long")
        tracks, voices = {t.id for t in self.tracks}, {v.id: v.take for v in self.voices}
        for numbers in ([t.id for t in self.tracks], [c.id for c in self.clips], [v.id for v in self.voices]):
            if len(set(numbers)) < len(numbers):
                raise TimingError("soundtrack.number_twice")
        last: dict[int, Clip] = {}
        for clip in sorted(self.clips, key=lambda c: c.start_us):
            if clip.track not in tracks or (clip.voice is not None and voices.get(clip.voice) != clip.take):
                raise TimingError("clip.no_such_track")
            before = last.get(clip.track)
            if before and clip.start_us < before.end_us:
                raise TimingError("clip.in_the_way")
            last[clip.track] = clip

    @property
    def duration_us(self) -> int:
        """The length of the shot."""
        return self.length_us or max((c.end_us for c in self.clips), default=0)

    @property
    def is_read(self) -> bool:
        """Whether any voice has words."""
        return any(line.words for voice in self.voices for line in voice.reading.lines)

    def clip(self, number: int) -> Clip:
        """A clip by its number.

        Raises
        ------
        TimingError
            When it is gone.
        """
        found = next((c for c in self.clips if c.id == number), None)
        if found is None:
            raise TimingError("clip.removed")
        return found

    def track(self, number: int) -> Track:
        """A track by its number.

        Raises
        ------
        TimingError
            When it is gone.
        """
        found = next((t for t in self.tracks if t.id == number), None)
        if found is None:
            raise TimingError("track.removed")
        return found

    def note(self, number: int) -> Note:
        """A note by its number.

        Raises
        ------
        TimingError
            When it is gone.
        """
        found = next((n for n in self.notes if n.id == number), None)
        if found is None:
            raise TimingError("note.removed")
        return found

    def voice(self, number: int) -> Voice:
        """A voice by its number.

        Raises
        ------
        TimingError
            When it is gone.
        """
        found = next((v for v in self.voices if v.id == number), None)
        if found is None:
            raise TimingError("voice.removed")
        return found

    def voice_clips(self) -> Iterator[tuple[Clip, Voice]]:
        """The clips that have a voice, with their voices, in time order."""
        for clip in sorted(self.clips, key=lambda c: (c.start_us, c.id)):
            if clip.voice is not None:
                yield clip, self.voice(clip.voice)

    def is_plain(self) -> bool:
        """Whether the shot is one whole take from the first frame on, so that its sound needs no mixing."""
        if len(self.clips) != 1:
            return False
        clip = self.clips[0]
        whole = (clip.start_us, clip.in_us, clip.length_us) == (0, 0, clip.take_us)
        untouched = not (clip.fade_in_us or clip.fade_out_us or clip.gain_db or self.track(clip.track).is_muted)
        return whole and untouched and self.duration_us == clip.take_us
