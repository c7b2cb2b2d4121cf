"""Everything that is said can be said in another language."""

import json
import re

import pytest
import textstat
from babel.messages.pofile import read_po
from django.test import override_settings
from django.utils.translation import trans_real

from tests.apps.test_access import addresses
from tests.apps.test_review import made
from tests.pseudo import LANGUAGE, make_language, marked, texts_of, unmarked
from tinfork.apps.cast.models import Chart, Drawing
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.models import Soundtrack, Version
from tinfork.engines.synthesiser import languages
from tools.check.messages import DOMAINS, LOCALE, catalogue

#: What people named, and what has the same name in every language.
NAMES = {
    "Odalys", "Brindle", "Pim", "Ms Kettle", "odalys@tinfork.example", "take.wav", "talk.wav", "reel", "me", "Mouth",
    "odalys", "Kettle",
    "dz", "ts", "IPA", ".mp4", ".pdf", ".csv", ".weights.json", ".zip", ".json",
    # What Django and the account's forms say has translations of its own.
    "Email address", "Email", "Password", "Your password can’t be a commonly used password.",
    "Your password can’t be too similar to your other personal information.",
    "Your password must contain at least 8 characters.",
}  # fmt: skip


@pytest.fixture(scope="module")
def locale(tmp_path_factory):
    folder = tmp_path_factory.mktemp("locale")
    make_language(folder)
    return folder


@pytest.fixture
def spoken(locale):
    """The site in a language whose every letter is marked."""
    both = [("en", "English"), (LANGUAGE, "Marked")]
    with override_settings(LOCALE_PATHS=[locale], LANGUAGES=both):
        forget_languages()
        yield {"HTTP_ACCEPT_LANGUAGE": LANGUAGE}
    forget_languages()


def forget_languages():
    """Django looks once which languages there are."""
    trans_real._translations.clear()
    for known in vars(trans_real).values():
        if hasattr(known, "cache_clear"):
            known.cache_clear()


def told(left):
    """Each page's words on lines of their own."""
    return "\n".join(f"{page}: {text}" for page, texts in left.items() for text in sorted(texts))


def names_in(shot):
    """What people named in a studio, words that are said, sounds."""
    production = shot.production
    said = {word.text for word in Soundtrack.objects.get(shot=shot).reading.words()} if shot else set()
    drawings = {drawing.name for drawing in Drawing.objects.all()} | {chart.name for chart in Chart.objects.all()}
    # A version has the name that it was kept under.
    drawings |= {version.name for version in Version.objects.all()}
    spoken = {language.name for language in languages()}
    return NAMES | {shot.name, production.name, production.studio.name} | said | drawings | spoken


def test_no_page_says_what_translators_are_not_given(spoken, client, read_shot):
    pages = addresses(read_shot) | {
        "productions": "/", "cast": "/cast/", "jobs": "/jobs/", "archive": "/archive",
        "production_new": "/productions/new", "cast_archived": "/cast/?archived=1",
    }  # fmt: skip
    pages["review"] = made(client, read_shot)
    for kind in ("movie", "sheet-pdf", "csv", "weights"):
        pages[f"handover {kind}"] = f"/shots/{read_shot.pk}/handover?as={kind}"
    left = {}
    for name, address in pages.items():
        answer = client.get(address, **spoken)
        # What leaves is the same in every language.
        if name == "handover_preview":
            continue
        is_page = answer.status_code == 200 and answer["Content-Type"].startswith("text/html")
        if is_page and (found := unmarked(texts_of(answer.content.decode()), names_in(read_shot))):
            left[name] = found
    assert left == {}, told(left)


def test_pages_before_one_signs_in_and_of_what_goes_wrong_are_in_the_readers_language(spoken, client, db):
    client.logout()
    left = {}
    for address in ("/account/login/", "/account/signup/", "/account/password/reset/", "/nowhere"):
        if found := unmarked(texts_of(client.get(address, **spoken).content.decode()), NAMES):
            left[address] = found
    assert left == {}, told(left)


def test_what_a_job_said_is_read_in_the_readers_language(spoken, client, read_shot):
    from tinfork.core.messages import Message

    job = Job.objects.filter(shot=read_shot).first()
    job.state, job.error = Job.State.FAILED, Message("sound.too_short", name="a.wav", ms=3, least=0.1)
    job.notes = [Message("{count} blink", many="{count} blinks", count=2), "2 - 3"]
    job.save()
    job.refresh_from_db()
    assert job.error == "“a.wav” lasts 3 ms; it needs at least 0.1 s."
    page = client.get(f"/jobs/{job.pk}/", **spoken).content.decode()
    assert "“a.wav” ŀäşŧş 3 ɱş" in page and "2 - 3" in page
    assert "lasts 3 ms" in client.get(f"/jobs/{job.pk}/").content.decode()


def test_an_edit_is_refused_in_the_readers_language(spoken, client, read_shot):
    def send(**more):
        edit = {"revision": 10**6, "name": "pin", "parameters": {"speaker": 1}}
        return client.post(
            f"/shots/{read_shot.pk}/mouths", json.dumps(edit), content_type="application/json", **more
        ).json()["error"]

    assert unmarked([send(**spoken)], {"first", "last", "speaker", "drawing"}) == set()
    assert unmarked([send()], set())


def test_scripts_are_given_their_texts(spoken, client, db):
    script = client.get("/messages.js", **spoken).content.decode()
    assert f'"Choose a microphone first.": {json.dumps(marked("Choose a microphone first."))}' in script


def texts_to_translate():
    """Every sentence, with what stands for a value."""
    for domain in DOMAINS:
        for message in catalogue(domain):
            for text in message.id if isinstance(message.id, tuple) else [message.id]:
                # Titles of pages join names; a word or two has no grade.
                plain = re.sub(r"%\(\w+\)s|\{[^{}]*\}|&#?\w+;", "it", text)
                if len(plain.split()) > 5 and "·" not in plain:
                    yield plain if plain[-1] in ".!?" else f"{plain}."


def test_what_is_said_is_read_with_ease():
    """Flesch and Kincaid 1975: school years that a reader needs."""
    hard = [text for text in texts_to_translate() if textstat.flesch_kincaid_grade(text) > 8]
    assert hard == []


def test_translators_have_what_is_said_now():
    for domain in DOMAINS:
        written = read_po((LOCALE / f"{domain}.pot").open("rb"))
        assert {message.id for message in written} == {message.id for message in catalogue(domain)}, "./run messages"


def test_second_looks_told_in_one_language_are_told_in_another_one_too(spoken, client, read_shot, start_read, work):
    start_read("none", words="The purple tram leaves the depot before midnight.")
    assert work().state == "done"
    told = [client.get(f"/shots/{read_shot.pk}/desk", **more).context["document"]["looks"] for more in ({}, spoken, {})]
    assert told[0] == told[2]
    assert told[1]
    for english, other in zip(*told[:2], strict=True):
        assert english["key"] == other["key"]
        assert english["text"] != other["text"]
