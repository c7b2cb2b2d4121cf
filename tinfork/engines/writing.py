"""Splitting text without spaces into words, and converting characters that the synthesiser cannot read.

Chinese to pinyin, Japanese to kana. It knows few characters of either language, and reads the others as names or as
English letters.
"""

import re
import threading
from functools import cache
from typing import Any

from tinfork.core.errors import WordsError

#: The synthesiser's voice for a language's converted text.
_READERS = {"cmn": "cmn-latn-pinyin"}
_HAN = r"\u3400-\u9fff\uf900-\ufaff"
_MARKS = "、。！？，；：「」『』《》"
_RUN = re.compile(rf"[{_HAN}]+|[^{_HAN}{_MARKS}]+")
_IS_HAN = re.compile(rf"[{_HAN}]")
_HAS_JAPANESE = re.compile(rf"[\u3040-\u30ff{_HAN}]")
_PHRASE = re.compile(rf"[^{_MARKS}]+")
#: The tokeniser takes one text at a time, with at most this many characters.
_LOCK = threading.Lock()
_LONGEST = 5000
#: Particles, and greetings that end in one, which are not pronounced as written.
_PARTICLES = {"ハ": "ワ", "ヘ": "エ", "ヲ": "オ"}
_GREETINGS = {"コンニチハ": "コンニチワ", "コンバンハ": "コンバンワ"}
_PARTICLE, _JOINED, _MARK = "助詞", ("助動詞", "接尾辞"), "補助記号"


def pieces(token: str, language: str) -> list[tuple[str, str]]:
    """The words of a token without spaces, each as written and as the synthesiser reads it.

    Each Chinese character is a syllable; Japanese is split into words; anything else is one word.
    """
    if language == "ja" and _HAS_JAPANESE.search(token):
        return _japanese(token)
    out: list[tuple[str, str]] = []
    for run in _RUN.findall(token):
        if not _IS_HAN.match(run):
            out.append((run, run))
        elif language == "cmn":
            out += zip(run, _pinyin(run), strict=True)
        else:
            out += [(character, character) for character in run]
    return out


def reader_of(language: str) -> str:
    """The synthesiser's voice for the text that `pieces` returns in a language."""
    return _READERS.get(language, language)


def as_read(text: str, language: str) -> str:
    """A text in letters that the synthesiser reads, with spaces between words; punctuation between phrases stays."""
    if not _HAS_JAPANESE.search(text):
        return text
    phrases = (
        " ".join(read for token in phrase.split() for _, read in pieces(token, language))
        for phrase in re.split(rf"[{_MARKS}]+", text)
    )
    return ". ".join(phrase for phrase in phrases if phrase)


def _pinyin(run: str) -> list[str]:
    """Pinyin with numbers for tones, chosen by the words that the characters form."""
    from pypinyin import Style, pinyin

    found = [syllable for (syllable, *_) in pinyin(run, style=Style.TONE3, neutral_tone_with_five=True)]
    # Rare characters without a reading are returned as one item.
    return found if len(found) == len(run) else list(run)


@cache
def _cutter() -> Any:
    try:
        from sudachipy import Dictionary
    except ImportError:
        raise WordsError("words.no_japanese") from None
    return Dictionary(dict="small").tokenizer()


def _parts(token: str) -> list[tuple[str, str, str]]:
    """The parts of a token: each as written, as read, and its part of speech."""
    phrases = [
        phrase[at : at + _LONGEST] for phrase in _PHRASE.findall(token) for at in range(0, len(phrase), _LONGEST)
    ]
    with _LOCK:
        found = [part for phrase in phrases for part in _cutter().tokenize(phrase)]
        return [(part.surface(), part.reading_form(), part.part_of_speech()[0]) for part in found]


def _japanese(token: str) -> list[tuple[str, str]]:
    out: list[tuple[str, str]] = []
    for written, reading, kind in _parts(token):
        if kind == _MARK:
            continue
        read = written if written.isdecimal() else _GREETINGS.get(reading, reading or written)
        if kind == _PARTICLE:
            read = _PARTICLES.get(read, read)
        if kind in _JOINED and out:
            out[-1] = (out[-1][0] + written, out[-1][1] + read)
        else:
            out.append((written, read))
    return out
