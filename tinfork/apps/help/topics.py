"""Which chapter helps with a page, and which with an error."""

from django.urls import reverse

from tinfork.core.messages import Message

#: Chapters of the guide, by their addresses.
FIRST_STEPS, PRODUCTION, SOUND, CAST = "first-steps", "a-production-and-its-shots", "sound-and-words", "characters"
DESK, PICTURE, HAND_OVER = "the-desk", "the-picture-and-acting", "hand-over"
REVIEW, TEAM, TROUBLE = "review-and-approval", "people-and-your-account", "when-something-goes-wrong"

#: Chapters by the prefixes of URL names; the longest matching prefix counts.
_PAGES = {
    "": FIRST_STEPS,
    "production": PRODUCTION,
    "archive": PRODUCTION,
    "script": PRODUCTION,
    "shot": SOUND,
    "take": SOUND,
    "record": SOUND,
    "pronunciation": SOUND,
    "desk": DESK,
    "handover": HAND_OVER,
    "remark": REVIEW,
    "review": REVIEW,
    "comparison": REVIEW,
    "board": REVIEW,
    "people": TEAM,
    "news": TEAM,
    "activity": REVIEW,
    "account": TEAM,
    "join": TEAM,
    "shot_import": HAND_OVER,
    "at_the_set": HAND_OVER,
    "cast": CAST,
    "character": CAST,
    "chart": CAST,
    "part": CAST,
    "page": CAST,
    "starter": CAST,
    "jobs": f"{TROUBLE}#a-job-failed-or-does-not-start",
}

#: Chapters by the codes of errors, whole or only their area.
_ERRORS = {
    "apart": "a-job-failed-or-does-not-start",
    "archive": "a-file-to-import-does-not-fit",
    "chart": "a-mouth-is-missing-or-wrong",
    "clip": "an-edit-was-refused",
    "column": "an-edit-was-refused",
    "command": "an-edit-was-refused",
    "drawing": "a-drawing-or-a-page-cannot-be-used",
    "edit": "an-edit-was-refused",
    "export": "a-job-failed-or-does-not-start",
    "face": "a-drawing-or-a-page-cannot-be-used",
    "film": "a-film-cannot-be-used",
    "finding": "words-do-not-match-the-sound",
    "import": "a-file-to-import-does-not-fit",
    "job": "a-job-failed-or-does-not-start",
    "listener": "no-words-were-heard",
    "pictures.not_drawn": "a-drawing-or-a-page-cannot-be-used",
    "presets": "a-file-to-import-does-not-fit",
    "pronunciation": "words-do-not-match-the-sound",
    "reading": "words-do-not-match-the-sound",
    "script": "a-file-to-import-does-not-fit",
    "soundtrack": "an-edit-was-refused",
    "sound": "a-recording-cannot-be-opened",
    "sound.disk_full": "a-job-failed-or-does-not-start",
    "sound.no_speech": "no-words-were-heard",
    "sound.not_written": "a-job-failed-or-does-not-start",
    "speech": "words-do-not-match-the-sound",
    "svg": "a-drawing-or-a-page-cannot-be-used",
    "turn": "an-edit-was-refused",
    "word": "words-do-not-match-the-sound",
    "words": "words-do-not-match-the-sound",
}


def address_of_topic(topic: str) -> str:
    """The URL of a chapter, or of a section in it."""
    chapter, _, place = topic.partition("#")
    return reverse("help_chapter", args=[chapter]) + (f"#{place}" if place else "")


def topic_of_page(name: str) -> str:
    """The chapter about a page, by its URL name."""
    return _PAGES[max((start for start in _PAGES if name.startswith(start)), key=len)]


def topic_of_error(error: object) -> str:
    """The place in the guide that helps with an error or its message, or else the chapter."""
    message = error.args[0] if isinstance(error, Exception) and error.args else error
    code = message.code if isinstance(message, Message) else ""
    place = _ERRORS.get(code) or _ERRORS.get(code.partition(".")[0])
    return f"{TROUBLE}#{place}" if place else TROUBLE
