"""What moves, in the files that leave: opened, and laid out by other means than they were written with."""

import csv
import io
import json
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import jsonschema
import numpy as np
import openpyxl
import pypdfium2
import pytest
from PIL import Image

from tests.engines.conftest import maker
from tests.scenes import reading_bytes
from tinfork.core.errors import FormatError
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.scene.drawing import DrawnParts, Placed, segments
from tinfork.core.scene.layout import Affine
from tinfork.engines.handover.command import hand_over, open_scene
from tinfork.engines.handover.lottie import taken_apart
from tinfork.engines.handover.rendering import Renderer

#: Odalys' head turns from frame 10 to frame 20 and leans from there; her mouth goes down and grows by itself.
HEAD = [
    [10, [0, 0, 0, 0, 0, 0], "linear", 1, False],
    [20, [0, 0, 30, 0, 0, 0], "linear", 2, False],
    [30, [5, 0, 30, 20, 15, 0], "hold", 1, True],
]
MOUTH = [[0, [0, 0, 0, 0, 0, 0], "linear", 1, False], [24, [0, 10, 0, 0, 0, 50], "hold", 1, False]]


@pytest.fixture(scope="module")
def reading(tmp_path_factory):
    document = json.loads(reading_bytes())
    for figure in document["shot"]["figures"]:
        if figure["character"] == "Odalys":
            figure["motion"] = {"head": HEAD, "mouth": MOUTH}
    path = tmp_path_factory.mktemp("moving") / "r.json"
    path.write_text(json.dumps(document))
    return path


@pytest.fixture
def make(reading):
    return maker(reading)


def frames_of(make, **options):
    archive = zipfile.ZipFile(io.BytesIO(make("pictures", **options)))
    return [Image.open(archive.open(n)).convert("RGBA") for n in sorted(archive.namelist()) if n.endswith(".png")]


def test_motion_comes_back_in_as_it_went_and_is_in_the_schema(make, reading):
    document = json.loads(make("json"))
    schema = json.loads((Path(__file__).parents[2] / "docs" / "formats" / "reading.schema.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(document)
    own = next(f for f in document["shot"]["figures"] if f["character"] == "Odalys")
    assert own["motion"] == {"head": HEAD, "mouth": MOUTH}
    assert "motion" not in next(f for f in document["shot"]["figures"] if f["character"] == "Brindle")


def test_pictures_change_where_it_moves_and_on_twos_every_second_frame(make):
    still = frames_of(make, of="characters", character="Odalys")
    seen = [np.asarray(image).tobytes() for image in still]
    changes = {n for n in range(1, len(seen)) if seen[n] != seen[n - 1]}
    holds = {6, 8, 12, 24, 30}
    assert set(range(11, 21)) <= changes
    # The mouth alone moves up to frame 24; the head goes on twos from 20 to 30.
    assert {22, 24, 26, 28, 30} <= changes
    assert not changes & ({25, 27, 29} | set(range(31, 48))) - holds


def test_a_turned_head_is_the_picture_turned_about_the_middle_of_its_lower_edge(make, reading):
    with open_scene(reading) as scene:
        figure = scene.figure("Odalys")
    size = (640, 360)
    plain = scene.until(1)
    ((_, _, drawn),) = segments(plain, size, DrawnParts.FACES, "Odalys")
    box, matrix = drawn[0].size, drawn[0].matrix
    whole = Renderer(size, None).frame(drawn)
    pivot = matrix.at(box[0] / 2, box[1])
    turned = whole.rotate(-30, Image.Resampling.BICUBIC, center=pivot)
    moved = next(d for a, b, d in segments(scene, size, DrawnParts.FACES, "Odalys") if a <= 20 < b)
    found = Renderer(size, None).frame(moved)
    away = np.abs(np.asarray(found.reduce(4), dtype=int) - np.asarray(turned.reduce(4), dtype=int))
    assert figure.motions
    assert (away.max(axis=2) < 40).mean() > 0.97


@pytest.mark.parametrize("turn", [0, 30, -75])
@pytest.mark.parametrize("by", [(0.0, 0.0), (0.5, 0.25), (-20.3, 11.8)])
def test_what_is_moved_by_parts_of_a_pixel_has_its_middle_where_it_should(turn, by):
    shape = '<rect x="20" y="10" width="30" height="44"/>'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 80 60" width="80" height="60">{shape}</svg>'
    matrix = Affine.moved(100 + by[0], 90 + by[1]) @ Affine.turned(turn) @ Affine.scaled(1.3, 1.3)
    placed = Placed(("Odalys", "", "", 0), Picture(svg.encode(), ".svg"), matrix, (80, 60))
    alpha = np.asarray(Renderer((320, 240), None).frame((placed,)).getchannel("A"), dtype=float)
    rows, columns = np.indices(alpha.shape)
    # Middles of pixels lie at halves.
    middle = [((axis + 0.5) * alpha).sum() / alpha.sum() for axis in (columns, rows)]
    assert middle == pytest.approx(matrix.at(35, 32), abs=0.05)
    assert alpha.sum() / 255 == pytest.approx(30 * 44 * 1.3**2, rel=0.01)


def test_vector_files_have_each_drawing_once_however_it_moves(make):
    archive = zipfile.ZipFile(io.BytesIO(make("svg")))
    root = ElementTree.fromstring(archive.read(next(n for n in archive.namelist() if n.endswith(".svg"))))
    space = "{http://www.w3.org/2000/svg}"
    images = list(root.iter(f"{space}image"))
    titles = [image.findtext(f"{space}title") for image in images]
    assert len(titles) == len(set(titles)) == 8
    uses = [use for use in root.iter(f"{space}use") if use.find(f"{space}animate") is not None]
    assert len(uses) > 20
    document = json.loads(make("lottie"))
    assert len(document["assets"]) == 9
    assert len(document["layers"]) > 20
    assert any("sk" in layer["ks"] for layer in document["layers"])
    assert len(json.dumps(document)) < 3_000_000


def test_a_map_is_taken_apart_into_turn_lean_and_scales():
    """As Lottie puts it together: scaled, leaned, then turned."""
    dice = np.random.default_rng(3)
    for _ in range(200):
        turn, lean = dice.uniform(-179, 179), dice.uniform(-50, 50)
        across, down = dice.choice([-1, 1]) * dice.uniform(0.2, 3), dice.uniform(0.2, 3)
        t, k = np.radians(turn), np.tan(np.radians(lean))
        whole = (
            np.array([[np.cos(t), -np.sin(t)], [np.sin(t), np.cos(t)]])
            @ np.array([[1, -k], [0, 1]])
            @ np.diag([across, down])
        )
        found = taken_apart(Affine(whole[0, 0], whole[1, 0], whole[0, 1], whole[1, 1]))
        assert found == pytest.approx((turn, lean, across, down), abs=1e-6)


def test_the_sheet_has_the_keys_of_what_moves(make):
    rows = list(csv.DictReader(io.StringIO(make("sheet-csv").decode())))
    assert [(n, r["Odalys head moves"]) for n, r in enumerate(rows) if r["Odalys head moves"]] == [
        (10, "rest"),
        (20, "turn 30°"),
        (30, "right 5, turn 30°, stretch 20, lean 15°"),
    ]
    assert rows[24]["Odalys mouth moves"] == "down 10, size 50"
    assert not any(name.startswith("Brindle") and name.endswith("moves") for name in rows[0])
    book = openpyxl.load_workbook(io.BytesIO(make("sheet-xlsx")))
    sheet = book.active
    at = [cell.value for cell in sheet[1]].index("Odalys head moves")
    assert sheet[22][at].value == "turn 30°"
    plain, moving = (pypdfium2.PdfDocument(make("sheet-pdf", moves=moves)) for moves in ("no", "yes"))
    texts = [document[0].get_textpage().get_text_range() for document in (plain, moving)]
    assert "turn 30°" not in texts[0]
    assert "turn 30°" in texts[1]


def test_layers_have_each_drawing_once_as_it_is_on_the_frame(make):
    names = []
    for frame in ("101", "121"):
        archive = zipfile.ZipFile(io.BytesIO(make("layers", frame=frame)))
        root = ElementTree.fromstring(archive.read("stack.xml"))
        names.append([layer.get("name") for layer in root.iter("layer")])
        merged = Image.open(archive.open("mergedimage.png"))
        assert merged.size == (640, 360)
    assert names[0] == names[1]
    assert len(names[0]) == 9


def test_another_rate_shows_the_same_pose_at_the_same_time(make):
    own = frames_of(make, of="characters", character="Odalys")
    halved = frames_of(make, of="characters", character="Odalys", fps="12")
    assert [np.asarray(a).tobytes() for a in halved] == [np.asarray(a).tobytes() for a in own[::2]]


@pytest.mark.parametrize(
    "motion",
    [
        {"head": [[5, [0] * 5, "ease", 1, False]]},
        {"head": [[5, [0] * 6, "bounce", 1, False]]},
        {"head": [[5, [0] * 6, "ease", 0, False]]},
        {"head": [[5, [0] * 6, "ease", 1, False], [5, [0] * 6, "ease", 1, False]]},
        {"head": [[-1, [0] * 6, "ease", 1, False]]},
        {"head": [[5, [9999] * 6, "ease", 1, False]]},
        {"head": 7},
        [],
    ],
)
def test_damaged_motion_is_refused(reading, motion, tmp_path):
    document = json.loads(reading.read_text())
    document["shot"]["figures"][0]["motion"] = motion
    path = tmp_path / "r.json"
    path.write_text(json.dumps(document))
    with pytest.raises(FormatError):
        hand_over(path, "json", {}, io.BytesIO())
