"""Who speaks for the ear to learn: voices, their languages, and how much each says.

Some are kept for measuring only.
"""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class LearntVoice:
    """A voice of a synthesiser; `minutes` of speech to learn from, 0 for those that are kept for measuring."""

    engine: str
    name: str
    language: str
    minutes: float
    phoneset: str = ""
    encoding: str = "ascii"


#: Voices made from recordings of people. Those with 0 minutes are never learnt from.
NATURAL = (
    LearntVoice("flite", "cmu_us_rms", "en", 40),
    LearntVoice("flite", "cmu_us_kal16", "en", 20),
    LearntVoice("flite", "cmu_us_slt", "en", 0),
    LearntVoice("flite", "cmu_us_awb", "en", 0),
    LearntVoice("festival", "kal_diphone", "en", 16, "radio"),
    LearntVoice("festival", "ked_diphone", "en", 26, "radio"),
    LearntVoice("festival", "cmu_us_slt_arctic_hts", "en", 0, "radio"),
    LearntVoice("festival", "lp_diphone", "it", 18, "italian", "iso8859-1"),
    LearntVoice("festival", "pc_diphone", "it", 0, "italian", "iso8859-1"),
    LearntVoice("festival", "czech_dita", "cs", 14, "czech", "iso8859-2"),
    LearntVoice("festival", "czech_machac", "cs", 12, "czech", "iso8859-2"),
    LearntVoice("festival", "czech_krb", "cs", 12, "czech", "iso8859-2"),
    LearntVoice("festival", "czech_ph", "cs", 0, "czech", "iso8859-2"),
    LearntVoice("festival", "suo_fi_lj_diphone", "fi", 16, "finnish", "iso8859-1"),
    LearntVoice("festival", "hy_fi_mv_diphone", "fi", 0, "finnish", "iso8859-1"),
    LearntVoice("festival", "upc_ca_ona_hts", "ca", 16, "catalan", "iso8859-1"),
    LearntVoice("festival", "hindi_NSK_diphone", "hi", 10, "indic", "utf-8"),
    LearntVoice("festival", "marathi_NSK_diphone", "mr", 10, "indic", "utf-8"),
    LearntVoice("festival", "telugu_NSK_diphone", "te", 10, "indic", "utf-8"),
    LearntVoice("festival", "msu_ru_nsh_clunits", "ru", 0, "russian", "utf-8"),
)

#: Neural voices, which say the sounds they are told; none of them is exact about when.
NEURAL = (
    LearntVoice("hibari", "heart", "en-us", 40),
    LearntVoice("joe", "joe", "en-us", 40),
    LearntVoice("kokoro", "blends", "en-us", 12),
)
#: Recordings of people (`tools/ear/people.py`), by language: all there are, but those that are kept for measuring.
PEOPLE = tuple(
    LearntVoice("people", language, language, 1e9)
    for language in (
        "be", "ca", "cs", "da", "de", "en-gb", "es", "fr", "hu", "it", "nb", "nl", "pt-br", "ro", "ru", "uk",
    )
)  # fmt: skip

#: Languages of espeak-ng to learn, each in voices made up anew for every few sentences.
FORMANT_LANGUAGES = (
    "en-us", "en-us", "en-us", "en-us", "en-gb", "en-gb", "en-gb-scotland", "en-gb-x-rp", "en-029",
    "es", "es-419", "fr", "fr-be", "de", "it", "pt", "pt-br", "nl", "pl", "cs", "ru", "tr", "ja", "cmn-latn-pinyin",
    "hi",
    "ar", "sv", "nb", "fi", "hu", "el", "ro", "bg", "uk", "hr", "sk", "ca", "fa", "he", "ko", "vi", "id", "sw", "ta",
    "ka",
    "cy", "ga", "is", "lt", "lv", "et", "eu", "sq", "az", "kk", "ur", "bn",
)  # fmt: skip
#: Minutes of each.
FORMANT_MINUTES = 3.0


def language_of(file: str) -> str:
    """The language of a file that `make` wrote, by its name."""
    _, engine, name = file.split("-", 2)
    if engine in ("espeak", "people"):
        return name
    return next(v.language for v in (*NATURAL, *NEURAL) if (v.engine, v.name) == (engine, name))


def formant_voice(pick: np.random.Generator) -> str:
    """A voice description for espeak-ng: pitch, formants, breath and roughness each for themselves, at random.

    From a deep croak to a squeak; plain, breathy, whispered, creaky or shouted.
    """
    style = str(pick.choice(["plain", "plain", "plain", "breathy", "whisper", "creaky", "shouted"]))
    low = float(np.exp(pick.uniform(np.log(60), np.log(380))))
    if style == "creaky":
        low = float(pick.uniform(35, 80))
    if style == "shouted":
        low = float(pick.uniform(180, 480))
    high = low * pick.uniform(1.15, 1.9)
    # Large heads to small ones; partly going with the pitch, as in nature.
    size = float(np.exp(pick.normal(0.12 * np.log2(low / 120), 0.16)))
    rows = ["language variant", f"gender {pick.choice(['male', 'female'])}", f"pitch {low:.0f} {high:.0f}"]
    for number in range(9):
        scale = 100 * min(max(size, 0.7), 1.55) * float(np.exp(pick.normal(0, 0.04)))
        height = pick.uniform(70, 130) if number else pick.uniform(60, 110)
        if style == "whisper" and number == 0:
            height = 0
        if style == "shouted" and number >= 2:
            height *= 1.4
        rows.append(f"formant {number} {scale:.0f} {height:.0f} {pick.uniform(70, 150):.0f}")
    if style in ("breathy", "whisper"):
        amount = pick.uniform(0.4, 1.2) * (1 if style == "whisper" else 0.35)
        rows.append("breath " + " ".join(f"{amount * a:.0f}" for a in (75, 75, 50, 40, 20, 15, 10, 10)))
        rows.append("breathw 150 150 200 200 400 400 500 500")
        rows.append(f"voicing {pick.uniform(0, 25) if style == 'whisper' else pick.uniform(50, 90):.0f}")
    if style == "creaky":
        rows.append(f"roughness {pick.integers(3, 7)}")
    rows.append(f"flutter {pick.integers(0, 12 if style != 'creaky' else 25)}")
    if pick.random() < 0.3:
        rows.append(f"consonants {pick.integers(60, 140)} {pick.integers(60, 140)}")
    return "\n".join(rows) + "\n"
