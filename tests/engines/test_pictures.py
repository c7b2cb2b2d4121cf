import io
import wave
import zipfile

import numpy as np
import pytest
from PIL import Image

from tinfork.core.mouths.placement import Placement, Registration, lay
from tinfork.core.mouths.starter import starter_pictures
from tinfork.core.solver.problem import Hold
from tinfork.engines.decode import Sound, write_sound
from tinfork.engines.drawings import picture_of
from tinfork.engines.pictures import MouthColumn, mouth_picture, write_sequence

SVG = starter_pictures()
PLACE = Placement(0.5, 0.7, 0.3)


CENTRED = Registration.centred(400, 300)


def laid_picture(number, size, place=PLACE, registration=CENTRED):
    laid = lay(place, registration, size)
    return mouth_picture(picture_of(SVG[number].encode(), ".svg", width=round(laid.width)), laid, size)


def ink(png):
    return np.array(Image.open(io.BytesIO(png)).convert("RGBA"))[:, :, 3] > 128


@pytest.mark.parametrize("number", SVG)
def test_every_mouth_is_in_its_place_on_a_clear_picture(number):
    mask = ink(laid_picture(number, (960, 540)))
    rows, columns = np.nonzero(mask)
    assert mask.shape == (540, 960)
    assert 0 < mask.mean() < 0.1
    assert abs((columns.min() + columns.max()) / 2 - 480) <= 1.5
    assert rows.min() < 0.7 * 540 + 4 < rows.max() + 8


def test_a_tall_frame_fits_the_face_whole():
    x, y, width = Placement(0.5, 0.5, 0.5, aspect=16 / 9).in_frame((1080, 1920))
    assert (x, y, width) == (540, 960, 540)


def test_the_zip_has_a_picture_per_frame_by_number_for_each_column_and_the_sound(tmp_path):
    pictures = {("", n): laid_picture(n, (160, 90)) for n in (1, 14)}
    target, wav = tmp_path / "out.zip", tmp_path / "mix.wav"
    write_sound(Sound(np.zeros((12_000, 1), np.float32), 48_000), wav)
    holds = (Hold(0, 3, 1, "rest"), Hold(3, 6, 14, "open"))
    columns = [MouthColumn("020_counter", holds, pictures), MouthColumn("pim/020", holds[:1], pictures)]
    write_sequence(target, columns=columns, sound=("020_counter.wav", wav), first_frame=55)
    with zipfile.ZipFile(target) as archive:
        names = [f"020_counter.{n:04d}.png" for n in range(55, 61)] + [f"pim/020.{n:04d}.png" for n in range(55, 58)]
        assert archive.namelist() == [*names, "020_counter.wav"]
        assert archive.read("020_counter.0057.png") == pictures["", 1]
        assert archive.read("020_counter.0058.png") == pictures["", 14]
        with wave.open(io.BytesIO(archive.read("020_counter.wav"))) as sound:
            assert sound.getnframes() == 12_000


def middle(mask):
    rows, columns = np.nonzero(mask)
    return (columns.min() + columns.max()) / 2, (rows.min() + rows.max()) / 2


def test_an_offset_of_the_drawing_moves_its_ink_by_as_much():
    still = middle(ink(laid_picture(14, (960, 540))))
    moved = Registration(400, 300, 400, 200, 150, dx=40, dy=-20)
    x, y = middle(ink(laid_picture(14, (960, 540), registration=moved)))
    scale = 0.3 * 960 / 400
    assert (x - still[0], y - still[1]) == pytest.approx((40 * scale, -20 * scale), abs=1.5)


def test_a_turned_mouth_turns_around_the_place():
    upright = ink(laid_picture(12, (960, 540)))
    turned = ink(laid_picture(12, (960, 540), Placement(0.5, 0.7, 0.3, angle=90)))
    for mask, wide in ((upright, True), (turned, False)):
        rows, columns = np.nonzero(mask)
        assert (np.ptp(columns) > 2 * np.ptp(rows)) == wide
    assert abs(turned.sum() / upright.sum() - 1) < 0.05
