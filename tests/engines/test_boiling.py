"""Lines that boil, in the files that leave: on their frames, in pictures and movies, and not in vectors."""

import io
import json
import zipfile
import zlib

import numpy as np
import pytest
from PIL import Image

from tests.engines.conftest import maker
from tests.engines.test_motion_out import frames_of
from tests.scenes import reading_bytes
from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.scene.boil import Variant, displacement
from tinfork.core.scene.drawing import segments
from tinfork.engines.handover.command import hand_over, open_scene
from tinfork.engines.handover.rasters import boiled, raster


@pytest.fixture(scope="module")
def reading(tmp_path_factory):
    document = json.loads(reading_bytes())
    document["shot"]["boil"] = {"strength": 60, "rhythm": 3}
    path = tmp_path_factory.mktemp("boiling") / "r.json"
    path.write_text(json.dumps(document))
    return path


@pytest.fixture
def make(reading):
    return maker(reading)


def test_every_third_frame_has_another_variant_and_the_first_comes_back(make, reading):
    seen = [image.tobytes() for image in frames_of(make, of="characters", character="Odalys", size="320")]
    with open_scene(reading) as scene:
        holds = {hold.start for column in scene.figure("Odalys").columns for hold in column.holds}
    changes = {n for n in range(1, len(seen)) if seen[n] != seen[n - 1]}
    assert changes == set(range(3, len(seen), 3)) | (holds - {0})
    quiet = next(n for n in range(0, 30, 3) if not holds & set(range(n + 1, n + 10)))
    assert seen[quiet] == seen[quiet + 9]
    assert len({seen[quiet], seen[quiet + 3], seen[quiet + 6]}) == 3


def test_at_another_rate_the_same_variant_is_seen_at_the_same_time(reading):
    with open_scene(reading) as scene:
        own = {n: drawn for a, b, drawn in segments(scene, (320, 180), boils=True) for n in range(a, b)}
        for name in ("30", "12", "60"):
            other = scene.at_rate(FrameRate.parse(name))
            for start, end, drawn in segments(other, (320, 180), boils=True):
                for frame in range(start, end):
                    was = scene.rate.frame_at(other.rate.first_us(frame))
                    assert [p.variant for p in drawn] == [p.variant for p in own[min(was, scene.frames - 1)]]


def test_lines_are_where_they_were_on_average_and_colours_stay(make, tmp_path):
    (tmp_path / "still.json").write_bytes(reading_bytes())
    out = io.BytesIO()
    hand_over(tmp_path / "still.json", "pictures", {"of": "characters", "character": "Odalys", "size": "640"}, out)
    with zipfile.ZipFile(out) as archive:
        still = Image.open(io.BytesIO(archive.read(min(archive.namelist()))))
    moved = frames_of(make, of="characters", character="Odalys", size="640")[0]
    a, b = (np.asarray(image.convert("RGBA"), dtype=int) for image in (still, moved))
    away = np.abs(a - b).max(axis=2)
    # Lines have moved by a pixel or two; most of the picture has not changed.
    assert 0.002 < (away > 40).mean() < 0.15
    assert abs(a[..., 3].mean() - b[..., 3].mean()) < 2


def test_vectors_and_tables_are_those_of_still_lines(reading):
    with open_scene(reading) as scene:
        plain = list(segments(scene, (640, 360)))
        boiling = list(segments(scene, (640, 360), boils=True))
    assert all(placed.variant is None for _, _, drawn in plain for placed in drawn)
    assert all(placed.variant for _, _, drawn in boiling for placed in drawn)
    assert {start for start, _, _ in boiling} >= set(range(0, 48, 3))
    # All parts of a face boil as much: their fields are as wide as they are in heights of the face.
    faces = {p.key[0]: p.variant.wide for _, _, drawn in boiling for p in drawn if not p.key[1]}
    for _, _, drawn in boiling:
        for placed in drawn:
            face = next(p for p in drawn if p.key[:2] == (placed.key[0], ""))
            assert placed.variant.wide == pytest.approx(faces[placed.key[0]] * placed.size[0] / face.size[0], rel=1e-3)


def test_boil_comes_back_in_as_it_went_and_nonsense_is_refused(make, reading, tmp_path):
    assert json.loads(make("json"))["shot"]["boil"] == {"strength": 60, "rhythm": 3}
    document = json.loads(reading.read_text())
    # Tracings take turns even where nothing is displaced.
    document["shot"]["boil"] = {"strength": 0, "rhythm": 3}
    (tmp_path / "still.json").write_text(json.dumps(document))
    out = io.BytesIO()
    hand_over(tmp_path / "still.json", "json", {}, out)
    assert json.loads(out.getvalue())["shot"]["boil"] == {"strength": 0, "rhythm": 3}
    for wrong in ({"strength": 400}, {"strength": 4, "rhythm": 0}, {"strength": "much"}, 7):
        document["shot"]["boil"] = wrong
        (tmp_path / "wrong.json").write_text(json.dumps(document))
        with pytest.raises(FormatError):
            hand_over(tmp_path / "wrong.json", "json", {}, io.BytesIO())


def test_a_picture_that_is_cut_at_its_edge_stays_cut_there():
    size = 'viewBox="0 0 100 100" width="100" height="100"'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" {size}><rect y="40" width="100" height="60"/></svg>'
    picture = Picture(svg.encode(), ".svg")
    image = boiled(raster(picture, (200, 200)), picture, Variant(100, 0, 1.0))
    alpha = np.asarray(image.getchannel("A"))
    assert (alpha[-1] == 255).all()
    assert (alpha[:60] == 0).all()
    # The upper line is not straight any more.
    assert len({int(column.argmax()) for column in alpha.T}) > 3


def test_each_pixel_comes_from_where_the_field_says_across_and_down():
    """Of ramps one reads off where a pixel was taken from."""
    rows, columns = np.indices((120, 160))
    ramps = np.stack([columns * 1.5, rows * 2.0, rows * 0, rows * 0 + 255], axis=2).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(ramps, "RGBA").save(out, "PNG")
    picture, variant = Picture(out.getvalue(), ".png"), Variant(100, 1, 0.8)
    found = np.asarray(boiled(raster(picture, (160, 120)), picture, variant), dtype=float)
    right, down = displacement(variant, zlib.crc32(picture.data), (160, 120))
    inner = np.s_[8:-8, 8:-8]
    assert np.abs(right).max() > 1 and np.abs(down).max() > 1
    assert np.abs((columns - found[..., 0] / 1.5 - right)[inner]).max() < 1.1
    assert np.abs((rows - found[..., 1] / 2.0 - down)[inner]).max() < 0.9
