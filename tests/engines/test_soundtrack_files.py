"""Takes opened, films copied, shots mixed, lines spoken: with the real programs."""

import subprocess

import numpy as np
import pytest

from tests import sounds
from tests.core.soundtracks import S
from tinfork.core.errors import SoundError, WordsError
from tinfork.core.script import ScriptLine
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.mix import clip_samples
from tinfork.core.soundtrack.model import Soundtrack
from tinfork.engines.decode import decode, decode_voice, open_sound, part_blocks
from tinfork.engines.film import open_film
from tinfork.engines.mixing import write_mix
from tinfork.engines.probing import film_info, probe
from tinfork.engines.synthesiser import languages
from tinfork.engines.talking import Voicing, speak_lines

RATE = 48_000
#: A sound in which every sample tells where it is.
RAMP = ((np.arange(3 * RATE) % 30_000) / 32_768).astype(np.float32)


@pytest.fixture
def ramp(tmp_path):
    source, flac = tmp_path / "ramp.wav", tmp_path / "ramp.flac"
    source.write_bytes(sounds.wav_bytes(RAMP, RATE))
    open_sound(source, flac)
    return flac


@pytest.mark.parametrize("first", [0, 1, 12_345, RATE - 1, RATE, 2 * RATE + 17])
def test_a_part_is_cut_to_the_sample(ramp, first):
    part = np.concatenate(list(part_blocks(ramp, first, 5_000)))[:, 0]
    assert len(part) == 5_000
    assert np.abs(part - RAMP[first : first + 5_000]).max() < 2 / 32_768


def test_a_shot_is_mixed_to_the_sample(ramp, tmp_path):
    st = edits.place(Soundtrack(), 1, 3 * S, 250_000, kind="effects", part=(500_000, 1_750_000))
    st = edits.place(st, 1, 3 * S, 2 * S, kind="effects", part=(0, S))
    target = tmp_path / "mix.flac"
    write_mix(st, {1: ramp}, target)
    mixed = decode(target).samples
    assert mixed.shape == (3 * RATE, 2)
    due = np.zeros(3 * RATE, dtype=np.float32)
    for clip in st.clips:
        first, count = clip_samples(clip, RATE)
        at = clip.start_us * RATE // S
        due[at : at + count] += RAMP[first : first + count]
    assert np.abs(mixed[:, 0] - due).max() < 3 / 32_768


def test_opening_measures_what_it_decodes_and_reports_progress(tmp_path):
    source, flac = tmp_path / "tone.wav", tmp_path / "tone.flac"
    tone = (np.sin(2 * np.pi * 997 * np.arange(5 * RATE) / RATE) * 10 ** (-20 / 20)).astype(np.float32)
    source.write_bytes(sounds.wav_bytes(tone, RATE))
    seen = []
    opened = open_sound(source, flac, progress=seen.append)
    assert opened.duration_us == 5 * S
    # A sine of -20 dB is -23 LUFS by the definition of EBU R 128 (mono, -3 dB for its mean square).
    assert opened.loudness == pytest.approx(-23.0, abs=0.3)
    assert opened.true_peak_db == pytest.approx(-20.0, abs=0.2)
    assert seen == sorted(seen)
    assert seen[-1] == 1.0
    assert len(decode(flac).samples) == 5 * RATE
    assert len(decode_voice(flac).samples) == 5 * 16_000


def test_opening_stops_when_it_is_told_to(tmp_path):
    source = tmp_path / "noise.wav"
    source.write_bytes(sounds.wav_bytes(np.random.default_rng(1).uniform(-0.1, 0.1, 20 * RATE), RATE))

    def enough(done):
        raise SoundError("enough")

    with pytest.raises(SoundError, match="enough"):
        open_sound(source, tmp_path / "x.flac", progress=enough)


def film(path, *, sound, codec="mpeg4"):
    inputs = ["-f", "lavfi", "-i", "testsrc=size=320x180:rate=24:duration=2"]
    inputs += ["-f", "lavfi", "-i", "sine=frequency=440:duration=2"] if sound else []
    subprocess.run(["ffmpeg", "-v", "error", "-y", *inputs, "-c:v", codec, "-shortest", str(path)], check=True)
    return path


@pytest.mark.parametrize(
    ("name", "codec"), [("a.mp4", "mpeg4"), ("a.mov", "mpeg4"), ("a.mkv", "mpeg4"), ("a.webm", "libvpx")]
)
def test_the_sound_of_a_film_is_a_take_and_its_picture_a_reel(tmp_path, name, codec):
    path = film(tmp_path / name, sound=True, codec=codec)
    assert abs(open_sound(path, tmp_path / "x.flac").duration_us - 2 * S) < 60_000
    seen = []
    copied = open_film(path, tmp_path / "copy.webm", name, seen.append)
    assert copied.has_sound
    assert (copied.width, copied.height) == (320, 180)
    assert abs(copied.duration_us - 2 * S) < 60_000
    assert seen
    frames = subprocess.run(
        ["ffprobe", "-v", "error", "-count_packets", "-show_entries", "stream=nb_read_packets", "-of", "csv=p=0",
         str(tmp_path / "copy.webm")],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert int(frames.stdout.strip().strip(",")) == 48


def test_what_is_no_film_is_refused_and_a_film_without_sound_has_none(tmp_path):
    assert not open_film(film(tmp_path / "a.mp4", sound=False), tmp_path / "b.webm", "a.mp4").has_sound
    with pytest.raises(SoundError, match="has no sound"):
        probe(tmp_path / "a.mp4")
    for data, message in ((b"", "is empty"), (sounds.sentence_wav(), "not a film"), (b"#EXTM3U\n", "not a film")):
        (tmp_path / "x").write_bytes(data)
        with pytest.raises(SoundError, match=message):
            film_info(tmp_path / "x", "x")


def test_a_protected_file_is_named_as_such(tmp_path):
    path = tmp_path / "a.m4a"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=duration=1", "-c:a", "aac", str(path)], check=True
    )
    path.write_bytes(path.read_bytes().replace(b"mp4a", b"drms"))
    with pytest.raises(SoundError, match="protected"):
        probe(path)


def test_spoken_lines_have_their_exact_times_and_speakers():
    lines = [ScriptLine("1", "The last tram leaves."), ScriptLine("2", "Está listo.", "es")]
    samples, rate, reading = speak_lines(lines, Voicing(), lambda phase, done: None)
    assert [(x.speaker, x.language, [w.text for w in x.words]) for x in reading.lines] == [
        ("1", "en-us", ["The", "last", "tram", "leaves"]),
        ("2", "es", ["Está", "listo"]),
    ]
    assert reading.duration_us == len(samples) * S // rate
    for line in reading.lines:
        inside = samples[line.start_us * rate // S : line.end_us * rate // S]
        assert np.abs(inside).max() > 0.05
    between = samples[
        (reading.lines[0].end_us + 300_000) * rate // S : (reading.lines[1].start_us - 50_000) * rate // S
    ]
    assert np.abs(between).max() < 0.02


def test_languages_are_many_and_odd_voices_are_refused():
    assert {"en-us", "es", "cs", "ja"} <= {language.code for language in languages()}
    with pytest.raises(WordsError, match="no voice called"):
        speak_lines([ScriptLine("", "Hello", "xx-nowhere")], Voicing(), lambda phase, done: None)
    with pytest.raises(WordsError, match="from 80 to 400"):
        Voicing(words_per_minute=9)
