"""Archives of characters and of sets: round trips, and every damage a clear error."""

import io
import json
import zipfile

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tinfork.core.errors import FormatError
from tinfork.core.formats import character_zip, picture_zip, set_zip
from tinfork.core.formats.character_zip import PackedCharacter, PackedPart
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.formats.set_zip import PackedDrawing, PackedFace, PackedSet
from tinfork.core.mouths.chart import Drawing
from tinfork.core.mouths.placement import Placement
from tinfork.core.speech.visemes import SOUNDS, VISEMES

names = st.text(st.characters(blacklist_categories=("C", "Z")), min_size=1, max_size=20)
claims = st.lists(st.sampled_from([*VISEMES, *SOUNDS[1:]]), max_size=4, unique=True).map(tuple)
numbers = st.floats(-5000, 5000, allow_nan=False)
pictures = st.builds(Picture, st.binary(min_size=1, max_size=40), st.sampled_from([".png", ".svg"]))


tracings = st.lists(pictures, max_size=2).map(tuple)


@st.composite
def sets(draw, name):
    drawings = draw(
        st.lists(
            st.builds(
                PackedDrawing,
                st.builds(Drawing, st.integers(0, 9999), names, claims, st.sampled_from([-1, 0, 1])),
                st.sampled_from(["", "a", "7"]),
                st.booleans(),
                st.floats(1, 5000),
                st.tuples(numbers, numbers),
                st.tuples(numbers, numbers),
                pictures,
                tracings,
            ),
            max_size=4,
            unique_by=lambda d: d.drawing.number,
        )
    )
    return PackedSet(name, tuple(drawings), draw(st.none() | faces()))


@st.composite
def faces(draw):
    """A face that a set brings with it."""
    aspect = draw(st.floats(0.2, 4))
    place = st.builds(Placement, st.floats(0, 1), st.floats(0, 1), st.floats(0.01, 1), st.just(aspect), st.just(7.5))
    places = draw(st.dictionaries(names, st.none() | place, max_size=2))
    return PackedFace(draw(pictures), aspect, places, draw(tracings))


@st.composite
def characters(draw):
    aspect = draw(st.floats(0.2, 4))
    place = st.builds(
        Placement, st.floats(0, 1), st.floats(0, 1), st.floats(0.01, 1), st.just(aspect), st.floats(-180, 180)
    )
    face = draw(st.none() | pictures)
    parts = tuple(
        PackedPart(
            kind, name, draw(place), tuple(draw(sets(n)) for n in draw(st.sampled_from([("calm",), ("a", "b")])))
        )
        for kind, name in (("mouth", "Mouth"), ("eyes", "Eyes"))[: draw(st.integers(1, 2))]
    )
    aspect = aspect if face else 16 / 9
    parts = tuple(
        PackedPart(p.kind, p.name, Placement(p.place.x, p.place.y, p.place.width, aspect, p.place.angle), p.sets)
        for p in parts
    )
    traced = draw(tracings) if face else ()
    return PackedCharacter(draw(names), draw(st.integers(1, 6)), face, aspect, parts, traced)


@settings(max_examples=60)
@given(characters())
def test_a_character_survives_its_archive(character):
    data = character_zip.write(character)
    assert character_zip.read(data) == character
    assert character_zip.write(character) == data


def set_archive(one, kind="mouth"):
    out = io.BytesIO()
    set_zip.write_to(out, one, kind)
    return out.getvalue()


@settings(max_examples=60)
@given(names.flatmap(sets), st.sampled_from(["mouth", "eyes", "brows", "other"]))
def test_a_set_survives_its_archive(one, kind):
    data = set_archive(one, kind)
    assert set_zip.read(data) == (one, kind)
    assert set_archive(one, kind) == data


def example():
    drawing = PackedDrawing(Drawing(1, "rest", ("rest",)), "a", False, 10, (5, 5), (0, 0), Picture(b"png", ".png"))
    part = PackedPart("mouth", "Mouth", Placement(0.5, 0.5, 0.3), (PackedSet("calm", (drawing,)),))
    return PackedCharacter("Pim", 3, None, 16 / 9, (part,))


def changed(change, drop=(), archive=None):
    """An archive, the example's if none is given, with its manifest changed, or files left out."""
    out = io.BytesIO()
    data = archive or character_zip.write(example())
    with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(out, "w") as after:
        for name in before.namelist():
            content = before.read(name)
            if name.endswith(".json"):
                manifest = json.loads(content)
                change(manifest)
                content = json.dumps(manifest).encode()
            if name not in drop:
                after.writestr(name, content)
    return out.getvalue()


def put(*path, value):
    def change(manifest):
        for step in path[:-1]:
            manifest = manifest[step]
        manifest[path[-1]] = value

    return change


D = ("parts", 0, "sets", 0, "drawings", 0)


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "not a whole ZIP"),
        (b"PK\x03\x04" + b"\0" * 60, "not a whole ZIP"),
        (character_zip.write(example())[:-30], "not a whole ZIP"),
        (changed(lambda m: None, drop=("character.json",)), "no “character.json”"),
        (changed(lambda m: None, drop=("01-Mouth/01-calm/001-rest.png",)), "is missing"),
        (changed(put("format", value="other")), "not a character"),
        (changed(put("version", value=9)), "newer version"),
        (changed(put("name", value="")), "damaged"),
        (changed(put("name", value=7)), "damaged"),
        (changed(put("ink", value=9)), "damaged"),
        (changed(put("parts", value=[])), "one mouth"),
        (changed(put("parts", 0, "kind", value="tail")), "damaged"),
        (changed(put("parts", 0, "place", "width", value=99)), "outside the picture"),
        (changed(put("parts", 0, "sets", value=[])), "damaged"),
        (changed(put(*D, "shows", value=["quack"])), "not a sound"),
        (changed(put(*D, "file", value="x.exe")), "damaged"),
        (changed(put(*D, "number", value=-1)), "below"),
        (changed(put(*D, "number", value=10**9)), "damaged"),
        (changed(put(*D, "canvas", value=0)), "damaged"),
        (changed(put(*D, "point", value=[1])), "damaged"),
        (changed(put(*D, "point", value=[1e99, 0])), "damaged"),
        (changed(put(*D, "size", value=5)), "neither small"),
    ],
)
def test_what_is_no_archive_of_a_character_is_refused(data, why):
    with pytest.raises(FormatError, match=why):
        character_zip.read(data)


SET = set_archive(example().parts[0].sets[0])


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (SET[:-30], "not a whole ZIP"),
        (character_zip.write(example()), "not a set of drawings"),
        (changed(lambda m: None, drop=("drawings/001-rest.png",), archive=SET), "is missing"),
        (changed(put("format", value="tin-fork-character"), archive=SET), "not a set of drawings"),
        (changed(put("version", value=2), archive=SET), "newer version"),
        (changed(put("kind", value="tail"), archive=SET), "damaged"),
        (changed(put("drawings", value=None), archive=SET), "damaged"),
        (changed(put("drawings", 0, "shows", value=["quack"]), archive=SET), "not a sound"),
        (changed(put("drawings", 0, "tracings", value=["gone.png"]), archive=SET), "is missing"),
        (changed(put("drawings", 0, "tracings", value=["a.png"] * 8), archive=SET), "damaged"),
        (changed(put("drawings", 0, "tracings", value=7), archive=SET), "damaged"),
    ],
)
def test_what_is_no_archive_of_a_set_is_refused(data, why):
    with pytest.raises(FormatError, match=why):
        set_zip.read(data)


def test_a_set_is_no_character():
    with pytest.raises(FormatError, match="not a character"):
        character_zip.read(SET)


def test_an_archive_that_unpacks_without_end_is_refused(monkeypatch):
    monkeypatch.setattr(picture_zip, "MAX_BYTES", 10_000)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("character.json", "{}")
        archive.writestr("bomb", b"\0" * 1_000_000)
    with pytest.raises(FormatError, match="larger than"):
        character_zip.read(out.getvalue())


@settings(max_examples=120)
@given(st.integers(0, 900), st.binary(min_size=1, max_size=6))
def test_any_damage_is_read_or_refused(at, garbage):
    data = bytearray(character_zip.write(example()))
    at %= len(data)
    data[at : at + len(garbage)] = garbage
    try:
        assert character_zip.read(bytes(data)).parts
    except FormatError as error:
        assert "cannot be imported" in str(error)


@pytest.mark.parametrize(
    ("parts", "sets", "drawings", "why"),
    [(13, 1, 1, "13 parts"), (1, 41, 1, "41 sets"), (501, 1, 1, "501 parts"), (1, 1, 201, "damaged")],
)
def test_an_archive_is_held_to_what_the_pages_are(parts, sets, drawings, why):
    from tools.attack.hostile.archives import character

    with pytest.raises(FormatError, match=why):
        character_zip.read(character_zip.write(character(parts, sets, drawings)))


def test_an_archive_as_large_as_may_be_is_read():
    from tools.attack.hostile.archives import character

    packed = character_zip.read(character_zip.write(character(12, 40, 2)))
    assert (len(packed.parts), len(packed.parts[3].sets)) == (12, 40)


@pytest.mark.parametrize("number", [float("nan"), float("inf"), -float("inf")])
def test_numbers_that_are_no_json_are_refused(number):
    with pytest.raises(FormatError, match="not JSON"):
        character_zip.read(changed(put("parts", 0, "place", "x", value=number)))
