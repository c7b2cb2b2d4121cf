"""Other pronunciations of a word: weak forms, and elisions in fluent speech.

Weak forms of English: Roach 2009, chapter 12; elisions: Gimson's Pronunciation of English (Cruttenden 2014), chapter
12; the French schwa and final consonants of numerals: Fougeron and Smith 1993, Tranel 1987. Symbols are IPA. Costs are
log probabilities: how much better a variant must fit to be chosen.
"""

from tinfork.core.speech.lexicon import base_language
from tinfork.core.speech.visemes import is_vowel

Sounds = tuple[str, ...]

#: The costs of a weak form, nearly as common as the strong one, and of an elision.
_WEAK_COST, _SWALLOWED_COST = 0.5, 2.0
#: The most variants of a word.
MOST = 5

_WEAK_ENGLISH = {
    "a": "ə eɪ", "an": "ə.n", "and": "ə.n ə.n.d n", "are": "ə ɚ", "as": "ə.z", "at": "ə.t", "because": "k.ə.z",
    "been": "b.ɪ.n", "but": "b.ə.t", "can": "k.ə.n", "could": "k.ə.d", "do": "d.ə", "does": "d.ə.z", "for": "f.ɚ f.ə",
    "from": "f.ɹ.ə.m", "going": "ɡ.ə.n ɡ.oʊ.n", "got": "ɡ.ɑ", "had": "h.ə.d ə.d", "has": "h.ə.z ə.z",
    "have": "h.ə.v ə.v", "he": "i", "her": "ɚ ə h.ə", "him": "ɪ.m", "his": "ɪ.z", "i": "ɑ", "is": "s z",
    "it": "ə.t", "just": "dʒ.ə.s.t dʒ.ə.s", "kind": "k.aɪ.n", "must": "m.ə.s.t m.ə.s", "my": "m.ə", "not": "n.ə.t",
    "of": "ə.v ə", "or": "ɚ ə", "our": "ɑ.ɹ ɑ", "shall": "ʃ.ə.l", "should": "ʃ.ə.d", "some": "s.ə.m", "than": "ð.ə.n",
    "that": "ð.ə.t", "the": "ð.ə ð.i", "them": "ð.ə.m ə.m", "there": "ð.ɚ ð.ə", "to": "t.ə ə t.u", "us": "ə.s",
    "want": "w.ɑ.n", "was": "w.ə.z", "were": "w.ɚ w.ə", "what": "w.ə.t", "will": "w.ə.l l", "would": "w.ə.d d",
    "you": "j.ə", "your": "j.ɚ j.ə",
}  # fmt: skip
_NUMERALS_FRENCH = {"six": "s i", "dix": "d i", "huit": "ɥ i", "cinq": "s ɛ̃", "vingt": "v ɛ̃ t", "plus": "p l y s",
                    "tous": "t u s", "août": "u t", "ours": "u ʁ s"}  # fmt: skip


def other_ways(word: str, usual: Sounds, language: str) -> list[tuple[Sounds, float]]:
    """The variants of a word (lower case) with its usual sounds, each with its cost, the likeliest first."""
    base = base_language(language)
    found: list[tuple[Sounds, float]] = []
    if base == "en":
        weak = (tuple(form.split(".")) for form in _WEAK_ENGLISH.get(word, "").split())
        # A single sound fits nearly anywhere.
        costs = ((form, _SWALLOWED_COST if len(form) < min(2, len(usual)) else _WEAK_COST) for form in weak)
        found = [*costs, *_swallowed_english(word, usual)]
    elif base == "fr":
        numeral = _NUMERALS_FRENCH.get(word)
        found = [(tuple(numeral.split()), _WEAK_COST)] if numeral else []
        found += _without_schwa(usual)
    out: dict[Sounds, float] = {}
    for sounds, cost in found:
        if sounds and sounds != _bare(usual):
            out.setdefault(sounds, cost)
    return list(out.items())[:MOST]


def _bare(sounds: Sounds) -> Sounds:
    return tuple(s.lstrip("ˈˌ") for s in sounds)


def _swallowed_english(word: str, usual: Sounds) -> list[tuple[Sounds, float]]:
    """English elisions: the last stop of a cluster ("next day"), -in' for -ing, schwa before a nasal or lateral."""
    out: list[tuple[Sounds, float]] = []
    if len(usual) > 2 and usual[-1] in ("t", "d") and not is_vowel(usual[-2].lstrip("ˈˌ")) and usual[-2] != "ɹ":
        out.append((usual[:-1], _SWALLOWED_COST))
    if word.endswith("ing") and usual[-2:] == ("ɪ", "ŋ") and len(usual) > 3:
        out.append(((*usual[:-1], "n"), _SWALLOWED_COST))
    out += [
        ((*usual[:at], *usual[at + 1 :]), _SWALLOWED_COST)
        for at in range(2, len(usual) - 1)
        if usual[at] == "ə" and usual[at - 1] in ("t", "d", "s", "z", "ʃ", "v", "f") and usual[at + 1] in ("n", "l")
    ][:1]
    return out


def _without_schwa(usual: Sounds) -> list[tuple[Sounds, float]]:
    """Variants without one schwa, and without all of them."""
    places = [at for at, sound in enumerate(usual) if sound == "ə"]
    if not places or len(usual) < 2:
        return []
    each = [((*usual[:at], *usual[at + 1 :]), _WEAK_COST) for at in places[:2]]
    every = tuple(sound for sound in usual if sound != "ə")
    return [*each, (every, _WEAK_COST)] if every else each
