"""Hostile files for all uploads: each must be opened or refused with a message, without affecting others."""

from collections import defaultdict

from tools.attack.hostile import hostile_files
from tools.attack.site import Row, Site

#: How many are sent together to pages that take several.
_TOGETHER = 12
#: The time limit for opening or refusing a file.
_LIMIT_S = 240


_EMPTY = """
    SELECT count(*) FROM cast_character c JOIN people_studio s ON s.id = c.studio_id
    WHERE s.name = 'Hostile Pictures' AND NOT EXISTS (SELECT 1 FROM cast_part p WHERE p.character_id = c.id)
"""


def attack(site: Site, *, slow: bool) -> Row:
    """Attack with all kinds of files, or without those that take long to refuse."""
    files = [one for one in hostile_files() if slow or not one.is_slow]
    by_place: dict[str, list[tuple[str, bytes]]] = defaultdict(list)
    for one in files:
        by_place[one.where].append((one.name, one.data))
    watch = site.watch()
    statuses: dict[int, int] = defaultdict(int)
    fell: list[str] = []
    for where, sent in by_place.items():
        for at in range(0, len(sent), _TOGETHER):
            for answer in site.send(where, sent[at : at + _TOGETHER]):
                statuses[answer.status] += 1
                if answer.status >= 500:
                    fell.append(f"{where}: {answer.status}")
    if not site.wait_for_jobs(_LIMIT_S):
        fell.append(f"after {_LIMIT_S} s {site.open_jobs()} jobs are still open")
    seen = watch.stop()
    ended = site.sql("SELECT kind, state, can_retry, error FROM jobs_job j JOIN people_studio s ON s.id = j.studio_id "
                     "WHERE s.name = 'Hostile Pictures'")  # fmt: skip
    failed = [(kind, again, error) for kind, state, again, error in ended if state == "failed"]
    fell += [f"{kind} failed on our side: {error}" for kind, again, error in failed if again]
    fell += [f"{kind} failed without a word" for kind, _, error in failed if not error]
    fell += site.damaged()
    empty = site.sql(_EMPTY)[0][0]
    if empty:
        fell.append(f"{empty} characters were left empty")
    answers = ", ".join(f"{count} of {status}" for status, count in sorted(statuses.items()))
    told = f"answers: {answers}; {len(ended)} jobs, all ended; {seen.told}"
    return Row("hostile files", len(files), told, (*fell, *seen.fell))
