"""The listener: which words are said in a sound, in about a hundred languages, without being told any.

A multilingual encoder-decoder (Radford et al. 2022) run by faster-whisper on CTranslate2, in 8-bit integers on the
processor. Its model is a folder of that library's, `TINFORK_WORDS_MODEL`; without it the one that set-up made ready
(`tools/words_model.py`). It writes what it takes for likely words: it says nothing of when, and errs on one word in ten
to twenty, more where the voice is far from what it has learnt.
"""

import os
import threading
import zlib
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from tinfork.core.speech.lexicon import base_language
from tinfork.engines.limits import READING_HZ

if TYPE_CHECKING:
    from faster_whisper import WhisperModel
    from faster_whisper.tokenizer import Tokenizer

#: Where set-up puts the model that ships with the application.
SHIPPED = Path(__file__).resolve().parents[2] / ".venv" / "words-model"
#: The model hears this much at once, at most; what is shorter is followed by silence to the least.
MOST_S, LEAST_S = 30.0, 10.0
_TAIL_S = 0.5
_FRAMES_PER_S = 100
_BEAM = 5
#: Nobody says more: so many tokens a second, and some.
_TOKENS_PER_S, _MORE_TOKENS = 12, 16
#: Languages whose code is another one here than in the model.
_CODES = {"cmn": "zh", "nb": "no", "fil": "tl"}
#: Less likely than this (mean log probability of a token), or so repetitive that it packs by this, is no hearing.
_UNLIKELY, _REPEATED = -1.2, 2.4
_LOCK = threading.Lock()


@dataclass(frozen=True, slots=True)
class HeardWords:
    """What seems to be said; `score`: mean log probability of its tokens; `is_sure`: worth more than nothing."""

    text: str
    score: float

    @property
    def is_sure(self) -> bool:
        """Whether this is words, and not the model going round in circles on what it does not understand."""
        data = self.text.encode()
        repeats = len(data) / len(zlib.compress(data)) if data else 0.0
        return bool(self.text) and self.score > _UNLIKELY and repeats < _REPEATED


def model_folder() -> Path:
    """The folder of the model that is asked for; it may not be there."""
    return Path(os.environ.get("TINFORK_WORDS_MODEL") or SHIPPED)


def is_there() -> bool:
    """Whether there is a listener."""
    return (model_folder() / "model.bin").is_file()


@cache
def _model() -> "WhisperModel":
    # It would look a model up in the network by name; a folder is never looked up.
    os.environ.setdefault("HF_HUB_OFFLINE", "1")
    from faster_whisper import WhisperModel

    return WhisperModel(
        str(model_folder()), device="cpu", compute_type="int8", cpu_threads=1, num_workers=1, local_files_only=True
    )


@cache
def _tokenizer(code: str) -> "Tokenizer":
    from faster_whisper.tokenizer import Tokenizer

    model = _model()
    return Tokenizer(model.hf_tokenizer, model.model.is_multilingual, task="transcribe", language=code)


def code_of(language: str) -> str:
    """The model's code for one of the synthesiser's languages; empty where it does not know it."""
    base = base_language(language)
    code = _CODES.get(base, base)
    return code if _model().hf_tokenizer.token_to_id(f"<|{code}|>") is not None else ""


def words_heard(samples: NDArray[np.float32], language: str) -> HeardWords | None:
    """What is said in up to `MOST_S` of sound (16 kHz, mono, -1 to 1); None where there is no listener, or it does not
    know the language.
    """
    if not is_there():
        return None
    with _LOCK:
        code = code_of(language)
        if not code:
            return None
        model, tokenizer = _model(), _tokenizer(code)
        seconds = min(MOST_S, max(LEAST_S, len(samples) / READING_HZ + _TAIL_S))
        padded = np.zeros(round(seconds * READING_HZ), dtype=np.float32)
        count = min(len(samples), len(padded))
        padded[:count] = samples[:count]
        # Pairs of frames: the encoder halves them.
        frames = round(seconds * _FRAMES_PER_S) // 2 * 2
        heard = model.encode(model.feature_extractor(padded, padding=0)[:, :frames])
        prompt = model.get_prompt(tokenizer, [], without_timestamps=True)
        said = model.model.generate(
            heard,
            [prompt],
            beam_size=_BEAM,
            max_length=len(prompt) + round(_TOKENS_PER_S * count / READING_HZ) + _MORE_TOKENS,
            return_scores=True,
        )[0]
    tokens = [token for token in said.sequences_ids[0] if token < tokenizer.eot]
    return HeardWords(tokenizer.decode(tokens).strip(), float(said.scores[0]))
