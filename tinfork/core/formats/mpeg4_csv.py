"""MPEG-4 viseme numbers (ISO/IEC 14496-2, table of visemes 0 to 14): a row for each stretch of one viseme.

The numbers go by the sound, which tells n and l from t and d as the standard does; a class of ours that the standard
does not have takes its nearest.
"""

import csv
import io

from tinfork.core.scene.choices import FIRST, RATE, WHO, as_chosen, figures_of
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.speech.reading import Phoneme
from tinfork.core.speech.visemes import strip_marks

#: The number of each class of ours: none; p b m; f v; T D; t d; k g; tS dZ S; s z; n l; r; A:; e; I; Q; U.
NUMBERS = {
    "rest": 0,
    "bilabial": 1,
    "labiodental": 2,
    "dental": 3,
    "alveolar": 4,
    "velar": 5,
    "postalveolar": 6,
    "sibilant": 7,
    "lateral": 8,
    "rhotic": 9,
    "open": 10,
    "mid": 11,
    "close-spread": 12,
    "mid-rounded": 13,
    "close-rounded": 14,
}
#: Sounds whose number is not their class's: n is shown with l.
_BY_SOUND = {"n": 8, "ɳ": 8, "e": 11}


def number_of(phoneme: Phoneme) -> int:
    """The viseme number of a sound."""
    return _BY_SOUND.get(strip_marks(phoneme.ipa)[:1], NUMBERS[phoneme.viseme])


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["character", "frame", "seconds", "viseme"])
    for figure in figures_of(scene, values):
        at = 0
        rows: list[tuple[int, int]] = []
        for phoneme in scene.reading.phonemes(figure.name):
            if phoneme.start_us > at:
                rows.append((at, 0))
            rows.append((phoneme.start_us, number_of(phoneme)))
            at = max(at, phoneme.end_us)
        rows.append((at, 0))
        last = -1
        for time_us, number in rows:
            if number != last and time_us < scene.reading.duration_us:
                frame = scene.first_frame + scene.rate.frame_at(time_us)
                writer.writerow([figure.name, frame, f"{time_us / 1e6:.6f}", number])
            last = number
    return out.getvalue().encode()


EXPORTER = Exporter(
    "mpeg4-csv",
    "MPEG-4 viseme numbers (CSV)",
    Purpose.RIG,
    ".visemes.csv",
    "text/csv; charset=utf-8",
    of_bytes(_of_scene),
    (WHO, FIRST, RATE),
    "numbers 0 to 14 of ISO/IEC 14496-2, with the start of each",
)
