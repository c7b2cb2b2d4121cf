"""The words of a reading alone: plain text, SRT and WebVTT (W3C), a cue for each line."""

import pysubs2

from tinfork.core.speech.reading import Reading


def write_text(reading: Reading) -> bytes:
    """A row for each line that has words, in UTF-8."""
    return "".join(f"{line.text}\n" for line in reading.lines if line.text and line.words).encode()


def write_srt(reading: Reading) -> bytes:
    """SubRip cues, in UTF-8."""
    return _cues(reading).to_string("srt").encode()


def write_vtt(reading: Reading) -> bytes:
    """WebVTT cues."""
    return _cues(reading).to_string("vtt").encode()


def _cues(reading: Reading) -> pysubs2.SSAFile:
    cues = pysubs2.SSAFile()
    for line in reading.lines:
        if line.text and line.words:
            cue = pysubs2.SSAEvent(start=line.start_us // 1000, end=-(-line.end_us // 1000))
            cue.plaintext = line.text
            cues.append(cue)
    return cues
