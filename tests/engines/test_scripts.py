import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import WordsError
from tinfork.engines.scripts import read_script

FOUNTAIN = """Title: Last Tram

INT. BAKERY - NIGHT

Flour in the air.

ODALYS (O.S.)
(tired)
The last tram leaves [[check]] before *midnight*.
(beat)
Hurry.

BRINDLE ^
Wait!

@McPim
Está listo.

> FADE OUT.

EXT. STOP - DAY

BRINDLE (CONT'D)
Go on.
"""
SRT = """1
00:00:01,000 --> 00:00:02,500
ODALYS: Sit down, the
dough can wait.

2
00:00:03,000 --> 00:00:04,000
- <i>It never could</i>

3
00:00:04,100 --> 00:00:05,000
before.
"""
VTT = "WEBVTT\n\n00:01.000 --> 00:02.000\n<v Odalys>Hello there.\n\n00:03.000 --> 00:04.000\n<v.loud Brindle>No.\n"


def said(data, name=""):
    lines, _ = read_script(data.encode(), name)
    return [(line.shot, line.speaker, line.text) for line in lines]


def test_fountain_gives_dialogue_by_character_and_shots_by_scene():
    assert said(FOUNTAIN) == [
        ("INT. BAKERY - NIGHT", "ODALYS", "The last tram leaves before midnight."),
        ("INT. BAKERY - NIGHT", "ODALYS", "Hurry."),
        ("INT. BAKERY - NIGHT", "BRINDLE", "Wait!"),
        ("INT. BAKERY - NIGHT", "McPim", "Está listo."),
        ("EXT. STOP - DAY", "BRINDLE", "Go on."),
    ]


def test_subtitles_keep_times_and_join_what_runs_on():
    lines, _ = read_script(SRT.encode(), "x.srt")
    assert [(x.speaker, x.text, x.start_us, x.end_us) for x in lines] == [
        ("ODALYS", "Sit down, the dough can wait.", 1_000_000, 2_500_000),
        ("", "It never could before.", 3_000_000, 5_000_000),
    ]


def test_voice_tags_say_who():
    assert said(VTT) == [("", "Odalys", "Hello there."), ("", "Brindle", "No.")]


def test_a_table_and_plain_text_are_told_by_name_and_content():
    assert said("character,line\nOdalys,Sit down.\n", "script.csv") == [("", "Odalys", "Sit down.")]
    assert said("# 010\nODALYS: Sit down.", "script.txt") == [("010", "ODALYS", "Sit down.")]


@pytest.mark.parametrize("data", ["", "…\n!!\n", "[sighs]"])
def test_a_script_in_which_nobody_speaks_is_refused(data):
    with pytest.raises(WordsError, match="Write one phrase per line, as NAME: dialogue"):
        read_script(data.encode())


@given(st.binary(max_size=300), st.sampled_from(["", "a.srt", "a.vtt", "a.fountain", "a.csv", "a.txt"]))
def test_nothing_but_our_own_error_leaves_the_reader(data, name):
    try:
        lines, _ = read_script(data, name)
    except WordsError as error:
        assert str(error)
    else:
        assert lines


@given(st.integers(0, len(FOUNTAIN)), st.integers(0, len(SRT)))
def test_cut_files_are_read_as_far_as_they_go_or_refused(fountain, srt):
    for text, name in ((FOUNTAIN[:fountain], "a.fountain"), (SRT[:srt], "a.srt")):
        try:
            read_script(text.encode(), name)
        except WordsError as error:
            assert str(error)
