"""Ways out: each file is opened by a reader of somebody else's, and says what the shot says."""

import csv
import io
import json
import subprocess
import wave
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import jsonschema
import lottie_specs
import numpy as np
import openpyxl
import opentimelineio as otio
import pypdfium2
import pysubs2
import pytest
from PIL import Image, ImageChops
from praatio import textgrid as praat

from tests.scenes import READING, reading_bytes
from tinfork.core.errors import FormatError
from tinfork.core.formats import reading_json
from tinfork.core.scene.drawing import segments
from tinfork.engines.handover.command import hand_over, open_scene
from tinfork.engines.handover.movie import Planes
from tinfork.engines.handover.picture_sequence import linear
from tinfork.engines.handover.rendering import Renderer
from tinfork.engines.handover.table import EXPORTERS

ASKED = {"movie", "gif", "pictures", "layers", "sheet-pdf", "sheet-xlsx", "csv", "json", "textgrid", "srt", "vtt"}
ASKED |= {"otio", "edl", "lottie", "svg", "gltf", "usd", "weights-csv", "archive"}
#: Where the holds of Odalys begin, and how long they are.
HOLDS = [("101", "6"), ("107", "2"), ("109", "4"), ("113", "12"), ("125", "6"), ("131", "18")]


@pytest.fixture
def scene(files):
    with open_scene(files / "r.json") as opened:
        yield opened


def probed(data, tmp_path, suffix=".bin"):
    path = tmp_path / f"out{suffix}"
    path.write_bytes(data)
    command = ["ffprobe", "-v", "error", "-count_frames", "-show_streams", "-show_format", "-of", "json", str(path)]
    said = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)
    return {stream["codec_type"]: stream for stream in said["streams"]}


def test_the_table_has_every_kind_once_and_an_unknown_one_is_refused_with_the_list(make):
    kinds = [exporter.kind for exporter in EXPORTERS]
    assert len(set(kinds)) == len(kinds) and set(kinds) >= ASKED
    with pytest.raises(FormatError, match=r"no format called “mowie”.*movie"):
        make("mowie")


@pytest.mark.parametrize("exporter", EXPORTERS, ids=lambda exporter: exporter.kind)
def test_the_same_shot_gives_the_same_bytes_and_an_unknown_option_is_refused(exporter, make):
    first = make(exporter.kind)
    # A spreadsheet says when it was written.
    assert len(first) > 60 and (exporter.kind == "sheet-xlsx" or first == make(exporter.kind))
    with pytest.raises(FormatError, match="has no option “colour of the sky”"):
        make(exporter.kind, **{"colour of the sky": "green"})


def test_a_sheet_of_one_character_says_drawings_by_number_name_and_file(make):
    rows = list(csv.DictReader(io.StringIO(make("csv", character="Odalys", rows="holds").decode())))
    assert [(r["frame"], r["frames"]) for r in rows] == HOLDS
    assert [r["drawing"] for r in rows] == ["1", "2", "13", "7", "", "1"]
    assert rows[3]["word"] == "Brindle" and rows[3]["note"] == "'=1+1 look left"
    named = list(csv.DictReader(io.StringIO(make("csv", rows="holds", drawings="name", first="1").decode())))
    assert [r["drawing"] for r in named[:3]] == ["rest", "lips together", "half open"] and named[0]["frame"] == "1"
    with pytest.raises(FormatError):
        make("csv", drawings="colour")


def test_another_rate_shows_what_was_seen_when_each_frame_begins(make):
    rows = list(csv.DictReader(io.StringIO(make("csv", character="Odalys", fps="25").decode())))
    holds = READING["tracks"][0]["holds"]
    for n, row in enumerate(rows):
        due = next(h for h in holds if h["start"] * 25 <= n * 24 < h["end"] * 25)
        assert row["drawing"] == ("" if due["drawing"] is None else str(due["drawing"]))
    assert len(rows) == 50


def test_praat_reads_the_textgrid_in_both_layouts(make, tmp_path):
    for layout in ("long_textgrid", "short_textgrid"):
        path = tmp_path / f"{layout}.TextGrid"
        path.write_bytes(make("textgrid", layout=layout))
        grid = praat.openTextgrid(str(path), includeEmptyIntervals=False)
        assert grid.tierNames[:4] == ("Odalys lines", "Odalys words", "Odalys sounds", "Odalys mouth")
        words = [(round(i.start, 6), round(i.end, 6), i.label) for i in grid.getTier("Odalys words").entries]
        assert words == [(0.25, 0.5, "Bread"), (0.5, 1.0, "Brindle")]
        assert [i.label for i in grid.getTier("Brindle words").entries] == ["はい"]
        assert [i.label for i in grid.getTier("Odalys mouth").entries] == ["1", "2", "13", "7", "1"]


def test_subtitles_by_line_and_by_word(make):
    srt = pysubs2.SSAFile.from_string(make("srt").decode())
    assert [(e.start, e.end, e.plaintext) for e in srt] == [(250, 1000, "Bread, Brindle."), (1250, 1500, "はい")]
    vtt = pysubs2.SSAFile.from_string(make("vtt", cues="words").decode())
    assert [e.plaintext for e in vtt] == ["Bread", "Brindle", "はい"]


def test_a_timeline_has_a_track_for_each_mouth_a_clip_for_each_hold_and_a_marker_for_each_line(make):
    timeline = otio.adapters.read_from_string(make("otio").decode(), "otio_json")
    tracks = {track.name: track for track in timeline.tracks}
    assert set(tracks) == {"Odalys mouth", "Brindle mouth", "Sound"}
    assert all(track.duration() == otio.opentime.RationalTime(48, 24) for track in tracks.values())
    assert [c.name for c in tracks["Odalys mouth"].find_clips()] == ["1", "2", "13", "7", "1"]
    assert [m.name for m in timeline.tracks.markers] == ["Odalys: Bread, Brindle.", "Brindle: はい"]


def test_an_edit_list_is_read_with_the_holds_at_their_times(make):
    timeline = otio.adapters.read_from_string(make("edl", character="Odalys").decode(), "cmx_3600", rate=24)
    (track,) = timeline.video_tracks()
    spans = [(clip.name, clip.range_in_parent().start_time.value, clip.duration().value) for clip in track.find_clips()]
    assert spans == [("01 rest", 0, 6), ("02 lips together", 6, 2), ("13 half open", 8, 4),
                     ("07 tongue on the ridge", 12, 12), ("01 rest", 30, 18)]  # fmt: skip


def test_a_spreadsheet_has_a_row_a_frame_with_heads_and_stems_and_no_formula(make):
    sheet = openpyxl.load_workbook(io.BytesIO(make("sheet-xlsx"))).active
    rows = list(sheet.iter_rows(values_only=True))
    heads = rows[0]
    assert heads == ("frame", "timecode", "feet", "Odalys words", "Odalys sounds", "Odalys mouth", "Brindle words",
                     "Brindle sounds", "Brindle mouth", "notes")  # fmt: skip
    assert len(rows) == 49 and rows[1][0] == 101
    assert [rows[1 + n][5] for n in (0, 1, 6, 8, 24)] == [1, "│", 2, 13, "×"]
    assert rows[13][9] == "'=1+1 look left" and rows[17][2] == "1+00"
    table = list(csv.reader(io.StringIO(make("sheet-csv").decode())))
    assert [[str(v or "") for v in row] for row in rows] == table


def test_paper_has_the_pages_the_words_in_their_alphabets_and_ink(make):
    document = pypdfium2.PdfDocument(make("sheet-pdf", seconds="1"))
    assert len(document) == 2
    text = document[0].get_textpage().get_text_range()
    for part in ("020 The counter", "1 of 2", "Bread", "ɹ", "ˈɛ", "124", "00:00:00:12"):
        assert part in text
    assert "はい" in document[1].get_textpage().get_text_range()
    page = document[0].render(scale=1).to_pil().convert("L")
    assert 0.005 < (np.asarray(page) < 128).mean() < 0.2
    widths = [
        pypdfium2.PdfDocument(make("sheet-pdf", paper=paper))[0].get_size()[0] for paper in ("a4", "a3", "letter")
    ]
    assert [round(width) for width in widths] == [595, 842, 612]


def test_arabic_is_shaped_and_words_without_a_font_do_not_stop_the_page(files, tmp_path):
    document = json.loads(reading_bytes())
    document["lines"][0]["words"][0]["text"] = "سلام"
    document["lines"][0]["words"][1]["text"] = "𐎀" * 40
    (tmp_path / "r.json").write_text(json.dumps(document))
    out = io.BytesIO()
    hand_over(tmp_path / "r.json", "sheet-pdf", {}, out)
    assert len(pypdfium2.PdfDocument(out.getvalue())) == 1


def test_the_kit_names_each_mouth_and_what_fewer_cost(make):
    pages = pypdfium2.PdfDocument(make("kit-pdf", character="Odalys"))
    text = pages[0].get_textpage().get_text_range()
    assert "Odalys: 4 mouths to make" in text and "lips together" in text and "12 mouths:" in text


def test_a_movie_is_what_players_expect(make, tmp_path):
    data = make("movie", size="320", handles="3", burn_frame="yes", burn_word="yes")
    streams = probed(data, tmp_path, ".mp4")
    picture, sound = streams["video"], streams["audio"]
    assert (picture["codec_name"], picture["pix_fmt"], picture["color_space"]) == ("h264", "yuv420p", "bt709")
    assert (picture["width"], picture["height"], picture["r_frame_rate"]) == (320, 180, "24/1")
    assert picture["nb_read_frames"] == str(48 + 6) and abs(float(sound["duration"]) - 54 / 24) < 0.03
    assert data.index(b"moov") < data.index(b"mdat")


def test_the_sound_of_a_movie_begins_where_the_part_does(make, tmp_path):
    path = tmp_path / "m.mov"
    path.write_bytes(make("movie", format="prores", size="320", **{"from": "113", "to": "124"}, handles="2"))
    raw = ["ffmpeg", "-v", "error", "-i", str(path), "-map", "0:a", "-ac", "1", "-f", "s16le", "pipe:1"]
    heard = np.frombuffer(subprocess.run(raw, capture_output=True, check=True).stdout, "<i2")
    # Frames 10 to 26 of the shot, 2 s of a tone: from sample 20,000 on.
    assert len(heard) == 32_000
    wanted = 8000 * np.sin(2 * np.pi * 440 * (20_000 + np.arange(32_000)) / 48_000)
    assert np.abs(heard - wanted).max() <= 2


@pytest.mark.parametrize(("kind", "pixels"), [("webm", "yuva420p"), ("prores", "yuva444p")])
def test_movies_can_be_transparent(kind, pixels, make, tmp_path):
    suffix = ".webm" if kind == "webm" else ".mov"
    data = make("movie", format=kind, size="320", ground="clear")
    streams = probed(data, tmp_path, suffix)
    assert streams["video"]["nb_read_frames"] == "48" and streams["audio"]
    decoder = ["-c:v", "libvpx-vp9"] if kind == "webm" else []
    raw = ["ffmpeg", "-v", "error", *decoder, "-i", str(tmp_path / f"out{suffix}"), "-frames:v", "1", "-pix_fmt",
           "rgba", "-f", "rawvideo", "pipe:1"]  # fmt: skip
    shown = np.frombuffer(subprocess.run(raw, capture_output=True, check=True).stdout, np.uint8).reshape(180, 320, 4)
    assert shown[2, 2, 3] < 8 and shown[90, 80, 3] > 247
    assert kind == "webm" or streams["video"]["pix_fmt"].startswith(pixels)


def test_mp4_cannot_be_transparent_and_frames_outside_the_shot_are_refused(make):
    with pytest.raises(FormatError, match="MP4 cannot be transparent"):
        make("movie", ground="clear")
    for options in ({"from": "100"}, {"to": "149"}, {"from": "120", "to": "119"}):
        with pytest.raises(FormatError, match="frames 101 to 148"):
            make("movie", **options)


def test_luma_and_colours_are_those_of_ffmpeg():
    """Against ffmpeg's own conversion, picture after picture."""
    generator = np.random.default_rng(3)
    planes = Planes((64, 32))
    pixels = generator.integers(0, 256, (16, 32, 3), dtype=np.uint8).repeat(2, axis=0).repeat(2, axis=1)
    convert = "scale=out_color_matrix=bt709:out_range=tv:flags=area+accurate_rnd"
    command = ["ffmpeg", "-v", "error", "-f", "rawvideo", "-pix_fmt", "rgb24", "-s", "64x32", "-i", "pipe:0"]
    command += ["-vf", convert, "-pix_fmt", "yuv420p", "-f", "rawvideo", "pipe:1"]
    for left, top, right, bottom in ((0, 0, 64, 32), (2, 4, 20, 10), (62, 30, 64, 32), (0, 0, 0, 0)):
        pixels = pixels.copy()
        pixels[top:bottom, left:right] = generator.integers(0, 256, 3)
        ours = np.frombuffer(planes.of(np.asarray(Image.fromarray(pixels).convert("RGBA"))), np.uint8)
        done = subprocess.run(command, input=pixels.tobytes(), capture_output=True, check=True)
        assert np.abs(ours.astype(int) - np.frombuffer(done.stdout, np.uint8)).max() <= 2


@pytest.mark.parametrize("kind", ["gif", "webp"])
def test_an_animated_picture_lasts_as_long_as_the_shot_with_a_picture_a_change(kind, make, scene):
    image = Image.open(io.BytesIO(make("gif", format=kind)))
    lasts = []
    for n in range(image.n_frames):
        image.seek(n)
        image.load()
        lasts.append(image.info["duration"])
    assert sum(lasts) == 2000
    assert image.n_frames == len(list(segments(scene, (640, 360))))


def test_pictures_are_numbered_named_and_show_what_is_due(make, scene):
    archive = zipfile.ZipFile(io.BytesIO(make("pictures", ground="shot", pattern="{shot}_{frame}", padding="5")))
    names = archive.namelist()
    assert names[0] == "020-The-counter_00101.png" and names[47] == "020-The-counter_00148.png"
    assert names[48:] == ["020-The-counter.wav"]
    with wave.open(archive.open("020-The-counter.wav")) as sound:
        assert sound.getnframes() == 96_000
    renderer = Renderer((640, 360), scene.ground)
    for start, end, drawn in segments(scene, (640, 360)):
        for frame in (start, end - 1):
            shown = Image.open(archive.open(names[frame])).convert("RGBA")
            assert ImageChops.difference(shown, renderer.frame(drawn)).getbbox() is None


@pytest.mark.parametrize(
    ("kind", "codec", "pixels"),
    [("png16", "png", "rgba64be"), ("exr", "exr", "gbrapf32le"), ("tiff", "tiff", "rgba")],
)
def test_deep_pictures_hold_what_the_plain_ones_do(kind, codec, pixels, make, tmp_path):
    options = {"size": "320", "of": "mouths", "character": "Odalys", "only_changes": "yes"}
    plain = zipfile.ZipFile(io.BytesIO(make("pictures", **options)))
    deep = zipfile.ZipFile(io.BytesIO(make("pictures", format=kind, **options)))
    stream = probed(deep.read(deep.namelist()[1]), tmp_path, f".{codec}")["video"]
    assert (stream["codec_name"], stream["pix_fmt"], stream["width"]) == (codec, pixels, 320)
    was = np.asarray(Image.open(plain.open(plain.namelist()[1])).convert("RGBA"))
    raw = ["ffmpeg", "-v", "error", "-i", str(tmp_path / f"out.{codec}"), "-f", "rawvideo"]
    if kind == "exr":
        raw += ["-pix_fmt", "gbrapf32le", "pipe:1"]
        shown = np.frombuffer(subprocess.run(raw, capture_output=True, check=True).stdout, "<f4").reshape(4, 180, 320)
        assert np.abs(shown.transpose(1, 2, 0)[..., [2, 0, 1, 3]] - linear(was)).max() < 1e-3
    else:
        raw += ["-pix_fmt", "rgba", "pipe:1"]
        shown = np.frombuffer(subprocess.run(raw, capture_output=True, check=True).stdout, np.uint8)
        assert np.abs(shown.reshape(was.shape).astype(int) - was).max() <= 1
    rows = list(csv.DictReader(io.StringIO(deep.read("020-The-counter.holds.csv").decode())))
    assert [(r["frame"], r["frames"]) for r in rows] == HOLDS


def test_a_part_is_named_as_the_shot_is_numbered_whatever_numbers_the_pictures_have(make):
    archive = zipfile.ZipFile(io.BytesIO(make("pictures", first="1", size="320", **{"from": "107", "to": "108"})))
    assert archive.namelist() == ["020-The-counter.0007.png", "020-The-counter.0008.png"]


def test_names_that_are_one_as_files_have_folders_of_their_own(tmp_path):
    document = json.loads(reading_bytes().replace(b"Brindle", b"Odalys!"))
    (tmp_path / "r.json").write_text(json.dumps(document))
    out = io.BytesIO()
    hand_over(tmp_path / "r.json", "pictures", {"of": "characters", "size": "320"}, out)
    names = zipfile.ZipFile(out).namelist()
    assert len(set(names)) == len(names) == 96
    assert {name.split("/")[0] for name in names} == {"Odalys", "Odalys-2"}


def test_a_pattern_that_names_no_frame_or_leaves_its_folder_is_refused(make):
    for pattern in ("{shot}", "../{frame}", "a//{frame}", "{frame.real}", "{0}", "{frame", "/{frame}"):
        with pytest.raises(FormatError, match="file name"):
            make("pictures", pattern=pattern)


def test_layers_laid_over_each_other_are_the_whole_picture(make):
    archive = zipfile.ZipFile(io.BytesIO(make("layers", frame="109")))
    assert archive.namelist()[0] == "mimetype" and archive.read("mimetype") == b"image/openraster"
    root = ElementTree.fromstring(archive.read("stack.xml"))
    whole = Image.new("RGBA", (640, 360))
    layers = [layer for layer in root.iter("layer") if layer.get("visibility") != "hidden"]
    for layer in reversed(layers):
        picture = Image.open(archive.open(layer.get("src"))).convert("RGBA")
        whole.alpha_composite(picture, (int(layer.get("x")), int(layer.get("y"))))
    merged = Image.open(archive.open("mergedimage.png")).convert("RGBA")
    assert ImageChops.difference(whole, merged).getbbox() is None
    assert [stack.get("name") for stack in root.find("stack")] == ["Brindle", "Odalys", "background"]
    assert len(layers) == 5


def test_a_lottie_is_valid_and_shows_each_drawing_on_its_frames(make):
    document = json.loads(make("lottie"))
    schema = json.loads((Path(lottie_specs.__file__).parent / "data" / "lottie.schema.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(document)
    assert (document["fr"], document["op"], document["w"], document["h"]) == (24, 48, 640, 360)
    layers = document["layers"]
    mouths = sorted((each["ip"], each["op"], each["nm"]) for each in layers if "Odalys mouth" in each["nm"])
    assert mouths == [(0, 6, "Odalys mouth 1"), (6, 8, "Odalys mouth 2"), (8, 12, "Odalys mouth 13"),
                      (12, 24, "Odalys mouth 7"), (30, 48, "Odalys mouth 1")]  # fmt: skip
    # In front first: Brindle's mouth, his face, hers, and the background last.
    assert layers[-1]["nm"] == "background" and layers[0]["nm"].startswith("Brindle mouth")


def test_an_animated_svg_has_every_drawing_once_with_its_times(make):
    archive = zipfile.ZipFile(io.BytesIO(make("svg")))
    assert archive.namelist() == ["020-The-counter.svg", "020-The-counter.wav"]
    root = ElementTree.fromstring(archive.read("020-The-counter.svg"))
    space = "{http://www.w3.org/2000/svg}"
    link = "{http://www.w3.org/1999/xlink}href"
    images = {image.findtext(f"{space}title"): image for image in root.iter(f"{space}image")}
    assert len(images) == 2 + 4 + 2
    uses = {use.get(link): use for use in root.iter(f"{space}use")}
    assert len(uses) == 8
    animate = uses["#" + images["Odalys mouth 2"].get("id")].find(f"{space}animate")
    assert animate.get("values") == "none;inline;none" and animate.get("dur") == "2.000000s"
    assert [float(t) for t in animate.get("keyTimes").split(";")] == pytest.approx([0, 6 / 48, 8 / 48], abs=1e-6)


def test_mpeg_4_numbers_go_by_the_sound(make):
    rows = list(csv.DictReader(io.StringIO(make("mpeg4-csv", character="Odalys").decode())))
    # b r e d b n l: 1 9 11 4 1 8, silence about them.
    assert [(r["seconds"], r["viseme"]) for r in rows] == [
        ("0.000000", "0"), ("0.250000", "1"), ("0.300000", "9"), ("0.350000", "11"), ("0.450000", "4"),
        ("0.500000", "1"), ("0.600000", "8"), ("1.000000", "0"),
    ]  # fmt: skip


def test_the_open_data_comes_back_as_it_went_and_is_of_its_schema(make):
    data = make("json")
    assert reading_json.read_document(data) == reading_json.read_document(reading_bytes())
    schema = json.loads((Path(__file__).parents[2] / "docs" / "formats" / "reading.schema.json").read_text())
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.Draft202012Validator(schema).validate(json.loads(data))


def test_an_archive_opens_as_the_same_shot(make, files, scene, tmp_path):
    path = tmp_path / "shot.zip"
    path.write_bytes(make("archive"))
    with open_scene(path) as back:
        assert back.reading == scene.reading and back.notes == scene.notes and back.first_frame == 101
        assert [(f.name, f.stand, f.mouth.holds) for f in back.figures] == [
            (f.name, f.stand, f.mouth.holds) for f in scene.figures
        ]
        assert back.sound.read_bytes() == (files / "s.wav").read_bytes()
        for mine, theirs in zip(back.figures, scene.figures, strict=True):
            assert [s.drawing for s in mine.mouth.sprites.values()] == [
                s.drawing for s in theirs.mouth.sprites.values()
            ]
    cut = tmp_path / "cut.zip"
    cut.write_bytes(path.read_bytes()[:-200])
    with pytest.raises(FormatError), open_scene(cut):
        pass


@pytest.mark.parametrize("exporter", EXPORTERS, ids=lambda exporter: exporter.kind)
def test_a_shot_in_which_nobody_says_a_word_leaves_too_and_an_empty_one_is_refused(exporter, tmp_path):
    path, out = tmp_path / "silent.json", io.BytesIO()
    silent = {"version": 1, "rate": "24/1", "duration": 0.5, "lines": [], "tracks": []}
    path.write_text(json.dumps(silent))
    # Subtitles of nothing are empty.
    hand_over(path, exporter.kind, {}, out)
    assert out.getvalue() or exporter.kind == "srt"
    path.write_text(json.dumps(silent | {"duration": 0}))
    with pytest.raises(FormatError, match="no frame to export"):
        hand_over(path, exporter.kind, {}, io.BytesIO())


def test_a_shot_of_the_first_version_is_handed_over(tmp_path):
    with open_scene(Path(__file__).parents[1] / "samples" / "tin-fork-shot-1.zip") as opened:
        assert [figure.name for figure in opened.figures] == ["Odalys", "Brindle"]
        assert [word.text for word in opened.reading.words()][:1] == [READING["lines"][0]["words"][0]["text"]]
