"""The listener: recognises the words in a sound, in about a hundred languages, without a text.

A multilingual encoder-decoder (Radford et al. 2022) run by faster-whisper on CTranslate2, in 8-bit integers on the
processor. Its model is a folder in that library's format, `TINFORK_WORDS_MODEL`, by default the one installed by set-up
(`tools/setup/words_model.py`). It returns likely words with rough times only. About one word in ten to twenty is wrong,
more for voices unlike those it was trained on.
"""

import os
import threading
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import EngineError
from tinfork.core.messages import Message
from tinfork.core.speech.lexicon import base_language
from tinfork.core.speech.transcript import HeardWord
from tinfork.engines.limits import READING_HZ

if TYPE_CHECKING:
    from faster_whisper import WhisperModel
    from faster_whisper.tokenizer import Tokenizer

#: The folder in which set-up installs the default model.
SHIPPED = Path(__file__).resolve().parents[2] / ".venv" / "words-model"
#: The files of a model.
_FILES = ("model.bin", "config.json", "tokenizer.json")
UNUSABLE = Message("listener.unusable")
#: The most sound that the model takes at once; shorter sound is padded with silence to the least.
MOST_S, LEAST_S = 30.0, 10.0
_TAIL_S = 0.5
_FRAMES_PER_S = 100
_BEAM = 5
#: The most tokens a second that anybody says, and a few more.
_TOKENS_PER_S, _MORE_TOKENS = 12, 16
#: Languages with another code in the model.
_CODES = {"cmn": "zh", "nb": "no", "fil": "tl"}
#: Results are rejected if less likely than this (mean log probability of a token), or if they compress by this ratio.
_UNLIKELY, _REPEATED = -1.2, 2.4
#: How many hypotheses are requested for alternatives, and how many alternatives a word gets.
_WAYS, _MOST_OTHERS = 5, 3
#: The model's time step, and the length of a last word (microseconds).
_STEP_US, _LAST_US = 20_000, 300_000
#: The longest context given before hearing, in the model's tokens.
_MOST_CONTEXT = 160
_LOCK = threading.Lock()


@dataclass(frozen=True, slots=True)
class HeardWords:
    """The recognised text; `score`: mean log probability of its tokens; `words`: the single words, if requested.

    `nobody`: the probability, by the model, that nobody speaks.
    """

    text: str
    score: float
    words: tuple[HeardWord, ...] = ()
    nobody: float = 0.0

    @property
    def is_sure(self) -> bool:
        """Whether these are real words, and not the model repeating itself on sound that it does not understand."""
        data = self.text.encode()
        repeats = len(data) / len(zlib.compress(data)) if data else 0.0
        return bool(self.text) and self.score > _UNLIKELY and repeats < _REPEATED


def model_folder() -> Path:
    """The folder of the model in use; it may not exist."""
    return Path(os.environ.get("TINFORK_WORDS_MODEL") or SHIPPED)


def is_there() -> bool:
    """Whether the listener is available: all files of its model are there."""
    return all((model_folder() / name).is_file() for name in _FILES)


@cache
def _model() -> "WhisperModel":
    # The library would look up a model's name on the network; it never does so for a folder.
    os.environ.setdefault("HF_HUB_OFFLINE", "1")
    from faster_whisper import WhisperModel

    try:
        return WhisperModel(
            str(model_folder()), device="cpu", compute_type="int8", cpu_threads=1, num_workers=1, local_files_only=True
        )
    except (RuntimeError, ValueError, OSError) as error:
        raise EngineError(UNUSABLE) from error


@cache
def _tokenizer(code: str) -> "Tokenizer":
    from faster_whisper.tokenizer import Tokenizer

    model = _model()
    return Tokenizer(model.hf_tokenizer, model.model.is_multilingual, task="transcribe", language=code)


def code_of(language: str) -> str:
    """The model's code of a language of the synthesiser; empty if the model does not know it."""
    base = base_language(language)
    code = _CODES.get(base, base)
    return code if _model().hf_tokenizer.token_to_id(f"<|{code}|>") is not None else ""


class Listening:
    """Up to `MOST_S` of sound (16 kHz, mono, -1 to 1), encoded by the model.

    Its words can be requested several times.
    """

    def __init__(self, samples: NDArray[np.float32]) -> None:
        seconds = min(MOST_S, max(LEAST_S, len(samples) / READING_HZ + _TAIL_S))
        padded = np.zeros(round(seconds * READING_HZ), dtype=np.float32)
        self._count = min(len(samples), len(padded))
        padded[: self._count] = samples[: self._count]
        # Pairs of frames: the encoder halves them.
        frames = round(seconds * _FRAMES_PER_S) // 2 * 2
        with _LOCK:
            model = _model()
            self._encoded = model.encode(model.feature_extractor(padded, padding=0)[:, :frames])

    def languages(self) -> dict[str, float]:
        """The probability of each language, by the model's codes."""
        with _LOCK:
            (found,) = _model().model.detect_language(self._encoded)
        return {token.strip("<|>"): float(share) for token, share in found}

    def words(self, language: str, *, context: str = "", is_detailed: bool = False) -> HeardWords | None:
        """The words in one of the synthesiser's languages; None if the model does not know it.

        `context`: words and names that may occur; `is_detailed`: also the probability, time and alternatives of each
        word.
        """
        with _LOCK:
            code = code_of(language)
            if not code:
                return None
            model, tokenizer = _model(), _tokenizer(code)
            before = tokenizer.encode(" " + context.strip())[-_MOST_CONTEXT:] if context.strip() else []
            prompt = model.get_prompt(tokenizer, before, without_timestamps=True)
            said = model.model.generate(
                self._encoded,
                [prompt],
                beam_size=_BEAM,
                num_hypotheses=_WAYS if is_detailed else 1,
                max_length=len(prompt) + round(_TOKENS_PER_S * self._count / READING_HZ) + _MORE_TOKENS,
                return_scores=True,
                return_no_speech_prob=True,
            )[0]
            ways = [[token for token in ids if token < tokenizer.eot] for ids in said.sequences_ids]
            text = tokenizer.decode(ways[0]).strip()
            words = self._each(ways, tokenizer, language) if is_detailed and text else ()
        return HeardWords(text, float(said.scores[0]), words, float(said.no_speech_prob))

    def _each(self, ways: Sequence[list[int]], tokenizer: "Tokenizer", language: str) -> tuple[HeardWord, ...]:
        """The words of the likeliest hypothesis.

        Rough times come from the model's attention (Radford et al. 2022), alternatives from the other hypotheses.
        """
        frames = self._count * _FRAMES_PER_S // READING_HZ
        found = _model().model.align(self._encoded, tokenizer.sot_sequence, [ways[0]], max(frames, 2))[0]
        starts_us: dict[int, int] = {}
        for token, step in found.alignments:
            starts_us.setdefault(token, step * _STEP_US)
        texts, pieces = (part[:-1] for part in tokenizer.split_to_word_tokens([*ways[0], tokenizer.eot]))
        others = _others(texts, [tokenizer.split_to_word_tokens(way)[0] for way in ways[1:]])
        sure = np.log(np.maximum(found.text_token_probs, 1e-6))
        length_us = self._count * 1_000_000 // READING_HZ
        out: list[HeardWord] = []
        at = last_us = 0
        for text, tokens, other in zip(texts, pieces, others, strict=True):
            start_us = min(starts_us.get(at, last_us), length_us)
            own = float(np.exp(np.mean(sure[at : at + len(tokens)])))
            at += len(tokens)
            last_us = max(start_us, min(starts_us.get(at, start_us + _LAST_US), length_us))
            is_joined = bool(out) and not text.startswith(" ")
            if any(letter.isalnum() for letter in text):
                out.append(HeardWord(text.strip(), start_us, last_us, own, other, language, is_joined))
            elif out:
                # Punctuation belongs to the word before it.
                out[-1] = replace(out[-1], text=out[-1].text + text.strip())
        return tuple(out)


def _others(best: Sequence[str], ways: Sequence[Sequence[str]]) -> list[tuple[str, ...]]:
    """The alternatives of each word of the likeliest hypothesis, from the others, the likeliest first."""
    plain = [_plain(word) for word in best]
    out: list[dict[str, str]] = [{} for _ in best]
    for way in ways:
        for kind, a, b, c, d in SequenceMatcher(a=plain, b=[_plain(w) for w in way], autojunk=False).get_opcodes():
            if kind != "replace" or (b - a != d - c and b - a != 1):
                continue
            for at in range(a, b):
                other = way[c + at - a] if b - a == d - c else "".join(way[c:d])
                text = other.strip(_AROUND)
                if _plain(text) and _plain(text) != plain[at]:
                    out[at].setdefault(_plain(text), text)
    return [tuple(found.values())[:_MOST_OTHERS] for found in out]


#: Punctuation around words.
_AROUND = ' .,;:!?…"“”«»„¿¡()[]–—-。、！？'


def _plain(word: str) -> str:
    return word.strip(_AROUND).casefold()


def words_heard(samples: NDArray[np.float32], language: str) -> HeardWords | None:
    """The words in up to `MOST_S` of sound (16 kHz, mono, -1 to 1).

    None without a listener, or if it does not know the language.
    """
    if not is_there():
        return None
    try:
        return Listening(samples).words(language) if code_of(language) else None
    except EngineError:
        # Typed words are read without it.
        return None
