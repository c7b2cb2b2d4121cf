import subprocess

import numpy as np
import pytest

from tests import sounds
from tinfork.core.errors import SoundError
from tinfork.engines.decode import Sound, decode, write_sound
from tinfork.engines.probing import probe

TONE = (np.sin(np.arange(16_000) * 0.2) * 0.3).astype(np.float32)


def written(tmp_path, data, name="take.wav"):
    path = tmp_path / name
    path.write_bytes(data)
    return path


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "is empty"),
        (sounds.png_bytes(), "not a sound"),
        (b"#EXTM3U\n/etc/passwd\n", "not a sound"),
        (b"ffconcat version 1.0\nfile /etc/passwd\n", "not a sound"),
        (sounds.wav_bytes(TONE[:16]), "lasts 1 ms"),
        (sounds.two_hours(), "120 minutes long; the limit is 60 minutes"),
    ],
    ids=["empty", "png", "playlist", "concat", "a-millisecond", "two-hours"],
)
def test_what_cannot_be_read_is_refused_with_what_to_do(tmp_path, data, message):
    with pytest.raises(SoundError, match=message):
        decode(written(tmp_path, data))


def test_a_film_without_sound_is_refused(tmp_path):
    path = tmp_path / "reel.mp4"
    sounds.film_without_sound(path)
    with pytest.raises(SoundError, match="has no sound"):
        probe(path)


def test_a_cut_wav_is_taken_as_far_as_it_goes_and_said_to_be_cut(tmp_path):
    whole = sounds.wav_bytes(TONE)
    path = written(tmp_path, whole[: len(whole) // 2])
    assert probe(path).cut_short
    assert not probe(written(tmp_path, whole, "whole.wav")).cut_short
    assert 400_000 < decode(path).duration_us < 510_000


@pytest.mark.parametrize("channels", [1, 2, 6])
def test_any_number_of_channels_becomes_one_or_two(tmp_path, channels):
    path = written(tmp_path, sounds.wav_bytes(np.repeat(TONE[:, None], channels, axis=1)))
    assert decode(path).samples.shape == (48_000, 1 if channels == 1 else 2)


def test_floats_at_96_khz_keep_their_length_and_level(tmp_path):
    tone = np.sin(np.arange(96_000) * 2 * np.pi * 200 / 96_000)[:, None] * 0.5
    sound = decode(written(tmp_path, sounds.float_wav(tone, 96_000)))
    assert sound.duration_us == 1_000_000
    assert np.abs(sound.samples).max() == pytest.approx(0.5, abs=0.01)


@pytest.mark.parametrize(
    ("suffix", "codec"),
    [
        ("mp3", "libmp3lame"),
        ("ogg", "libvorbis"),
        ("opus", "libopus"),
        ("m4a", "aac"),
        ("aiff", "pcm_s16be"),
        ("flac", "flac"),
    ],
)
def test_the_usual_formats_keep_length_and_place(tmp_path, suffix, codec):
    click = np.zeros(48_000, np.float32)
    click[24_000:24_240] = 0.8
    source = written(tmp_path, sounds.wav_bytes(click, 48_000))
    path = tmp_path / f"take.{suffix}"
    subprocess.run(["ffmpeg", "-v", "error", "-i", str(source), "-c:a", codec, str(path)], check=True)
    sound = decode(path)
    assert abs(sound.duration_us - 1_000_000) < 40_000
    assert abs(int(np.abs(sound.samples[:, 0]).argmax()) - 24_120) < 300


def test_not_a_number_and_too_loud_are_tamed(tmp_path):
    wild = np.full((48_000, 1), 7.0, np.float32)
    wild[100:200] = np.nan
    assert np.abs(decode(written(tmp_path, sounds.float_wav(wild, 48_000))).samples).max() <= 1.0


@pytest.mark.parametrize("name", ["copy.flac", "copy.wav"])
def test_what_is_written_is_heard_again_sample_for_sample(tmp_path, name):
    samples = np.rint(np.random.default_rng(4).uniform(-0.9, 0.9, (4800, 1)) * 32767).astype(np.float32) / 32768
    path = tmp_path / name
    write_sound(Sound(np.pad(samples, ((0, 4800), (0, 0))), 48_000), path)
    again = decode(path).samples
    assert len(again) == 9600
    assert np.abs(again[:4800] - samples).max() < 1.6 / 32768
