"""Words alone, as other programs read them."""

import pysubs2

from tinfork.core.formats import subtitles
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word


def reading():
    def line(text, start_us, end_us):
        word = Word(text, start_us, end_us, (Phoneme("a", start_us, end_us),)) if text else None
        return Line("1", text, "en-us", (word,) if word else ())

    return Reading(
        9_000_000,
        (line("Sit <down> & {eat}.", 1_000_400, 2_000_400), line("", 0, 0), line("Está listo.", 3_600_000, 4_000_000)),
    )


def test_text_has_a_row_for_each_line_with_words():
    assert subtitles.write_text(reading()).decode() == "Sit <down> & {eat}.\nEstá listo.\n"


def test_cues_are_read_back_with_their_times():
    for data in (subtitles.write_srt(reading()), subtitles.write_vtt(reading())):
        cues = pysubs2.SSAFile.from_string(data.decode())
        assert [(cue.start, cue.end) for cue in cues] == [(1000, 2001), (3600, 4000)]
        assert cues[1].plaintext == "Está listo."
