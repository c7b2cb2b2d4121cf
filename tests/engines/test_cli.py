import csv
import io
import json
import os
import shutil
import stat
import subprocess
import sys
import threading
from itertools import pairwise
from pathlib import Path

import pytest

from tests import sounds
from tinfork import cli
from tinfork.engines import listener


@pytest.fixture
def files(tmp_path):
    (tmp_path / "take.wav").write_bytes(sounds.sentence_wav())
    (tmp_path / "words.txt").write_text(sounds.SENTENCE)
    return tmp_path


def run(files, *more):
    return cli.main(["read", str(files / "take.wav"), "--text", str(files / "words.txt"), *more])


def test_json_has_lines_words_sounds_and_holds_over_the_whole_sound(files):
    out = files / "out.json"
    assert run(files, "--fps", "23.976", "-o", str(out)) == 0
    document = json.loads(out.read_text())
    assert (document["version"], document["rate"]) == (1, "24000/1001")
    (line,) = document["lines"]
    assert set(line) == {"speaker", "text", "language", "way", "start", "end", "words"}
    assert line["way"] == "plain"
    assert [w["text"] for w in line["words"]] == sounds.SENTENCE.rstrip(".").split()
    assert set(line["words"][0]["phonemes"][0]) == {"ipa", "viseme", "start", "end", "confidence"}
    (track,) = document["tracks"]
    holds = track["holds"]
    assert holds[0]["start"] == 0
    assert holds[-1]["end"] >= document["duration"] * 24000 / 1001
    assert all(a["end"] == b["start"] for a, b in pairwise(holds))


def test_csv_on_standard_output(files, capsysbinary):
    assert run(files, "--format", "csv", "--first-frame", "101") == 0
    rows = list(csv.DictReader(io.StringIO(capsysbinary.readouterr().out.decode())))
    assert list(rows[0]) == ["frame", "timecode", "drawing", "set", "viseme", "word", "phoneme"]
    assert rows[0]["frame"] == "101"


@pytest.mark.parametrize(
    ("sound", "text", "more"),
    [
        (b"", "hello", []),
        (sounds.png_bytes(), "hello", []),
        (None, "", []),
        (None, "hello " * 500, []),
        (None, "hello", ["--fps", "fast"]),
        (None, "hello", ["--lead", "99"]),
        (None, "hello", ["-o", "/no/such/folder/out.json"]),
        (None, b"\xff\xfe\x00bad", []),
    ],
    ids=["empty", "png", "no-words", "too-many", "rate", "lead", "no-folder", "encoding"],
)
def test_bad_input_ends_with_2_one_line_and_no_file(files, capsys, sound, text, more):
    if sound is not None:
        (files / "take.wav").write_bytes(sound)
    (files / "words.txt").write_bytes(text if isinstance(text, bytes) else text.encode())
    arguments = more if "-o" in more else ["-o", str(files / "out.json"), *more]
    assert run(files, *arguments) == 2
    said = capsys.readouterr().err.strip().splitlines()
    assert len(said) == 1
    assert said[0].startswith("tinfork: ")
    assert sorted(p.name for p in files.iterdir()) == ["take.wav", "words.txt"]


def test_a_missing_file_is_named(files, capsys):
    assert cli.main(["read", "/no/such.wav", "--text", str(files / "words.txt")]) == 2
    assert "/no/such.wav" in capsys.readouterr().err


def test_wrong_arguments_end_with_2_and_one_line(capsys):
    with pytest.raises(SystemExit) as stop:
        cli.main(["read"])
    assert stop.value.code == 2
    assert len(capsys.readouterr().err.strip().splitlines()) == 1


def test_a_script_gives_a_track_to_each_who_speaks(files):
    first, second = sounds.SENTENCE.rstrip(".").split(" before ")
    (files / "script.txt").write_text(f"ODALYS: {first}\nBRINDLE: before {second}.\n")
    out = files / "out.json"
    assert cli.main(["read", str(files / "take.wav"), "--script", str(files / "script.txt"), "-o", str(out)]) == 0
    document = json.loads(out.read_text())
    assert [line["speaker"] for line in document["lines"]] == ["ODALYS", "BRINDLE"]
    assert [track["character"] for track in document["tracks"]] == ["ODALYS", "BRINDLE"]
    arguments = ["read", str(files / "take.wav"), "--script", str(files / "script.txt"), "--format", "csv"]
    assert cli.main(arguments) == 2


@pytest.mark.parametrize(("flag", "way"), [("--by-ear", "by ear, no words"), ("--flap", "flap")])
def test_a_sound_without_words(files, flag, way):
    out = files / "out.json"
    assert cli.main(["read", str(files / "take.wav"), flag, "-o", str(out)]) == 0
    document = json.loads(out.read_text())
    assert document["tracks"][0]["character"] == "take"
    assert {line["way"] for line in document["lines"]} == {way}


DEMO = Path(__file__).parents[2] / "demo"


def test_without_words_they_are_heard_in_whatever_language(tmp_path, capsys):
    out = tmp_path / "out.json"
    assert cli.main(["read", str(DEMO / "040_the_last_loaf.wav"), "-o", str(out)]) == 0
    lines = json.loads(out.read_text())["lines"]
    assert {line["language"] for line in lines} == {"en-us", "es"}
    assert lines[0]["words"][1]["text"] == "loaf"
    assert cli.main(["read", str(DEMO / "040_the_last_loaf.wav"), "--language", "en-us", "-o", str(out)]) == 0
    assert {line["language"] for line in json.loads(out.read_text())["lines"]} == {"en-us"}


@pytest.mark.parametrize(("form", "suffix"), [("text", "txt"), ("srt", "srt"), ("vtt", "vtt")])
def test_words_alone_are_written_and_read_back_by_another_reader(tmp_path, form, suffix):
    folder = tmp_path / "takes"
    folder.mkdir()
    (folder / "loaf.wav").write_bytes((DEMO / "020_the_counter.wav").read_bytes())
    (folder / "notes.md").write_text("no recording")
    (tmp_path / "out").mkdir()
    arguments = ["read", str(folder), "--words-only", "--format", form, "-o", str(tmp_path / "out")]
    assert cli.main(arguments) == 0
    written = tmp_path / "out" / f"loaf.{suffix}"
    if form == "text":
        assert "both of us have been up all night" in written.read_text()
        return
    probe = ["ffprobe", "-v", "error", "-show_entries", "packet=pts_time,duration_time", "-of", "csv=p=0", str(written)]
    cues = subprocess.run(probe, check=True, capture_output=True, text=True).stdout.split()
    starts = [float(cue.split(",")[0]) for cue in cues]
    assert len(starts) == 3
    assert 8.5 < starts[2] < 9.3


def test_the_language_is_that_of_lines_without_one(files, capsys):
    (files / "words.txt").write_text("El sapo")
    assert run(files, "--language", "xx-none") == 2
    assert "no voice called" in capsys.readouterr().err


def test_several_sounds_are_read_into_a_folder_and_the_bad_one_is_named(files, capsys):
    (files / "take.txt").write_text(sounds.SENTENCE)
    (files / "bad.wav").write_bytes(b"nothing")
    (files / "bad.txt").write_text("hello")
    (files / "out").mkdir()
    arguments = ["read", str(files / "take.wav"), str(files / "bad.wav"), "-o", str(files / "out"), "--jobs", "2"]
    assert cli.main(arguments) == 2
    said = capsys.readouterr().err
    assert "take.wav: done" in said
    assert "bad.wav: " in said
    assert [p.name for p in (files / "out").iterdir()] == ["take.json"]


def test_a_script_is_found_in_several_recordings_of_it(tmp_path):
    for name in ("030_the_oven", "020_the_counter"):
        (tmp_path / f"{name}.wav").write_bytes((DEMO / f"{name}.wav").read_bytes())
    script = "ODALYS: Sit down. Both of us have been up all night.\nBRINDLE: Why is your oven humming?\nODALYS: Never."
    (tmp_path / "script").write_text(script)
    (tmp_path / "out").mkdir()
    arguments = ["read", str(tmp_path), "--script", str(tmp_path / "script"), "-o", str(tmp_path / "out")]
    assert cli.main(arguments) == 0
    told = {p.stem: json.loads(p.read_text())["lines"] for p in (tmp_path / "out").iterdir()}
    found = [(line["speaker"], line["text"]) for line in told["030_the_oven"]]
    assert ("BRINDLE", "Why is your oven humming?") in found
    assert "030_the_oven" in {speaker for speaker, _ in found}
    assert told["020_the_counter"][-1]["speaker"] == "ODALYS"


@pytest.mark.parametrize("kind", ["cut", "of another kind"])
def test_a_damaged_model_is_said_and_known_words_are_read_without_it(files, kind):
    model = files / "model"
    shutil.copytree(listener.SHIPPED, model)
    whole = (model / "model.bin").read_bytes()
    (model / "model.bin").write_bytes(whole[:1_000_000] if kind == "cut" else b"hello" * 100)
    command = [sys.executable, "-m", "tinfork.cli", "read", str(files / "take.wav"), "-o", str(files / "out")]
    environment = {**os.environ, "TINFORK_WORDS_MODEL": str(model)}
    refused = subprocess.run([*command, "--words-only"], capture_output=True, text=True, env=environment)
    assert refused.returncode == 2
    assert refused.stderr == f"tinfork: {listener.UNUSABLE}\n"
    with_words = [*command, "--text", str(files / "words.txt")]
    assert subprocess.run(with_words, capture_output=True, env=environment).returncode == 0


@pytest.mark.parametrize(
    ("more", "said"),
    [
        (["other.wav"], "written into a folder"),
        (["other.wav", "-o", "none"], "There is no folder"),
        (["--jobs", "0", "--flap"], "number of jobs"),
        (["--words-only", "--format", "csv"], "Words alone are written as"),
        (["--format", "srt"], "Words alone are written as"),
    ],
)
def test_what_does_not_go_together_is_said(files, capsys, more, said):
    assert cli.main(["read", str(files / "take.wav"), *more]) == 2
    assert said in capsys.readouterr().err


@pytest.mark.parametrize("kind", ["pipe", "link", "link-to-nothing", "device"])
def test_only_an_ordinary_file_is_replaced_everything_else_is_written_to(files, kind):
    """A pipe gets the bytes, a link stays a link, and a device stays a device."""
    out = files / "out.json"
    got = []
    if kind == "pipe":
        os.mkfifo(out)
        reader = threading.Thread(target=lambda: got.append(out.read_bytes()))
        reader.start()
    elif kind.startswith("link"):
        if kind == "link":
            (files / "real.json").write_text("before")
        out.symlink_to(files / "real.json")
    else:
        try:
            os.mknod(out, stat.S_IFCHR | 0o600, os.makedev(1, 3))
            out.write_bytes(b"")
        except PermissionError:
            pytest.skip("Devices are made by root.")
    assert cli.main(["read", str(files / "take.wav"), "--flap", "-o", str(out)]) == 0
    if kind == "pipe":
        reader.join(20)
        assert stat.S_ISFIFO(out.lstat().st_mode)
        assert json.loads(got[0])["version"] == 1
    elif kind.startswith("link"):
        assert out.is_symlink()
        assert json.loads((files / "real.json").read_text())["version"] == 1
    else:
        assert stat.S_ISCHR(out.lstat().st_mode)
    assert not list(files.glob(".out*"))


def test_what_is_said_and_not_typed_is_in_the_json_unless_the_words_are_trusted(files):
    (files / "words.txt").write_text(sounds.SENTENCE.replace(" before midnight", ""))
    out = files / "out.json"
    run(files, "-o", str(out))
    (extra,) = json.loads(out.read_text())["lines"][0]["extras"]
    assert extra["heard"]
    assert 0 < extra["start"] < extra["end"]
    run(files, "--trust-words", "-o", str(out))
    assert "extras" not in json.loads(out.read_text())["lines"][0]
