"""Speech with exactly known sounds and times, in voices that the ear was not trained on, and ways to degrade it.

Truth comes from the synthesisers: the segments of flite and festival, the phoneme events of espeak-ng. Nothing here is
used to train or to choose anything in the application.
"""

import subprocess
import wave
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import soxr
from numpy.typing import NDArray

from tinfork.core.speech.reading import Phoneme
from tinfork.engines.decode import Sound
from tinfork.engines.writing import as_read, reader_of
from tools.bench.speech import sentences
from tools.ear import augmentation, speaking
from tools.ear.speaking import RATE_HZ, LabelledSpeech

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Truth:
    """A sentence as it was spoken: who, its text, language, samples at 16 kHz, and its sounds."""

    voice: str
    text: str
    language: str
    samples: Samples
    phonemes: tuple[Phoneme, ...]

    @property
    def sound(self) -> Sound:
        """What the reader is given."""
        return Sound(self.samples[:, None], RATE_HZ)

    @property
    def duration_us(self) -> int:
        """Length in microseconds."""
        return len(self.samples) * 1_000_000 // RATE_HZ


def _truth(heard: LabelledSpeech, voice: str, text: str, language: str) -> Truth:
    tailed = speaking.with_tails(heard)
    phonemes = tuple(Phoneme(ipa, round(a * 1e6), round(b * 1e6)) for ipa, a, b in tailed.segments if b - a > 1e-4)
    # A moment of a quiet room on both sides, as in any recording.
    pad = RATE_HZ // 4
    samples = np.pad(augmentation.levelled(heard.samples), (pad, pad))
    samples += np.random.default_rng(3).normal(scale=0.0004, size=len(samples)).astype(np.float32)
    moved = tuple(replace(p, start_us=p.start_us + 250_000, end_us=p.end_us + 250_000) for p in phonemes)
    return Truth(voice, text, language, samples.astype(np.float32), moved)


def english(each: int, seed: int = 21) -> list[Truth]:
    """Sentences of English voices: three made from recordings of people, and three of espeak-ng."""
    texts = iter(sentences(each * 6, seed))
    out: list[Truth] = []
    for name in ("cmu_us_slt", "cmu_us_awb"):
        for _ in range(each):
            text = next(texts)
            out.append(_truth(speaking.flite(text, name), name, text, "en-us"))
    some = [next(texts) for _ in range(each)]
    said = speaking.festival(some, "cmu_us_slt_arctic_hts", "radio", encoding="ascii")
    out += [_truth(h, "slt_arctic_hts", text, "en-us") for h, text in zip(said, some, strict=True)]
    for name, language in (("en-us", "en-us"), ("en-gb", "en-gb"), ("en-us+f3", "en-us")):
        for _ in range(each):
            text = next(texts)
            out.append(_truth(speaking.espeak(text, name), f"espeak {name}", text, language))
    return out


#: Other languages in voices made from recordings of people: voice, phone set, encoding, espeak-ng's code, sentences.
NATURAL_OTHERS: tuple[tuple[str, str, str, str, tuple[str, ...]], ...] = (
    ("pc_diphone", "italian", "iso8859-1", "it", (
        "La rana prepara il pane prima della mezzanotte.",
        "Il tasso guida sempre l'ultimo tram della sera.",
        "Domani mattina apriamo tutte le finestre del forno.",
        "Nessuno ricorda dove sono le chiavi della bottega.",
        "Piove forte, ma la gente aspetta volentieri.",
        "Mi passi per favore quel vecchio vassoio bianco?",
    )),
    ("czech_ph", "czech", "iso8859-2", "cs", (
        "Žába peče chleba každou noc až do rána.",
        "Jezevec řídí poslední tramvaj z konečné.",
        "Na stole leží sedm malých housek a nůž.",
        "Zítra brzy ráno otevřeme všechna okna.",
        "Nikdo neví, kam zmizela stará mapa.",
        "Prosím vás, zavřete ty dveře, je tu zima.",
    )),
    ("hy_fi_mv_diphone", "finnish", "iso8859-1", "fi", (
        "Sammakko leipoo leipää joka yö aamuun asti.",
        "Mäyrä ajaa viimeisen raitiovaunun varikolle.",
        "Pöydällä on seitsemän pientä sämpylää.",
        "Huomenna avaamme kaikki ikkunat aikaisin.",
        "Kukaan ei tiedä, minne vanha kartta katosi.",
        "Ole hyvä ja sulje ovi, täällä on kylmä.",
    )),
    ("msu_ru_nsh_clunits", "russian", "utf-8", "ru", (
        "Жаба печёт хлеб каждую ночь до утра.",
        "Барсук ведёт последний трамвай в депо.",
        "На столе лежат семь маленьких булок.",
        "Завтра рано утром мы откроем все окна.",
        "Никто не знает, куда делась старая карта.",
        "Закройте, пожалуйста, дверь, здесь холодно.",
    )),
)  # fmt: skip

#: espeak-ng's voices of other languages; the ear has learnt them, but no voice with these formants.
FORMANT_OTHERS: dict[str, tuple[str, ...]] = {
    "es": ("El sapo hornea el pan antes de la medianoche.", "Mañana abriremos todas las ventanas muy temprano.",
           "Nadie recuerda dónde está la llave del horno."),
    "fr": ("Le crapaud prépare le pain avant minuit.", "Demain matin nous ouvrirons toutes les fenêtres.",
           "Personne ne sait où est passée la vieille carte."),
    "de": ("Die Kröte backt das Brot vor Mitternacht.", "Morgen früh öffnen wir alle Fenster der Bäckerei.",
           "Niemand weiß, wo die alte Karte geblieben ist."),
    "it": ("La rana prepara il pane prima di mezzanotte.", "Domani mattina apriamo tutte le finestre.",
           "Nessuno ricorda dove sono le chiavi."),
    "pt": ("O sapo faz o pão antes da meia-noite.", "Amanhã cedo abrimos todas as janelas.",
           "Ninguém sabe onde está o velho mapa."),
    "nl": ("De pad bakt het brood voor middernacht.", "Morgenvroeg openen we alle ramen van de winkel.",
           "Niemand weet waar de oude kaart gebleven is."),
    "pl": ("Ropucha piecze chleb przed północą.", "Jutro rano otworzymy wszystkie okna.",
           "Nikt nie wie, gdzie jest stara mapa."),
    "cs": ("Ropucha peče chleba před půlnocí.", "Zítra ráno otevřeme všechna okna.", "Nikdo neví, kde je stará mapa."),
    "ru": ("Жаба печёт хлеб перед полуночью.", "Завтра утром мы откроем все окна.",
           "Никто не знает, где старая карта."),
    "tr": ("Kurbağa gece yarısından önce ekmek pişirir.", "Yarın sabah bütün pencereleri açacağız.",
           "Eski haritanın nerede olduğunu kimse bilmiyor."),
    "ja": ("かえるはよなかにパンをやきます。", "あしたのあさはまどをぜんぶあけましょう。",
    "ふるいちずがどこにあるかだれもしりません。"),
    "cmn": ("青蛙在半夜烤面包。", "明天早上我们打开所有的窗户。", "没有人知道旧地图在哪里。"),
    "hi": ("मेंढक आधी रात से पहले रोटी बनाता है।", "कल सुबह हम सारी खिड़कियाँ खोलेंगे।", "किसी को नहीं पता पुराना नक्शा कहाँ है।"),
    "ar": ("الضفدع يخبز الخبز قبل منتصف الليل.", "غدا صباحا نفتح كل النوافذ.", "لا أحد يعرف أين الخريطة القديمة."),
}  # fmt: skip


def natural_others() -> list[Truth]:
    """Sentences of other languages, in voices made from recordings of people."""
    out = []
    for voice, phoneset, encoding, language, texts in NATURAL_OTHERS:
        said = speaking.festival(texts, voice, phoneset, encoding=encoding)
        out += [_truth(h, voice, text, language) for h, text in zip(said, texts, strict=True)]
    return out


def formant_others() -> list[Truth]:
    """Sentences of other languages in espeak-ng's own voices."""
    return [
        _truth(speaking.espeak(as_read(text, language), reader_of(language)), f"espeak {language}", text, language)
        for language, texts in FORMANT_OTHERS.items()
        for text in texts
    ]


def _each(change: Callable[[Samples], Samples]) -> Callable[[Truth], Truth]:
    return lambda truth: replace(truth, samples=augmentation.levelled(change(truth.samples), 0.07))


def pitched(semitones: float, window: str = "short") -> Callable[[Truth], Truth]:
    """The whole voice higher or lower (pitch and formants), at the same speed.

    Short windows keep sounds in their places (to 2.4 ms in the mean, by the level about each moment); "standard" ones
    move and blur them by 5 ms, so that the truth is no longer exact.
    """
    filters = f"rubberband=pitch={2 ** (semitones / 12)}:window={window}"
    return _each(lambda samples: _in_step(samples, _by_ffmpeg(samples, filters)))


#: The longest delay of a filter that is looked for, in milliseconds.
_MOST_LAG = 40


def _in_step(samples: Samples, changed: Samples) -> Samples:
    """What a filter made of samples, its delay removed: that at which the two are loud at the same times."""
    envelopes = []
    for one in (samples, changed):
        hops = one[: len(one) // 16 * 16].reshape(-1, 16)
        level = np.log(np.convolve(np.sqrt((hops**2).mean(axis=1)), np.ones(10) / 10, "same") + 1e-4)
        envelopes.append(level - level.mean())
    a, b = envelopes
    inner = slice(_MOST_LAG, len(a) - _MOST_LAG)
    likeness = [float(a[inner] @ np.roll(b, -lag)[inner]) for lag in range(-_MOST_LAG, _MOST_LAG + 1)]
    return np.roll(changed, -16 * (int(np.argmax(likeness)) - _MOST_LAG))


def taped(semitones: float) -> Callable[[Truth], Truth]:
    """The whole voice higher and faster, or lower and slower, as from a tape at another speed."""
    ratio = 2 ** (semitones / 12)

    def change(truth: Truth) -> Truth:
        samples = np.asarray(soxr.resample(truth.samples, RATE_HZ * ratio, RATE_HZ), dtype=np.float32)
        moved = (replace(p, start_us=round(p.start_us / ratio), end_us=round(p.end_us / ratio)) for p in truth.phonemes)
        return replace(truth, samples=samples, phonemes=tuple(moved))

    return change


def in_noise(samples: Samples, db: float) -> Samples:
    """White noise so far under a voice."""
    noise = np.random.default_rng(11).normal(size=len(samples))
    louder = np.sqrt(np.mean(samples**2)) * 10 ** (-db / 20)
    return np.asarray(samples + noise * louder, dtype=np.float32)


def noisy(db: float) -> Callable[[Truth], Truth]:
    """A sentence in white noise so far under its voice."""
    return _each(lambda samples: in_noise(samples, db))


def _chords(count: int, higher: Callable[[], float]) -> NDArray[np.float64]:
    """Struck chords with a beat, each so many times as high."""
    times = np.arange(count) / RATE_HZ
    out = np.zeros(count)
    for first in np.arange(0, times[-1], 0.4):
        on = times >= first
        ratio = higher()
        for hz in (196, 247, 294, 392):
            out[on] += np.exp(-(times[on] - first) / 0.3) * np.sin(2 * np.pi * hz * ratio * times[on])
    return out


def music(count: int, pick: np.random.Generator) -> Samples:
    """So many samples of a tune of chords, without anybody's voice."""
    tune = _chords(count, lambda: 2 ** (int(pick.integers(-7, 8)) / 12))
    return np.asarray(0.08 * tune / np.sqrt(np.mean(tune**2)), dtype=np.float32)


def in_music(samples: Samples, db: float) -> Samples:
    """Chords with a beat so far under a voice."""
    music = _chords(len(samples), lambda: 1.0)
    music *= np.sqrt(np.mean(samples**2)) / np.sqrt(np.mean(music**2)) * 10 ** (-db / 20)
    return np.asarray(samples + music, dtype=np.float32)


def with_music(db: float) -> Callable[[Truth], Truth]:
    """A sentence with chords so far under its voice."""
    return _each(lambda samples: in_music(samples, db))


telephone = _each(lambda samples: augmentation.banded(samples, 300, 3400))
clipped = _each(lambda samples: np.clip(samples, -0.06, 0.06))
room = _each(lambda samples: augmentation.roomy(samples, np.random.default_rng(4)))
mp3 = _each(lambda samples: _through(samples, "mp3", ["-b:a", "24k"]))


def _by_ffmpeg(samples: Samples, filters: str) -> Samples:
    return _through(samples, "wav", ["-af", filters])


def _through(samples: Samples, kind: str, options: Sequence[str]) -> Samples:
    with TemporaryDirectory() as folder:
        names = [Path(folder) / n for n in ("in.wav", f"there.{kind}", "out.wav")]
        with wave.open(str(names[0]), "wb") as file:
            file.setparams((1, 2, RATE_HZ, 0, "NONE", ""))
            file.writeframes((np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
        for source, target, more in ((names[0], names[1], options), (names[1], names[2], ["-ar", str(RATE_HZ)])):
            command = ["ffmpeg", "-v", "error", "-y", "-i", str(source), *more, str(target)]
            subprocess.run(command, check=True, timeout=60)
        with wave.open(str(names[2])) as file:
            out = np.frombuffer(file.readframes(file.getnframes()), dtype="<i2").astype(np.float32) / np.float32(32768)
    fitted = np.pad(out, (0, max(0, len(samples) - len(out))))[: len(samples)]
    return np.asarray(fitted, dtype=np.float32)
