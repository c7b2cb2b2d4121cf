"""Writing without spaces, cut into words, and characters that the synthesiser does not read: Chinese ones as pinyin,
Japanese ones as kana.

It has few of the characters of either language, names the others, or spells their pinyin as if it were English.
"""

import re
from functools import cache
from typing import Any

#: The synthesiser's voice that reads a language as it is written here.
_READERS = {"cmn": "cmn-latn-pinyin"}
_HAN = r"\u3400-\u9fff\uf900-\ufaff"
_MARKS = "、。！？，；：「」『』《》"
_RUN = re.compile(rf"[{_HAN}]+|[^{_HAN}{_MARKS}]+")
_IS_HAN = re.compile(rf"[{_HAN}]")
_HAS_JAPANESE = re.compile(rf"[\u3040-\u30ff{_HAN}]")
#: Particles that are not said as they are written.
_PARTICLES = {"ハ": "ワ", "ヘ": "エ", "ヲ": "オ"}
_PARTICLE, _JOINED, _MARK = "助詞", ("助動詞", "接尾辞"), "補助記号"


def pieces(token: str, language: str) -> list[tuple[str, str]]:
    """The words of a token without spaces, each as it is written and as the synthesiser reads it.

    Chinese characters are a syllable each; Japanese is cut into words; anything else is one word.
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
    """The synthesiser's voice for what `pieces` says is read in a language."""
    return _READERS.get(language, language)


def as_read(text: str, language: str) -> str:
    """A text in letters that the synthesiser reads, words apart; its punctuation stays where it parts phrases."""
    if not _HAS_JAPANESE.search(text):
        return text
    phrases = (
        " ".join(read for token in phrase.split() for _, read in pieces(token, language))
        for phrase in re.split(rf"[{_MARKS}]+", text)
    )
    return ". ".join(phrase for phrase in phrases if phrase)


def _pinyin(run: str) -> list[str]:
    """Pinyin with numbers for tones, by the words that the characters make."""
    from pypinyin import Style, pinyin

    found = pinyin(run, style=Style.TONE3, neutral_tone_with_five=True)
    return [syllable for (syllable, *_) in found]


@cache
def _cutter() -> Any:
    from sudachipy import Dictionary

    return Dictionary(dict="small").tokenizer()


def _japanese(token: str) -> list[tuple[str, str]]:
    out: list[tuple[str, str]] = []
    for part in _cutter().tokenize(token):
        written, kind = part.surface(), part.part_of_speech()[0]
        if kind == _MARK:
            continue
        read = written if written.isdecimal() else part.reading_form() or written
        if kind == _PARTICLE:
            read = _PARTICLES.get(read, read)
        if kind in _JOINED and out:
            out[-1] = (out[-1][0] + written, out[-1][1] + read)
        else:
            out.append((written, read))
    return out
