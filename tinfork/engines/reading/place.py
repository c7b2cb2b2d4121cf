"""Stage 5, place: the words of judged pieces as lines, with edges moved to where the sound changes."""

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import SILENCE_DB, level_db
from tinfork.core.speech.cues import LAUGH
from tinfork.core.speech.reading import Extra, Line, Phoneme, Word
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.judge import Judged, JudgedWord
from tinfork.engines.reading.mending import Mender
from tinfork.engines.spelling import WrittenWord
from tinfork.engines.wording import LineText, SpokenWord, Wording

#: How much sound around a piece is used to correct its edges.
_MARGIN_S = 1.0
#: The least sound between its neighbours for a cue; the length of a syllable of laughter.
_CUE_US, _LAUGH_US = 120_000, 200_000
_CUE_CONFIDENCE = 0.4


class PlacedTrack:
    """Collects the sounds of all words of a sound, piece by piece."""

    def __init__(self, samples: NDArray[np.float32], texts: list[LineText], wording: Wording, duration_us: int) -> None:
        self._samples, self._texts, self._wording = samples, texts, wording
        self._duration_us = duration_us
        #: For each written word, its sounds, the confidence of its spoken words, and the words heard instead.
        self._by_word: dict[int, list[tuple[Phoneme, float, str]]] = {}
        self._extras: dict[int, list[Extra]] = {}
        self._methods: dict[int, str] = {}
        self._last_us = 0
        self._given = 0

    def take(self, spoken: Sequence[SpokenWord], judged: Judged) -> None:
        """Add a piece; `spoken` are its typed words."""
        if not judged.words:
            return
        first_s = max(0.0, judged.words[0].sounds[0].start_s - _MARGIN_S)
        last_s = judged.words[-1].sounds[-1].end_s + _MARGIN_S
        offset = round(first_s * READING_HZ)
        mender = Mender(self._samples[offset : round(last_s * READING_HZ)])
        offset_us = offset * 1_000_000 // READING_HZ
        spans: list[tuple[str, int, int]] = []
        for sound in (sound for word in judged.words for sound in word.sounds):
            start_us = max(0, round(sound.start_s * 1e6) - offset_us)
            spans.append((sound.ipa, start_us, max(start_us + 1, round(sound.end_s * 1e6) - offset_us)))
        edges = iter(mender.edges(spans))
        line = spoken[0].line
        for word in judged.words:
            own = [(start + offset_us, end + offset_us) for start, end in itertools.islice(edges, len(word.sounds))]
            if word.typed is None:
                self._extra(line, own, word.heard)
            else:
                line = spoken[word.typed].line
                self._methods.setdefault(line, judged.method)
                self._word_sounds(spoken[word.typed].written, word, own)

    def _extra(self, line: int, spans: list[tuple[int, int]], heard: str) -> None:
        """Add speech in a line that was not typed; consecutive words are joined."""
        extras = self._extras.setdefault(line, [])
        start_us, end_us = max(self._last_us, spans[0][0]), min(spans[-1][1], self._duration_us)
        if start_us >= end_us:
            return
        if extras and extras[-1].end_us == self._last_us and extras[-1].heard == heard:
            start_us = extras.pop().start_us
        extras.append(Extra(start_us, end_us, heard))
        self._last_us = end_us

    def _word_sounds(self, written: int, word: JudgedWord, spans: list[tuple[int, int]]) -> None:
        for sound, sure, (start, end) in zip(word.sounds, word.sounds_sure, spans, strict=True):
            start_us, end_us = max(self._last_us, start), min(end, self._duration_us)
            if start_us < end_us:
                phoneme = Phoneme(sound.ipa, start_us, end_us, sure)
                self._by_word.setdefault(written, []).append((phoneme, word.sure, word.heard))
                self._last_us = end_us

    def finished(self, upto: int | None) -> list[tuple[int, Line]]:
        """The lines that were completed since the last call."""
        if upto is None:
            return []
        spoken = self._wording.spoken
        line = spoken[upto].line
        done = line + 1 if upto + 1 == len(spoken) or spoken[upto + 1].line > line else line
        out = [(at, line) for at, line in enumerate(self.lines()[self._given : done], self._given)]
        self._given = max(self._given, done)
        return out

    def lines(self) -> tuple[Line, ...]:
        """All lines with the words found so far."""
        out: list[Line] = []
        number = 0
        for at, (text, words) in enumerate(zip(self._texts, self._wording.written, strict=True)):
            timed: list[tuple[WrittenWord, Word | None]] = []
            for word in words:
                timed.append((word, self._word(word, number)))
                number += 1
            said = self._with_cues(timed)
            unsaid = tuple(w.text for w, found in timed if not found and not w.cue) if said else ()
            way, extras = self._methods.get(at, ""), tuple(self._extras.get(at, ()))
            out.append(
                Line(text.speaker, text.text, text.language, said, missing_words=unsaid, method=way, extras=extras)
            )
        return tuple(out)

    def _word(self, word: WrittenWord, number: int) -> Word | None:
        parts = self._by_word.get(number)
        if not parts:
            return None
        phonemes = tuple(p for p, *_ in parts)
        sure = min(sure for _, sure, _ in parts)
        heard = " ".join(dict.fromkeys(heard for *_, heard in parts if heard))
        return Word(word.text, phonemes[0].start_us, phonemes[-1].end_us, phonemes, sure, heard=heard)

    def _with_cues(self, timed: list[tuple[WrittenWord, Word | None]]) -> tuple[Word, ...]:
        """The spoken words, and the breaths and laughter between them if there is sound for them."""
        out: list[Word] = []
        for at, (written, word) in enumerate(timed):
            if word:
                out.append(word)
            elif written.cue:
                after = next((w for _, w in timed[at + 1 :] if w), None)
                begin = out[-1].end_us if out else max(0, after.start_us - 1_500_000) if after else 0
                end = after.start_us if after else min(self._duration_us, begin + 1_500_000)
                if (out or after) and (cue := self._cue(written, begin, end)):
                    out.append(cue)
        return tuple(out)

    def _between(self, begin_us: int, end_us: int) -> NDArray[np.float32]:
        return self._samples[begin_us * READING_HZ // 1_000_000 : end_us * READING_HZ // 1_000_000]

    def _cue(self, written: WrittenWord, begin_us: int, end_us: int) -> Word | None:
        """A breath or laughter at the loudest place between two times; None if there is no sound."""
        levels = level_db(self._between(begin_us, end_us), READING_HZ)
        loud = np.flatnonzero(levels > max(float(levels.max()) - 15.0, SILENCE_DB))
        if len(loud) == 0:
            return None
        start, end = begin_us + int(loud[0]) * 10_000, min(begin_us + (int(loud[-1]) + 1) * 10_000, end_us)
        if end - start < _CUE_US:
            return None
        sounds: list[Phoneme] = []
        if written.cue == LAUGH:
            cuts = np.linspace(start, end, max(1, (end - start) // _LAUGH_US) + 1).astype(int).tolist()
            for a, b in itertools.pairwise(cuts):
                middle = a + (b - a) // 3
                sounds += [Phoneme("h", a, middle, _CUE_CONFIDENCE), Phoneme("ɑ", middle, b, _CUE_CONFIDENCE)]
        else:
            sounds = [Phoneme("h", start, end, _CUE_CONFIDENCE)]
        return Word(written.text, start, end, tuple(sounds), _CUE_CONFIDENCE)
