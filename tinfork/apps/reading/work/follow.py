"""Reading lines in a process of its own, with progress by line; finished lines are kept after a cancel."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from tinfork.core.errors import Cancelled, SoundError, WordsError
from tinfork.core.messages import Message
from tinfork.core.speech.lexicon import Lexicon
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.rereading import Change, Plan, apply_plan, widened
from tinfork.engines.isolated import run_isolated
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.reader import read_changes
from tinfork.engines.wording import LineText

Report = Callable[[str, float], None]

#: Each phase: its text, its start and its share of the whole.
_PHASES = {
    "spell": (Message("Looking up words"), 0.05, 0.05),
    "lay out": (Message("Aligning words with the sound"), 0.1, 0.0),
    "align": (Message("Placing each sound"), 0.1, 0.88),
}


class PartiallyRead(Cancelled):
    """Cancelled, with the lines that were finished."""

    def __init__(self, reading: Reading, done: int, total: int) -> None:
        super().__init__(Message("Cancelled."))
        self.reading, self.done, self.total = reading, done, total


def read_plan(
    voice: Path,
    texts: Sequence[LineText],
    old: Reading,
    plan: Plan,
    report: Report,
    *,
    may_skip: bool = False,
    lexicon: Lexicon | None = None,
    is_free: Callable[[Word], bool] | None = None,
) -> tuple[Reading, tuple[str, ...]]:
    """Read according to a plan; returns the reading and warnings; raises `PartiallyRead` if cancelled after some lines.

    `is_free` marks old words that are to be read anew.
    """
    keys = [(text.speaker, text.text, text.language) for text in texts]
    while True:
        done: dict[int, Line] = {}
        try:
            lines, warnings = _read(_VoiceTask(voice, texts, plan, may_skip, lexicon), report, done)
        except Cancelled as cancelled:
            if not any(line.words for line in done.values()):
                raise
            partly = apply_plan(old, keys, plan, _some(done, texts), is_free)
            raise PartiallyRead(Reading(old.duration_us, partly), len(done), len(texts)) from cancelled
        except (WordsError, SoundError):
            # The room between the neighbours may be too small: read them too.
            wider = widened(old, plan)
            if wider is None:
                raise
            plan = wider
            continue
        new = apply_plan(old, keys, plan, _some(lines, texts), is_free)
        return Reading(old.duration_us, new), warnings


@dataclass(frozen=True)
class _VoiceTask:
    """The lines to read."""

    voice: Path
    texts: Sequence[LineText]
    plan: Plan
    may_skip: bool
    lexicon: Lexicon | None


def _read(asked: _VoiceTask, report: Report, done: dict[int, Line]) -> tuple[dict[int, Line], tuple[str, ...]]:
    changes = asked.plan.changes
    total = sum(change.last - change.first for change in changes)

    def progress(phase: str, share: float) -> None:
        # A busy machine takes a while until the child reports.
        words, start, part = _PHASES.get(phase, ("", 0.0, 0.0))
        if done and total > 1:
            line = done[max(done)]
            words = Message(
                "Reading: {done} of {total} lines · “{line}” at {seconds:.1f} s",
                done=len(done),
                total=total,
                line=line.text[:40],
                seconds=line.start_us / 1e6,
            )
        report(words, start + part * share)

    def keep(part: list[tuple[int, Line]]) -> None:
        done.update(part)

    if not changes:
        return {}, ()
    return run_isolated(
        read_changes,
        asked.voice,
        list(asked.texts),
        changes,
        asked.may_skip,
        asked.lexicon,
        progress=progress,
        keep=keep,
        limit_s=time_limit_s(asked.voice),
    )


def time_limit_s(voice: Path) -> float:
    """The time limit for a file of samples (32 bits each): many times the usual time, plus a constant."""
    return 120.0 + 3.0 * voice.stat().st_size / (4 * READING_HZ)


def _some(done: dict[int, Line], texts: Sequence[LineText]) -> Callable[[Change], list[Line]]:
    """The finished lines of a change."""

    def lines(change: Change) -> list[Line]:
        return [
            done.get(at, Line(texts[at].speaker, texts[at].text, texts[at].language, ()))
            for at in range(change.first, change.last)
        ]

    return lines
