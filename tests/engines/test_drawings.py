"""Drawings that people bring: every kind, and everything that can be wrong with one."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms, PngImagePlugin

from tests.pictures import encoded, huge_png, ink_box, mouths, on_ground, ora, page
from tinfork.core.clock import FrameRate
from tinfork.core.errors import EngineError, FormatError
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.starter import STARTER, STARTERS, starter_pictures
from tinfork.core.mouths.style import Style
from tinfork.core.pictures.cutting import find_boxes
from tinfork.core.pictures.regions import Box
from tinfork.engines.characters import prepare_face
from tinfork.engines.drawings import measure_kept, picture_apart, picture_of, prepare, prepare_files
from tinfork.engines.limits import THUMB_SIDE
from tinfork.engines.redraw import clear, cut_page, find_on_page, recanvas
from tinfork.engines.starter_zip import starter_archive
from tinfork.engines.trying import try_sentence
from tools.attack.hostile.pictures import png_of, svg

OPEN = mouths()[14]


def nothing(phase, done):
    assert 0 <= done <= 1


@pytest.fixture
def file(tmp_path):
    def write(data, name="mouth.png"):
        path = tmp_path / "upload"
        path.write_bytes(data)
        return path, name

    return write


def frames_of(*numbers):
    first, *more = (Image.fromarray(mouths()[n]) for n in numbers)
    return first, more


def animated(kind, **options):
    first, more = frames_of(1, 5, 14)
    out = io.BytesIO()
    first.save(out, kind, save_all=True, append_images=more, **options)
    return out.getvalue()


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "TIFF"])
def test_a_drawing_with_alpha_comes_in_with_every_pixel(kind, file):
    more = {"lossless": True, "exact": True} if kind == "WEBP" else {}
    (drawing,) = prepare(*file(encoded(OPEN, kind, **more), "03 wide open.x"))
    assert drawing.name == "03 wide open"
    assert (drawing.width, drawing.height, drawing.suffix) == (400, 300, ".png")
    assert (picture_of(drawing.data, ".png") == OPEN).all()
    assert drawing.measures.box == Box(*ink_box(OPEN))
    assert not drawing.note


def test_a_jpeg_comes_in_with_its_opaque_ground_noticed(file):
    (drawing,) = prepare(*file(encoded(on_ground(OPEN), "JPEG"), "open.jpg"))
    assert drawing.measures.opaque
    assert drawing.measures.plain_ground
    freed = clear(drawing.data, drawing.suffix)
    assert not freed.measures.opaque
    assert ink_box(picture_of(freed.data, ".png")) == pytest.approx(ink_box(OPEN), abs=3)


MANY = [("GIF", {"disposal": 2}), ("PNG", {}), ("WEBP", {"lossless": True}), ("TIFF", {})]


@pytest.mark.parametrize(("kind", "options"), MANY)
def test_frames_and_pages_are_drawings_of_their_own(kind, options, file):
    drawings = prepare(*file(animated(kind, **options), "talk.bin"))
    assert [d.name for d in drawings] == ["talk 01", "talk 02", "talk 03"]
    for drawing, number in zip(drawings, (1, 5, 14), strict=True):
        assert ink_box(picture_of(drawing.data, ".png")) == pytest.approx(ink_box(mouths()[number]), abs=2)


def test_a_page_that_is_larger_than_the_first_is_refused(file):
    first = Image.new("1", (40, 30))
    out = io.BytesIO()
    first.save(out, "TIFF", save_all=True, append_images=[Image.new("1", (9000, 8000))], compression="group4")
    with pytest.raises(FormatError, match="more than 36 million"):
        prepare(*file(out.getvalue(), "scan.tif"))


def test_the_layers_of_an_openraster_file_come_in_place_bottom_first(file):
    left, top, right, bottom = ink_box(OPEN)
    drawings = prepare(*file(ora([("open", OPEN[top:bottom, left:right], left, top), ("rest", mouths()[1], 0, 0)])))
    assert [d.name for d in drawings] == ["rest", "open"]
    assert (picture_of(drawings[1].data, ".png")[top:bottom, left:right] == OPEN[top:bottom, left:right]).all()
    assert (drawings[1].width, drawings[1].height) == (400, 300)


@pytest.mark.parametrize(
    "data",
    [
        ora([], mimetype=b"application/zip"),
        ora([], stack="<image w='9'"),
        ora([], stack='<!DOCTYPE x [<!ENTITY a "b">]><image w="9" h="9">&a;</image>'),
        ora([], size=(90_000, 90_000)),
        ora([("x", OPEN, 0, 0)], stack='<image w="9" h="9"><layer src="../../etc/hostname"/></image>'),
    ],
)
def test_archives_that_are_no_openraster_are_refused(data, file):
    with pytest.raises(FormatError, match=r"“layers\.ora”"):
        prepare(*file(data, "layers.ora"))


def test_a_drawing_in_svg_stays_one_and_is_measured_in_its_units(file):
    (drawing,) = prepare(*file(starter_pictures()[14].encode(), "14.svg"))
    assert (drawing.suffix, drawing.width, drawing.height) == (".svg", 400, 300)
    assert drawing.measures.line == pytest.approx(8, abs=0.7)
    box = drawing.measures.box
    assert (box.left, box.top, box.right, box.bottom) == pytest.approx(ink_box(OPEN), abs=2)


def test_small_copies_are_small_and_have_the_canvas_shape(file):
    (drawing,) = prepare(*file(encoded(np.pad(OPEN, ((0, 1700), (0, 1600), (0, 0))))))
    thumb = Image.open(io.BytesIO(drawing.thumb))
    assert thumb.size == (THUMB_SIDE, THUMB_SIDE)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"hello", "is not a picture"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 400, "is not a picture"),
        (encoded(OPEN)[:2000], "cut off"),
        (huge_png(), "more than 36 million"),
        (huge_png(9000, 8000), "9000 x 8000 pixels, more than 36 million"),
        (huge_png(90_000, 90_000), "more than 36 million"),
        (b"RIFF\x24\0\0\0WAVEfmt ", "is not a picture"),
        (b"<svg", "is not a whole SVG"),
        (b"%PDF-1.4", "is not a picture"),
        (b"PK\x03\x04rest", "is not a picture"),
    ],
)
def test_what_is_no_picture_is_refused_with_its_name_and_reason(data, words, file):
    with pytest.raises(FormatError, match=rf"“mouth\.png”.*{words}"):
        prepare(*file(data))


def test_a_picture_in_printing_colours_is_turned_and_said_so(file):
    out = io.BytesIO()
    Image.new("CMYK", (60, 40), (0, 255, 255, 0)).save(out, "JPEG")
    (drawing,) = prepare(*file(out.getvalue(), "print.jpg"))
    assert "CMYK" in drawing.note
    red, green, blue, alpha = picture_of(drawing.data, ".png")[20, 30]
    assert red > 200
    assert max(green, blue) < 60
    assert alpha == 255


@pytest.mark.parametrize("mode", ["1", "L", "P", "LA", "I;16", "RGB"])
def test_every_mode_of_pixels_comes_in(mode, file):
    grey = Image.fromarray(np.tile(np.linspace(0, 255, 60).astype(np.uint8), (40, 1)))
    deep = Image.fromarray(np.asarray(grey).astype(np.uint16) * 257)
    image = deep if mode == "I;16" else grey.convert(mode)
    out = io.BytesIO()
    image.save(out, "PNG")
    (drawing,) = prepare(*file(out.getvalue()))
    pixels = picture_of(drawing.data, ".png")
    assert pixels.shape == (40, 60, 4)
    assert pixels[20, 55, 0] > 180
    assert pixels[20, 4, 0] < 80


def test_what_is_not_the_picture_does_not_come_in_with_it(file):
    notes = PngImagePlugin.PngInfo()
    notes.add_text("Secret", "a home address")
    (drawing,) = prepare(*file(encoded(OPEN, pnginfo=notes) + b"trailing"))
    assert b"home address" not in drawing.data
    assert b"trailing" not in drawing.data
    assert (picture_of(drawing.data, ".png") == OPEN).all()


def test_a_colour_profile_is_worked_in(file):
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    (drawing,) = prepare(*file(encoded(on_ground(OPEN), "JPEG", icc_profile=profile, quality=95)))
    apart = picture_of(drawing.data, ".png").astype(int) - on_ground(OPEN)
    assert np.abs(apart).mean() < 3


@pytest.mark.parametrize("name", ["рот 5.png", "口.png", "فم.png", "a" * 300 + ".png", "..png", "mouth"])
def test_names_in_any_alphabet_are_kept(name, file):
    (drawing,) = prepare(*file(encoded(OPEN), name))
    assert 0 < len(drawing.name) <= 80
    assert drawing.name in name


def test_one_bad_file_does_not_stop_the_others(tmp_path):
    files = []
    for at, data in enumerate([encoded(OPEN), b"no", encoded(mouths()[1])]):
        path = tmp_path / str(at)
        path.write_bytes(data)
        files.append((path, f"{at}.png"))
    seen = []
    prepared, troubles = prepare_files(files, lambda phase, done: seen.append(done))
    assert [p.name for p in prepared] == ["0", "2"]
    assert len(troubles) == 1
    assert "“1.png”" in troubles[0]
    assert seen[-1] == 1.0


@settings(max_examples=60)
@given(at=st.integers(0, 3000), garbage=st.binary(min_size=1, max_size=40))
def test_any_damage_is_a_picture_or_a_clear_error(tmp_path_factory, at, garbage):
    data = bytearray(encoded(OPEN))
    data[at : at + len(garbage)] = garbage
    path = Path(tmp_path_factory.getbasetemp()) / "damaged.png"
    path.write_bytes(bytes(data))
    try:
        (drawing,) = prepare(path, "damaged.png")
    except FormatError as error:
        assert "damaged.png" in str(error)
    else:
        assert picture_of(drawing.data, ".png").shape == (drawing.height, drawing.width, 4)


@pytest.mark.parametrize("suffix", [".png", ".svg"])
def test_a_drawing_on_another_canvas_keeps_its_pixels(suffix):
    data = encoded(OPEN) if suffix == ".png" else starter_pictures()[14].encode()
    wider = recanvas(data, suffix, Box(-40, -20, 460, 330))
    assert (wider.width, wider.height) == (500, 350)
    left, top, right, bottom = ink_box(OPEN)
    found = ink_box(picture_of(wider.data, suffix, width=500))
    assert found == pytest.approx((left + 40, top + 20, right + 40, bottom + 20), abs=1.5)
    back = recanvas(wider.data, suffix, Box(40, 20, 440, 320))
    assert ink_box(picture_of(back.data, suffix, width=400)) == pytest.approx(ink_box(OPEN), abs=1.5)


@pytest.mark.parametrize("suffix", [".png", ".svg"])
def test_drawings_made_here_are_measured_later_alike(suffix):
    data = encoded(OPEN) if suffix == ".png" else starter_pictures()[14].encode()
    thumb, measures = measure_kept(data, suffix)
    assert Image.open(io.BytesIO(thumb)).size == (320, 240)
    assert measures.line == pytest.approx(8, abs=0.8)


@pytest.mark.parametrize(
    ("data", "suffix"),
    [
        (encoded(on_ground(OPEN), "JPEG"), ".jpg"),
        (encoded(on_ground(OPEN)), ".jpg"),
        (encoded(OPEN), ".png"),
        (encoded(OPEN, "WEBP"), ".png"),
        (starter_pictures()[1].encode(), ".svg"),
    ],
)
def test_a_face_comes_in_as_what_suits_it(data, suffix):
    clean, kind, aspect = prepare_face(data, "face")
    assert kind == suffix
    assert aspect == pytest.approx(4 / 3, rel=0.01)
    assert clean


@pytest.mark.parametrize("data", [b"", b"no", huge_png(), encoded(OPEN, "TGA"), b"<svg>"])
def test_a_face_that_is_no_picture_is_refused(data):
    with pytest.raises(FormatError, match=r"“face\.png”"):
        prepare_face(data, "face.png")


def test_a_page_is_looked_at_and_cut_up(tmp_path):
    places = [(20 + (i % 5) * 320, 20 + (i // 5) * 220) for i in range(14)]
    path = tmp_path / "page.png"
    path.write_bytes(encoded(page(mouths().values(), places, (1800, 800))))
    data, size, parts = find_on_page(path, "page.png", nothing)
    boxes = find_boxes(parts)
    assert size == (1800, 800)
    assert len(boxes) == 14
    path.write_bytes(data)
    pieces = cut_page(path, boxes, nothing)
    assert [p.name for p in pieces] == [f"{n:02d}" for n in range(1, 15)]
    assert len({(p.width, p.height) for p in pieces}) == 1
    assert not any(p.measures.opaque for p in pieces)
    assert all(p.measures.line == pytest.approx(8, abs=0.8) for p in pieces)


def test_a_page_that_is_no_picture_is_refused(file):
    with pytest.raises(FormatError, match=r"page\.png"):
        find_on_page(*file(b"no", "page.png"), nothing)


@pytest.mark.parametrize("drawings", STARTERS)
def test_the_starter_archive_has_svg_and_png_by_number(drawings):
    data = starter_archive(Style(), drawings)
    # What it is made of does not change from one to the next.
    assert drawings > min(STARTERS) or data == starter_archive(Style(), drawings)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        names = archive.namelist()
        assert len(names) == 2 * drawings
        assert [n[4:6] for n in names if n.startswith("svg/")] == [f"{n:02d}" for n in range(1, drawings + 1)]
        assert Image.open(io.BytesIO(archive.read(names[1]))).size == (1600, 1200)


def test_a_sentence_is_tried_with_holds_over_its_whole_sound():
    tried = try_sentence("The warm loaf.", STARTER, FrameRate.parse("24"))
    assert tried.gaps == ()
    assert tried.holds[0].viseme == "rest"
    assert [h.start for h in tried.holds[1:]] == [h.end for h in tried.holds[:-1]]
    assert {"bilabial", "labiodental"} <= {h.viseme for h in tried.holds}


def test_a_sentence_says_what_the_chart_lacks():
    few = Chart((Drawing(1, "closed", ("rest", "bilabial")), Drawing(2, "open", ("open",))))
    assert "labiodental" in try_sentence("Five loaves.", few, FrameRate.parse("24")).gaps


def unheard(phase, done):
    """Nobody follows."""


def stack_of(width, height, layers):
    return f'<image w="{width}" h="{height}"><stack>{"<layer/>" * layers}</stack></image>'


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("bottomless.ora", lambda: ora([], stack=stack_of(6000, 6000, 190))),
        ("one-wide.ora", lambda: ora([], stack=stack_of(1, 30_000, 1))),
        ("one-wide.png", lambda: png_of(1, 36_000)),
        ("one-high.png", lambda: png_of(36_000, 1)),
        ("thin.svg", lambda: svg("<rect width='1' height='20000'/>", 'width="1" height="20000"')),
    ],
)
def test_small_files_that_would_cost_much_are_refused_at_once(file, name, data):
    with pytest.raises(FormatError, match=r"million pixels|as long as it is wide"):
        prepare(*file(data(), name))


def test_a_file_that_needs_more_memory_or_time_than_there_is_is_refused_alone(tmp_path):
    good, greedy, slow = tmp_path / "5.png", tmp_path / "greedy", tmp_path / "slow"
    good.write_bytes(encoded(OPEN))
    with pytest.raises(FormatError, match="“greedy” takes too much memory or time"):
        picture_apart(_takes_memory, reports=False, progress=unheard, name="greedy")
    with pytest.raises(FormatError, match="“slow” takes too much memory or time"):
        picture_apart(_takes_time, reports=False, progress=unheard, name="slow", limit_s=0.3)
    greedy.write_bytes(b"no picture")
    slow.write_bytes(b"")
    prepared, troubles = prepare_files([(greedy, "greedy"), (good, "5.png"), (slow, "slow")], unheard)
    assert [p.name for p in prepared] == ["5"]
    assert len(troubles) == 2


def _takes_memory():
    return len([bytearray(64 * 2**20) for _ in range(40)])


def _takes_time():
    import time

    time.sleep(60)


def test_a_child_that_is_killed_says_nothing_of_the_file():
    with pytest.raises(EngineError, match="Your files are kept; try again"):
        picture_apart(_is_killed, reports=False, progress=unheard, name="5.png")


def _is_killed():
    import os
    import signal

    os.kill(os.getpid(), signal.SIGKILL)


def test_pictures_are_opened_until_somebody_cancels(tmp_path):
    from tinfork.core.errors import Cancelled

    path = tmp_path / "5.png"
    path.write_bytes(encoded(OPEN))

    def cancel(phase, done):
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        prepare_files([(path, "5.png")] * 40, cancel)


def test_drawings_that_are_too_much_together_are_refused(tmp_path, monkeypatch):
    from tinfork.engines import drawings

    path = tmp_path / "5.png"
    path.write_bytes(encoded(OPEN))
    monkeypatch.setattr(drawings, "MAX_BROUGHT_BYTES", 3 * len(encoded(OPEN)))
    with pytest.raises(FormatError, match="Import fewer at once"):
        prepare_files([(path, "5.png")] * 8, unheard)
