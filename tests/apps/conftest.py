"""A studio at work, and a stranger."""

import pickle
import re
from dataclasses import replace

import pytest
from django.test import Client

from tests import sounds
from tinfork.core.speech.reading import Line, Reading
from tinfork.engines.wording import LineText

#: What the engines read once, by what they were given.
READ = {}


def spoken_by(value, names):
    """What was given or read, by speakers of other names."""
    if isinstance(value, list | tuple) and not hasattr(value, "_fields"):
        return type(value)(spoken_by(one, names) for one in value)
    if isinstance(value, dict):
        return {key: spoken_by(one, names) for key, one in value.items()}
    if isinstance(value, LineText | Line):
        return replace(value, speaker=names.get(value.speaker, value.speaker))
    if isinstance(value, Reading):
        return replace(value, lines=spoken_by(value.lines, names))
    return value


@pytest.fixture(autouse=True)
def _read_once(monkeypatch):
    """The same sound with the same words is read once: a reading follows from what it is given, and takes its time."""
    from tinfork.apps.reading.work import follow

    read = follow.run_isolated

    def run_isolated(function, voice, *arguments, progress, keep=lambda part: None, **more):
        # Characters have another number in each test: how a line sounds does not depend on it.
        numbers = list(dict.fromkeys(re.findall(r"speaker='(\d+)'", repr(arguments))))
        plain = {number: f"speaker {at}" for at, number in enumerate(numbers)}
        own = {name: number for number, name in plain.items()}
        key = (function.__name__, voice.read_bytes(), repr(spoken_by(arguments, plain)))
        if key not in READ:
            parts = []

            def kept(part):
                parts.append(part)
                keep(part)

            result = read(function, voice, *arguments, progress=progress, keep=kept, **more)
            READ[key] = pickle.dumps(spoken_by((parts, result), plain))
            return result
        parts, result = spoken_by(pickle.loads(READ[key]), own)
        for part in parts:
            keep(part)
        progress("align", 1.0)
        return result

    monkeypatch.setattr(follow, "run_isolated", run_isolated)


#: What was told of files, by what was asked and what is in them.
OPENED = {}


@pytest.fixture(autouse=True)
def _opened_once(monkeypatch):
    """The same file is probed, opened and decoded once: what comes of it follows from what is in it, and ffmpeg takes
    its time. What fails is tried again.
    """
    from tinfork.apps.reading.work import opening, voice
    from tinfork.apps.sound import forms

    def once(function, beat_at):
        def opened(path, *arguments):
            key = (function.__name__, path.read_bytes(), *(one for one in arguments if isinstance(one, str)))
            target = arguments[0] if function.__name__ == "open_sound" else None
            if key not in OPENED:
                result = function(path, *arguments)
                OPENED[key] = pickle.dumps((result, target.read_bytes() if target else None))
                return result
            result, written = pickle.loads(OPENED[key])
            if target:
                target.write_bytes(written)
            if len(arguments) > beat_at:
                arguments[beat_at](*([1.0] if target else []))
            return result

        return opened

    for module, name, beat_at in (
        (forms, "probe", 9),
        (opening, "open_sound", 2),
        (opening, "decode_voice", 1),
        (opening, "flac_length_us", 9),
        (voice, "decode_voice", 1),
    ):
        monkeypatch.setattr(module, name, once(getattr(module, name), beat_at))


@pytest.fixture
def user(db):
    from tinfork.apps.people.models import User

    return User.objects.create_user("odalys@tinfork.example", "bread")


@pytest.fixture
def studio(user):
    from tinfork.apps.people.actions import found_studio

    return found_studio(name="Night Bakery Pictures", owner=user)


@pytest.fixture
def production(studio):
    from tinfork.apps.produce.actions import start_production

    return start_production(studio=studio, name="Last Tram, First Loaf", rate="24", size=(320, 180))


@pytest.fixture
def shot(production, studio):
    from tinfork.apps.produce.actions import add_shot

    return add_shot(production=production, name="020 The counter", character=studio.characters.get(name="Odalys"))


@pytest.fixture
def client(user):
    signed_in = Client()
    signed_in.force_login(user)
    return signed_in


@pytest.fixture
def stranger(db):
    from tinfork.apps.people.actions import found_studio
    from tinfork.apps.people.models import User

    other = User.objects.create_user("stranger@tinfork.example", "stone")
    found_studio(name="Elsewhere", owner=other)
    signed_in = Client()
    signed_in.force_login(other)
    return signed_in


@pytest.fixture
def viewer(studio):
    from tinfork.apps.people.models import Membership, User

    person = User.objects.create_user("viewer@tinfork.example", "look")
    Membership.objects.create(studio=studio, user=person, role=Membership.Role.VIEWER)
    signed_in = Client()
    signed_in.force_login(person)
    return signed_in


def upload(name="take.wav", data=None):
    from django.core.files.uploadedfile import SimpleUploadedFile

    return SimpleUploadedFile(name, sounds.sentence_wav() if data is None else data)


@pytest.fixture
def start_read(client, shot):
    """Send a sound and words to the shot, as the page's form does."""

    def send(data=None, words=sounds.SENTENCE, given=None, **more):
        sent = {"sound": upload(data=data)} if data != "none" else {}
        fields = {"words": words, **sent, **(given or {})}
        return client.post(f"/shots/{shot.pk}/read", fields, **more)

    return send


@pytest.fixture
def work(shot):
    """Do everything that waits, as the worker would; gives back the newest job of the shot."""
    from tinfork.apps.jobs.models import Job
    from tinfork.apps.jobs.tasks import do_job

    def do():
        for job in Job.objects.filter(state__in=("waiting", "running")).order_by("created_at"):
            do_job(str(job.pk))
        shot.refresh_from_db()
        return Job.objects.filter(shot=shot).first()

    return do


@pytest.fixture
def sweep():
    """Remove stored files that nothing names, however young."""
    from tinfork.apps.common.upkeep import sweep

    return lambda: sweep(0)


@pytest.fixture
def read_shot(start_read, work, shot):
    """The shot, read."""
    assert start_read().status_code == 302
    assert work().state == "done"
    return type(shot).objects.get(pk=shot.pk)


@pytest.fixture
def character(studio):
    return studio.characters.get(name="Odalys")


@pytest.fixture
def chart(character):
    """Odalys' first set: the starter chart of fourteen."""
    return character.mouth.charts.get()


@pytest.fixture
def blank(studio):
    """The empty first set of a new character."""
    from tinfork.apps.cast.actions.characters import add_character

    return add_character(studio=studio, name="Pim").mouth.charts.get()


@pytest.fixture
def do_jobs():
    """Do every job that waits, as the worker would; gives back the last."""
    from tinfork.apps.jobs.models import Job
    from tinfork.apps.jobs.tasks import do_job

    def do():
        job = None
        for job in Job.objects.filter(state="waiting").order_by("created_at"):
            do_job(str(job.pk))
            job.refresh_from_db()
        return job

    return do


@pytest.fixture
def finish():
    """Do every job on a chart that waits, as the worker would; gives back the last."""
    from tinfork.apps.jobs.models import Job
    from tinfork.apps.jobs.tasks import do_job

    def do(chart):
        job = None
        for job in Job.objects.filter(options__chart=chart.pk, state="waiting").order_by("created_at"):
            do_job(str(job.pk))
            job.refresh_from_db()
        return job

    return do


def files(*named):
    """Uploads of (name, bytes)."""
    return [upload(name, data) for name, data in named]


@pytest.fixture
def brindle(studio):
    return studio.characters.get(name="Brindle")


@pytest.fixture
def edit(client, shot):
    """Send an edit of the shot's sound, as its page does; gives back the answer's JSON with its status."""
    import json

    def send(name, revision=None, **parameters):
        if revision is None:
            revision = client.get(f"/shots/{shot.pk}/sound.json").json()["revision"]
        body = json.dumps({"revision": revision, "name": name, "parameters": parameters})
        answer = client.post(f"/shots/{shot.pk}/sound/edit", body, content_type="application/json")
        return answer.json() | {"status": answer.status_code}

    return send


@pytest.fixture
def upload_files(client, production, django_capture_on_commit_callbacks):
    """Bring sounds (name, bytes) to the library and have them opened; gives back the takes, oldest first."""
    from tinfork.apps.jobs.models import Job
    from tinfork.apps.jobs.tasks import do_job
    from tinfork.apps.sound.models import Take

    def send(*named, **more):
        answer = client.post(f"/productions/{production.pk}/takes/upload", {"sound": files(*named), **more})
        assert answer.status_code == 200, answer.content
        with django_capture_on_commit_callbacks(execute=True):
            for job in Job.objects.filter(state="waiting").order_by("created_at"):
                do_job(str(job.pk))
        return list(Take.objects.order_by("pk"))[-len(named) :]

    return send


@pytest.fixture
def uploaded(client, blank, finish):
    """The empty set with fourteen pictures brought in."""
    from tests.apps.charts import fourteen, upload_files

    upload_files(client, blank, fourteen())
    assert finish(blank).state == "done"
    return blank
