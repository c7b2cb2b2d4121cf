import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import WordsError
from tinfork.core.script import (
    MAX_LINES,
    ScriptLine,
    has_words,
    names_in,
    parse_csv,
    parse_plain,
    shorten_spaces,
    spoken_part,
    text_of,
    write_plain,
)


def said(lines):
    return [(line.speaker, line.text) for line in lines]


def test_names_hold_until_the_next_and_headings_name_shots():
    lines = parse_plain(
        "# 020 The counter\nODALYS: Sit down.\nThe dough can wait.\nPIM (es): Está listo.\n\n# 030\nNobody's line"
    )
    assert lines == [
        ScriptLine("ODALYS", "Sit down.", "", "020 The counter"),
        ScriptLine("ODALYS", "The dough can wait.", "", "020 The counter"),
        ScriptLine("PIM", "Está listo.", "es", "020 The counter"),
        ScriptLine("", "Nobody's line", "", "030"),
    ]


@pytest.mark.parametrize(
    ("text", "lines"),
    [
        ("Listen: it is raining.", [("", "Listen: it is raining.")]),
        ("ODALYS: Listen: it is raining.", [("ODALYS", "Listen: it is raining.")]),
        ("ODALYS: Hm.\nNote: nothing.", [("ODALYS", "Hm."), ("ODALYS", "Note: nothing.")]),
        ("Odalys: One.\nBrindle: Two.", [("Odalys", "One."), ("Brindle", "Two.")]),
        ("ODALYS (tired): One.", [("ODALYS", "One.")]),
        ("ODALYS:\nOne.\nTwo.", [("ODALYS", "One."), ("ODALYS", "Two.")]),
        ("Meet me at 12:30 tonight.", [("", "Meet me at 12:30 tonight.")]),
        ("See https://tinfork.example/x", [("", "See https://tinfork.example/x")]),
        ("BRINDLE: [yawns]\n(beat)\nBRINDLE: [yawns] Night.", [("BRINDLE", "[yawns] Night.")]),
        ("", []),
        ("…!\n---", []),
        ("ОДАЛИС: Садись.", [("ОДАЛИС", "Садись.")]),
        ("小鈴：早く！", [("小鈴", "早く！")]),
    ],
)
def test_what_is_a_name_and_what_is_speech(text, lines):
    assert said(parse_plain(text)) == lines


def test_a_known_name_is_one_however_it_is_written():
    assert said(parse_plain("A line.\nLast one.\nbrindle: Two.", {"Brindle"}))[-1] == ("brindle", "Two.")


NAMES = st.sampled_from(["ODALYS", "BRINDLE", "OLD PIM"])
TEXTS = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=20).filter(has_words)


@given(
    st.lists(st.tuples(NAMES, TEXTS, st.sampled_from(["", "es", "en-gb"]), st.sampled_from(["010", "020"])), max_size=9)
)
def test_written_lines_are_read_back_the_same(rows):
    lines = [ScriptLine(*row) for row in rows if not row[1].startswith("#")]
    again = parse_plain(write_plain(lines), {"ODALYS", "BRINDLE", "OLD PIM"})
    assert [(x.speaker, x.text, x.language, x.shot) for x in again] == [
        (x.speaker, x.text, x.language, x.shot) for x in lines
    ]


@given(st.binary(max_size=200))
def test_any_bytes_are_a_script_or_refused_in_words(data):
    try:
        text, _ = text_of(data)
        lines = parse_plain(text)
    except WordsError as error:
        assert str(error)
    else:
        assert all(has_words(line.text) for line in lines)


def test_encodings_are_told_apart_and_guesses_are_said():
    assert text_of("Está".encode())[0] == "Está"
    assert text_of("Está".encode("utf-16"))[0] == "Está"
    text, note = text_of("Está".encode("cp1252"))
    assert text == "Está"
    assert "not UTF-8" in note
    with pytest.raises(WordsError, match="not a text file"):
        text_of(b"\x89PNG\r\n\x1a\n\0\0\0")


def test_brackets_are_remarks():
    assert spoken_part("Well [sighs] then (beat) go.") == "Well then go."
    assert not has_words("[sighs] …")


def test_a_table_is_read_by_its_header():
    table = "shot;Character;Line;language\n010;Odalys;Sit down.;\n010;Pim;Está listo.;ES\n010;Pim;;\n"
    assert parse_csv(table) == [
        ScriptLine("Odalys", "Sit down.", "", "010"),
        ScriptLine("Pim", "Está listo.", "es", "010"),
    ]
    with pytest.raises(WordsError, match="no column “line”"):
        parse_csv("a,b\n1,2\n")


def test_more_than_anyone_reads_is_refused():
    with pytest.raises(WordsError, match="the limit is"):
        parse_plain("word\n" * (MAX_LINES + 1))
    with pytest.raises(WordsError, match="Split it where the speaker pauses"):
        parse_plain("word " * 500)


@given(st.text("ab ([)]", max_size=60))
def test_remarks_are_what_a_bracket_and_the_next_that_closes_it_enclose(text):
    """The same as a pattern that is read from the left; the pattern takes the square of the length, this does not."""
    import re

    pattern = re.sub(r"\[[^\]]*\]|\([^)]*\)", " ", text)
    assert spoken_part(text) == " ".join(pattern.split())


@given(st.text("a \t\n\r\u3000", max_size=80))
def test_a_tidy_text_has_the_words_and_rows_it_had_without_stretches_of_emptiness(text):
    tidied = shorten_spaces(text)
    assert tidied.split() == text.split()
    assert "\n\n\n\n" not in tidied
    assert shorten_spaces(tidied) == tidied
    assert sum(bool(row.strip()) for row in tidied.split("\n")) == sum(
        bool(row.strip()) for row in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    )


def test_a_row_that_nobody_wrote_is_refused_before_patterns_meet_it():
    with pytest.raises(WordsError, match="One line has 150,000 characters"):
        shorten_spaces("x\n" + "a" * 150_000)


def test_names_are_words_with_a_capital_that_begin_no_sentence():
    assert names_in("Ask Brindle, not me. Then sit. He met Pim! “Never.” [to Odalys] in Old-Town…") == [
        "Brindle",
        "Pim",
        "Old-Town",
    ]
    assert names_in("") == names_in("Never") == names_in("I am I.") == []
