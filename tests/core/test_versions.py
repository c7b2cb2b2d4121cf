"""Documents of every version there was are read; those of this test's samples were kept when their version was new."""

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import FormatError
from tinfork.core.formats import character_zip, dials_json, reading_json, set_zip, soundtrack_json, weights_json
from tinfork.core.formats.versions import FORMATS, Format

SAMPLES = Path(__file__).parents[1] / "samples"


def sample(name):
    (path,) = SAMPLES.glob(f"{name}.*")
    return path.read_bytes()


def test_a_sample_of_every_version_of_every_format_is_kept():
    wanted = {f"{one.name}-{version}" for one in FORMATS for version in range(1, one.version + 1)}
    assert {path.stem for path in SAMPLES.iterdir()} == wanted
    assert len(FORMATS) == len({one.name for one in FORMATS}) == 8


def test_a_reading_of_the_first_version():
    document = reading_json.read_document(sample("reading-1"))
    (line,) = document.reading.lines
    assert (line.speaker, line.co_speakers, line.missing_words) == ("Odalys", ("Brindle",), ("now",))
    assert [(word.text, word.start_us, word.end_us) for word in line.words] == [
        ("Sit", 250_000, 500_000),
        ("down", 500_000, 1_000_000),
    ]
    assert [sound.ipa for sound in line.words[1].phonemes] == ["d", "aʊ", "n"]
    assert line.words[0].is_pinned and line.words[1].others == ("town", "gown")
    assert [(extra.start_us, extra.heard) for extra in line.extras] == [(1_500_000, "please")]
    assert [(hold.start, hold.end, hold.drawing) for hold in document.tracks["Odalys", ""]] == [(0, 6, 1), (6, 48, 3)]
    assert dict(document.notes) == {7: "nod"}


def test_a_soundtrack_of_the_first_version():
    kept = soundtrack_json.soundtrack_from_dict(json.loads(sample("soundtrack-1")))
    (clip,) = kept.clips
    assert (clip.take, clip.start_us, clip.length_us, clip.gain_db) == (9, 500_000, 2_000_000, -3.0)
    assert [word.text for voice in kept.voices for word in voice.reading.words()] == ["Sit", "down"]
    (pin,) = kept.pins
    assert (pin.start_us, pin.end_us, pin.mouth.drawing, pin.mouth.is_exact) == (750_000, 1_000_000, 3, True)
    assert [(note.at_us, note.text, note.id) for note in kept.notes] == [(800_000, "nod", 6)]
    assert [(key.part, key.at_us, key.pose.turn, key.way, key.step) for key in kept.keys] == [
        ("head", 500_000, 10, "ease", 2)
    ]
    assert [note.text for note in kept.pass_notes] == ["slower"]


def test_weights_and_dials_of_the_first_version():
    weights = weights_json.read(sample("weights-1"))["Odalys"]
    assert weights.shape == (3, 15)
    assert [weights[1, 0], weights[1, 14], weights[2, 14]] == [0.25, 0.75, 1.0]
    snappy = dials_json.read(sample("tin-fork-dials-1"))["snappy"]
    assert (snappy.lead, snappy.shortest, snappy.gap_us, snappy.by_loudness) == (2, 1, 160_000, False)


def test_a_character_and_a_set_of_the_first_version():
    pim = character_zip.read(sample("tin-fork-character-1"))
    assert (pim.name, pim.ink, [part.kind for part in pim.parts]) == ("Pim", 3, ["mouth"])
    one, kind = set_zip.read(sample("tin-fork-set-1"))
    assert (one.name, kind) == ("calm", "mouth")
    assert [drawing.drawing.name for drawing in one.drawings] == ["rest"]


#: A format whose second version has centimetres where the first had inches, and whose third has names in capitals.
GROWN = Format(
    "grown",
    (
        lambda first: {"name": first["name"], "cm": first["inches"] * 2.5},
        lambda second: {"name": second["name"].upper(), "cm": second["cm"]},
    ),
)


@pytest.mark.parametrize(
    "document",
    [
        {"version": 1, "name": "jaw", "inches": 4},
        {"version": 2, "name": "jaw", "cm": 10.0},
        {"version": 3, "name": "JAW", "cm": 10.0},
    ],
)
def test_upgrades_follow_each_other_from_the_version_a_document_has(document):
    before = dict(document)
    assert GROWN.version == 3
    assert GROWN.upgraded(document) == {"version": 3, "name": "JAW", "cm": 10.0}
    assert document == before


@given(st.none() | st.booleans() | st.integers().filter(lambda n: not 1 <= n <= 3) | st.text() | st.floats())
def test_any_other_version_is_unknown(version):
    assert not GROWN.knows(version)
    with pytest.raises(ValueError):
        GROWN.upgraded({"version": version})


def test_a_newer_document_is_refused_in_words():
    document = json.loads(sample("reading-1")) | {"version": 2}
    with pytest.raises(FormatError, match="version 2"):
        reading_json.reading_from_dict(document)
