"""Bent drawings, in the files that leave: pixels where they should be, in pictures and in what holds pictures."""

import base64
import io
import json
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import jsonschema
import numpy as np
import pytest
import resvg_py
from PIL import Image

from tests.engines.conftest import maker
from tests.engines.test_motion_out import frames_of
from tests.scenes import reading_bytes
from tinfork.core.errors import FormatError
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.scene.drawing import Placed
from tinfork.core.scene.layout import Affine
from tinfork.engines.handover.command import hand_over, open_scene
from tinfork.engines.handover.rendering import Renderer

#: The right corner up, the lower lip far down.
WOW = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 6, -20, 0, 0, 0, 24, 0, 0]
STILL = [0.0] * 6


def document(mouth):
    told = json.loads(reading_bytes())
    for figure in told["shot"]["figures"]:
        if figure["character"] == "Odalys":
            figure["motion"] = {"mouth": mouth}
    return told


@pytest.fixture(scope="module")
def reading(tmp_path_factory):
    """Odalys' mouth is bent from frame 6 on, more and more to frame 12."""
    path = tmp_path_factory.mktemp("bent") / "r.json"
    path.write_text(json.dumps(document([[6, STILL, "linear", 1, False], [12, [*STILL, *WOW], "hold", 1, False]])))
    return path


@pytest.fixture
def make(reading):
    return maker(reading)


def dots(*at):
    """A picture of 100 x 80 with dots at some places."""
    circles = "".join(f'<circle cx="{x}" cy="{y}" r="3"/>' for x, y in at)
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 80" width="100" height="80">{circles}</svg>'
    return Picture(svg.encode(), ".svg")


def middles(placed):
    """Where the ink of a picture has its middle, in the frame."""
    alpha = np.asarray(Renderer((420, 320), None).frame((placed,)).getchannel("A"), dtype=float)
    rows, columns = np.indices(alpha.shape)
    return tuple(((axis + 0.5) * alpha).sum() / alpha.sum() for axis in (columns, rows))


@pytest.mark.parametrize(
    "matrix", [Affine.moved(120, 90), Affine.moved(160.4, 120.7) @ Affine.turned(33) @ Affine.scaled(1.7, 1.7)]
)
@pytest.mark.parametrize(
    ("at", "pulled"),
    # By hand, from the quadratics through the cage: at 0.9 of the height the lower lip's counts 0.72; at 0.92 of the
    # width the corner's counts 0.7728.
    [((50, 72), (0, 0.72 * 24)), ((92, 40), (0.7728 * 6, 0.7728 * -20)), ((50, 40), (0, 0))],
)
def test_a_dot_lies_where_the_cage_pulls_it(matrix, at, pulled):
    placed = Placed(("Odalys", "mouth", "", 1), dots(at), matrix, (100, 80), bend=tuple(map(float, WOW)))
    # Hundredths of a picture 100 wide and 80 high.
    wanted = matrix.at(at[0] + pulled[0], at[1] + 0.8 * pulled[1])
    assert middles(placed) == pytest.approx(wanted, abs=0.35)


def test_a_cage_pulled_as_a_whole_moves_the_picture_and_changes_nothing_of_it():
    picture = dots((20, 20), (70, 60))
    plain, moved = (
        Renderer((420, 320), None).frame((Placed(("", "m", "", 1), picture, matrix, (100, 80), bend=bend),))
        for matrix, bend in ((Affine.moved(130, 114), ()), (Affine.moved(100, 90), (30.0, 30.0) * 9))
    )
    assert np.abs(np.asarray(plain, int) - np.asarray(moved, int)).max() <= 3


def test_what_reaches_out_of_its_picture_is_not_cut():
    far = (0.0, 0.0) * 6 + (0.0, 70.0) * 3
    placed = Placed(("", "m", "", 1), dots((50, 78)), Affine.moved(100, 90), (100, 80), bend=far)
    assert middles(placed)[1] > 90 + 80 + 30


def test_frames_are_bent_on_and_between_the_keys_and_nowhere_else(make, tmp_path):
    plain = tmp_path / "plain.json"
    plain.write_text(json.dumps(document([])))
    was = frames_of(maker(plain), of="characters", character="Odalys")
    seen = frames_of(make, of="characters", character="Odalys")
    changed = {n for n, (a, b) in enumerate(zip(was, seen, strict=True)) if a.tobytes() != b.tobytes()}
    with open_scene(plain) as scene:
        mouth = scene.figure("Odalys").mouth
        shown = {n for hold in mouth.holds if mouth.sprite(hold) for n in range(hold.start, hold.end)}
    assert changed == {n for n in shown if n > 6}
    assert len(changed) > 20


def test_vector_files_hold_bent_drawings_as_pictures_and_look_the_same(make):
    archive = zipfile.ZipFile(io.BytesIO(make("svg")))
    svg = archive.read(next(n for n in archive.namelist() if n.endswith(".svg"))).decode()
    root = ElementTree.fromstring(svg)
    space = "{http://www.w3.org/2000/svg}"
    pictures = {image.get("{http://www.w3.org/1999/xlink}href")[:22] for image in root.iter(f"{space}image")}
    assert "data:image/png;base64," in pictures
    # One frame alone, by another program: what is not seen on it is taken out.
    now = 14.5 / 48
    for parent in list(root.iter()):
        for use in list(parent):
            animate = use.find(f"{space}animate")
            if animate is None:
                continue
            times = [float(time) for time in animate.get("keyTimes").split(";")]
            values = dict(zip(times, animate.get("values").split(";"), strict=True))
            if values[max(time for time in times if time <= now)] == "inline":
                use.remove(animate)
            else:
                parent.remove(use)
    seen = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=ElementTree.tostring(root).decode()))))
    whole = frames_of(make, of="picture", ground="shot", size=str(seen.width))[14]
    assert seen.size == whole.size
    rows = [np.asarray(image.convert("RGB").reduce(3), int) for image in (seen, whole)]
    away = np.abs(rows[0] - rows[1]).max(axis=2)
    # But for edges, which each smooths in its own way.
    assert (away > 40).sum() < 12
    assert (away > 90).sum() == 0
    lottie = json.loads(make("lottie"))
    sizes = {
        Image.open(io.BytesIO(base64.b64decode(a["p"].split(",")[1]))).size == (a["w"], a["h"])
        for a in lottie["assets"]
    }
    assert sizes == {True}
    assert len(lottie["assets"]) > 9


def test_bends_come_back_in_as_they_went_and_are_in_the_schema(make):
    told = json.loads(make("json"))
    schema = json.loads((Path(__file__).parents[2] / "docs" / "formats" / "reading.schema.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(told)
    own = next(f for f in told["shot"]["figures"] if f["character"] == "Odalys")
    assert own["motion"]["mouth"][1][1] == [*STILL, *WOW]


@pytest.mark.parametrize("pose", [[*STILL, *WOW[:17]], [*STILL, *WOW, 0], [*STILL, *WOW[:17], 200]])
def test_a_damaged_bend_is_refused(tmp_path, pose):
    path = tmp_path / "r.json"
    path.write_text(json.dumps(document([[5, pose, "ease", 1, False]])))
    with pytest.raises(FormatError):
        hand_over(path, "json", {}, io.BytesIO())
