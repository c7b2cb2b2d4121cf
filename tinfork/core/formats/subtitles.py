"""The words of a reading alone: plain text, SubRip and WebVTT (W3C), a cue for each line or word."""

import pysubs2

from tinfork.core.scene.exporting import Exporter, Option, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.speech.reading import Reading


def write_text(reading: Reading) -> bytes:
    """A row for each line that has words, in UTF-8."""
    return "".join(f"{line.text}\n" for line in reading.lines if line.text and line.words).encode()


def write_srt(reading: Reading) -> bytes:
    """SubRip cues, in UTF-8."""
    return _cues(reading, per_word=False).to_string("srt").encode()


def write_vtt(reading: Reading) -> bytes:
    """WebVTT cues."""
    return _cues(reading, per_word=False).to_string("vtt").encode()


def _cues(reading: Reading, *, per_word: bool) -> pysubs2.SSAFile:
    cues = pysubs2.SSAFile()
    for line in reading.lines:
        for said in line.words if per_word else [line] if line.text and line.words else []:
            cue = pysubs2.SSAEvent(start=said.start_us // 1000, end=-(-said.end_us // 1000))
            cue.plaintext = said.text
            cues.append(cue)
    return cues


_CUES = Option("cues", "A cue for each", "lines", choices=(("lines", "line"), ("words", "word")))


def _exporter(kind: str, name: str, media_type: str) -> Exporter:
    def of_scene(scene: Scene, values: Values) -> bytes:
        return _cues(scene.reading, per_word=values["cues"] == "words").to_string(kind).encode()

    hint = "the dialogue with its times"
    return Exporter(kind, name, Purpose.ANIMATE, f".{kind}", media_type, of_bytes(of_scene), (_CUES,), hint)


SRT = _exporter("srt", "Subtitles (SubRip)", "application/x-subrip; charset=utf-8")
VTT = _exporter("vtt", "Subtitles (WebVTT)", "text/vtt; charset=utf-8")
