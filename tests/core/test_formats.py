import csv
import io
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.strategies import readings
from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats import reading_json, sheet_csv
from tinfork.core.mouths.starter import STARTER
from tinfork.core.sheet import Sheet
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import solve
from tinfork.core.speech.reading import Reading

RATE = FrameRate.parse("24")


@settings(max_examples=60, deadline=None)
@given(readings())
def test_a_reading_comes_back_from_json_as_it_was(reading):
    assert reading_json.read(reading_json.write(reading, RATE, {})) == reading


@settings(max_examples=20, deadline=None)
@given(readings())
def test_json_tracks_hold_the_solved_frames(reading):
    holds = solve(reading, STARTER, RATE)
    document = json.loads(reading_json.write(reading, RATE, {"Odalys": holds}))
    assert document["rate"] == "24/1"
    assert document["version"] == 1
    (track,) = document["tracks"]
    assert [(h["start"], h["end"], h["drawing"], h["viseme"]) for h in track["holds"]] == [
        (h.start, h.end, h.drawing, h.viseme) for h in holds
    ]


@given(st.binary(max_size=200))
def test_only_format_errors_leave_the_reader_whatever_the_bytes(data):
    with pytest.raises(FormatError):
        reading_json.read(data)


@settings(max_examples=60, deadline=None)
@given(readings(max_words=3), st.data())
def test_a_reading_with_a_part_cut_out_is_refused_or_read_never_broken(reading, data):
    text = reading_json.write(reading, RATE, {})
    start = data.draw(st.integers(0, len(text)))
    broken = text[:start] + text[start + data.draw(st.integers(1, 40)) :]
    try:
        reading_json.read(broken)
    except FormatError as error:
        assert str(error)


def rows_of(data):
    return list(csv.DictReader(io.StringIO(data.decode())))


@settings(max_examples=30, deadline=None)
@given(readings(), st.integers(0, 2000))
def test_the_csv_sheet_has_a_row_per_frame_that_agrees_with_the_holds(reading, first):
    holds = solve(reading, STARTER, RATE)
    rows = rows_of(sheet_csv.write(Sheet(reading, holds, RATE, first)))
    assert [int(r["frame"]) for r in rows] == list(range(first, first + RATE.frames_in(reading.duration_us)))
    assert [int(r["drawing"]) for r in rows] == [h.drawing for h in holds for _ in range(h.start, h.end)]
    said = " ".join(w.text for w in reading.words()).split()
    assert set(" ".join(r["word"] for r in rows).split()) == set(said)


@settings(max_examples=30, deadline=None)
@given(readings())
def test_the_csv_by_hold_tells_how_long_each_lasts(reading):
    holds = solve(reading, STARTER, RATE)
    rows = rows_of(sheet_csv.write(Sheet(reading, holds, RATE), per_hold=True))
    assert [(int(r["frame"]), int(r["frames"])) for r in rows] == [(h.start + 1, h.end - h.start) for h in holds]
    assert rows[0]["timecode"] == "00:00:00:00"


@pytest.mark.parametrize("word", ["=1+1", "+x", "@sum", "-3"])
def test_a_word_cannot_become_a_formula(word):
    from tinfork.core.speech.reading import Line, Phoneme, Reading, Word

    spoken = Word(word, 0, 500_000, (Phoneme("ɑ", 0, 500_000),))
    reading = Reading(500_000, (Line("", word, "en-us", (spoken,)),))
    rows = rows_of(sheet_csv.write(Sheet(reading, solve(reading, STARTER, RATE), RATE)))
    assert rows[0]["word"] == "'" + word


def test_notes_and_other_parts_of_the_face_have_columns_of_their_own():
    reading = Reading(500_000)
    mouths = (Hold(0, 8, 1, "rest"), Hold(8, 12, 4, "open"))
    eyes = (Hold(0, 3, 2, ""), Hold(3, 4, -1, ""), Hold(4, 12, 5, ""))
    sheet = Sheet(reading, mouths, RATE, 101, others={"Eyes": eyes, "=Brows": eyes}, notes={2: "blinks", 9: "=sum"})
    rows = rows_of(sheet_csv.write(sheet))
    assert [row["Eyes"] for row in rows] == ["2"] * 3 + [""] + ["5"] * 8
    assert [row["note"] for row in rows] == ["", "", "blinks", *[""] * 6, "'=sum", "", ""]
    assert rows[0]["'=Brows"] == "2"
    held = rows_of(sheet_csv.write(sheet, per_hold=True))
    assert [(row["drawing"], row["Eyes"], row["note"]) for row in held] == [("1", "2", "blinks"), ("4", "5", "'=sum")]
    told = json.loads(reading_json.write(reading, RATE, {"Pim": mouths}, {("Pim", "Eyes"): eyes}, {9: "b", 2: "a"}))
    assert [(track["character"], track.get("part")) for track in told["tracks"]] == [("Pim", None), ("Pim", "Eyes")]
    assert told["tracks"][1]["holds"][1] == {"start": 3, "end": 4, "drawing": None, "set": "", "viseme": ""}
    assert told["notes"] == [{"frame": 2, "text": "a"}, {"frame": 9, "text": "b"}]


def moving(*rows):
    """A file in which Pim's head has these keys."""
    pose = [0.0, 0.0, 10.0, 0.0, 0.0, 1.0]
    keys = [[frame, pose, way, step, False] for frame, way, step in rows]
    document = json.loads(reading_json.write(Reading(1_000_000), FrameRate.parse("24"), {}))
    figure = {"character": "Pim", "x": 0.5, "y": 0.5, "size": 1, "turn": 0, "mirrored": False, "depth": 0}
    return json.dumps(document | {"shot": {"figures": [figure | {"motion": {"head": keys}}]}}).encode()


def test_keys_of_motion_are_read_from_the_first_frame_on():
    read = reading_json.read_document(moving((0, "ease", 1), (12, "hold", 2))).motions["Pim"]["head"]
    assert [(key.frame, key.way, key.step) for key in read] == [(0, "ease", 1), (12, "hold", 2)]


@pytest.mark.parametrize(
    "rows",
    [
        [(-1, "ease", 1)],
        [(1_000_000, "ease", 1)],
        [(5, "ease", 1), (5, "ease", 1)],
        [(6, "ease", 1), (5, "ease", 1)],
        [(5, "bounce", 1)],
        [(5, "ease", 0)],
        [(5, "ease", 99)],
    ],
)
def test_keys_that_are_none_or_out_of_order_are_refused(rows):
    with pytest.raises(FormatError):
        reading_json.read_document(moving(*rows))
