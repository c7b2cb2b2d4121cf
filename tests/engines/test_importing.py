"""Bringing back what left: each format there and back says the same, edits come through, nonsense is refused."""

import csv
import functools
import io
import json

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.scenes import READING, reading_bytes
from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats import reading_json
from tinfork.core.mouths.starter import STARTER
from tinfork.core.scene.incoming import ImportContext, IncomingMouths, differing_holds
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.engines.handover.command import hand_over
from tinfork.engines.importing import READERS, import_file

DOCUMENT = reading_json.read_document(reading_bytes())


def about(character="Odalys"):
    called = {}
    for drawing in STARTER.drawings:
        for name in (str(drawing.number), drawing.name):
            called[name] = (("", drawing.number),)
    columns = {key: IncomingMouths(holds, called) for key, holds in DOCUMENT.tracks.items()}
    return ImportContext(FrameRate.parse("24"), 48, 101, columns, character)


@pytest.fixture(scope="module")
def left(tmp_path_factory):
    """The bytes of a way out of the shot."""
    path = tmp_path_factory.mktemp("shot") / "r.json"
    path.write_bytes(reading_bytes())

    # A spreadsheet says when it was written: the same bytes for every example.
    @functools.cache
    def made(kind, **options):
        out = io.BytesIO()
        hand_over(path, kind, options, out)
        return out.getvalue()

    return made


@pytest.mark.parametrize(
    ("kind", "suffix", "options"),
    [
        ("csv", ".csv", {"character": "Odalys"}),
        ("csv", ".csv", {"character": "Odalys", "rows": "holds"}),
        ("csv", ".csv", {"character": "Odalys", "drawings": "name"}),
        ("sheet-csv", ".csv", {}),
        ("sheet-xlsx", ".xlsx", {}),
        ("json", ".json", {}),
        ("textgrid", ".TextGrid", {}),
        ("textgrid", ".TextGrid", {"layout": "short_textgrid"}),
        ("otio", ".otio", {}),
    ],
)
def test_what_left_says_the_same_when_it_comes_back(kind, suffix, options, left):
    found = import_file(left(kind, **options), f"sheet{suffix}", about())
    assert ("Odalys", "") in found.holds
    for key, holds in found.holds.items():
        assert differing_holds(DOCUMENT.tracks[key], holds) == []
    if found.notes is not None:
        assert found.notes == {12: "=1+1 look left"}
    words = [(w.speaker, w.text) for w in found.words]
    if kind in ("json", "textgrid"):
        assert words == [("Odalys", "Bread"), ("Odalys", "Brindle"), ("Brindle", "はい")]
        first = found.words[0]
        assert (first.start_us, first.end_us) == (250_000, 500_000)
        assert [s[0] for s in first.sounds] == ["b", "ɹ", "ˈɛ", "d"]


def test_what_was_changed_in_a_spreadsheet_is_what_differs(left):
    book = openpyxl.load_workbook(io.BytesIO(left("sheet-xlsx")))
    sheet = book.active
    mouth = next(cell.column for cell in sheet[1] if cell.value == "Odalys mouth")
    notes = next(cell.column for cell in sheet[1] if cell.value == "notes")
    # Frame 15: another drawing from there on, up to the next head; frame 3: no mouth; a note.
    sheet.cell(16, mouth).value = 14
    sheet.cell(4, mouth).value = "×"
    sheet.cell(8, notes).value = "closer"
    out = io.BytesIO()
    book.save(out)
    found = import_file(out.getvalue(), "edited.xlsx", about())
    different = differing_holds(DOCUMENT.tracks["Odalys", ""], found.holds["Odalys", ""])
    assert [(h.start, h.end, h.drawing) for h in different] == [(2, 6, NO_MOUTH), (14, 24, 14)]
    assert found.notes == {6: "closer", 12: "=1+1 look left"}


def test_a_table_of_another_country_and_of_a_part_of_the_shot(left):
    rows = list(csv.reader(io.StringIO(left("csv", character="Brindle").decode())))
    out = io.StringIO()
    csv.writer(out, delimiter=";").writerows([rows[0], *rows[30:35]])
    found = import_file(out.getvalue().encode("utf-16"), "part.csv", about("Brindle"))
    assert differing_holds(DOCUMENT.tracks["Brindle", ""], found.holds["Brindle", ""])[0].start >= 35
    assert found.holds["Brindle", ""][0].start == 29


def test_subtitles_bring_words_with_names_and_say_what_they_lack():
    srt = "1\n00:00:00,200 --> 00:00:01,000\nBRINDLE: Sit down now\n\n2\n00:00:01,200 --> 00:00:01,500\nYes\n"
    found = import_file(srt.encode(), "lines.srt", about())
    assert [(w.speaker, w.text, w.is_rough) for w in found.words] == [
        ("Brindle", "Sit", True), ("Brindle", "down", True), ("Brindle", "now", True), ("Odalys", "Yes", True),
    ]  # fmt: skip
    assert found.words[0].start_us == 200_000 and found.words[2].end_us == 1_000_000
    assert "Existing words keep their times; new words" in found.lost[0]


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("x.pdf", b"%PDF", "is not one of these file types"),
        ("x.csv", b"a,b\n1,2\n", "first row"),
        ("x.csv", b"frame,drawing\n9,1\n", "Row 2.*frames 101"),
        ("x.csv", b"frame,drawing\n101,77\n", "Drawing “77” is not in this chart"),
        ("x.csv", b"frame,drawing\n102,1\n101,1\n", "must go up"),
        ("x.csv", b"frame,drawing\nten,1\n", "not a frame number"),
        ("x.csv", b"\xff\x00\xfe", "UTF-8|damaged"),
        ("x.xlsx", b"PK\x03\x04", "damaged"),
        ("x.TextGrid", b"", "damaged"),
        ("x.srt", b"hello", "no cues"),
        ("x.otio", b"{}", "damaged|no timeline"),
        ("x.json", b"{}", "missing"),
    ],
)
def test_a_wrong_file_is_refused_in_words(name, data, says):
    with pytest.raises(FormatError, match=says):
        import_file(data, name, about())


ALL = st.sampled_from(sorted(READERS))


@settings(max_examples=80)
@given(st.data())
def test_no_damaged_file_gets_further_than_a_refusal(left, data):
    kind, suffix = data.draw(
        st.sampled_from([("csv", ".csv"), ("sheet-xlsx", ".xlsx"), ("json", ".json"), ("textgrid", ".textgrid"),
                         ("srt", ".srt"), ("vtt", ".vtt"), ("otio", ".otio")])
    )  # fmt: skip
    whole = left(kind)
    at = data.draw(st.integers(0, len(whole)))
    new = data.draw(st.binary(max_size=6))
    broken = data.draw(
        st.sampled_from([whole[:at], whole[:at] + new + whole[at + len(new) :], whole[at:] + whole[:at]])
    )
    other = data.draw(st.sampled_from([suffix, suffix, suffix, data.draw(ALL)]))
    try:
        found = import_file(broken, f"file{other}", about())
    except FormatError as error:
        assert str(error).startswith("“file")
        return
    for key, holds in found.holds.items():
        assert key in about().columns and all(0 <= h.start < h.end <= 48 for h in holds)
    assert all(0 <= w.start_us < w.end_us for w in found.words)


holds = st.lists(st.tuples(st.integers(1, 9), st.integers(1, 4)), min_size=1, max_size=10)


@given(holds, holds)
def test_what_differs_is_what_a_frame_by_frame_look_finds(one, other):
    def laid(rows):
        out, at = [], 0
        for length, drawing in rows:
            out.append(Hold(at, at + length, drawing, "rest"))
            at += length
        return out

    now, coming = laid(one), laid(other)
    shown = {f: h.drawing for h in now for f in range(h.start, h.end)}
    wanted = {f: h.drawing for h in coming for f in range(h.start, h.end)}
    found = {f: h.drawing for h in differing_holds(now, coming) for f in range(h.start, h.end)}
    both = shown.keys() & wanted.keys()
    assert {f: d for f, d in found.items() if f in both} == {f: wanted[f] for f in both if shown[f] != wanted[f]}


def test_the_readings_json_is_untouched_by_reading_it():
    assert json.loads(reading_bytes()) == READING
