"""What pages are told of a shot: less and less, and always the same as all of it."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.apps.desk import looks, telling
from tinfork.apps.desk.telling import splice

ITEMS = st.lists(st.integers(0, 3), max_size=12)


def spliced(before, how):
    """As the page does it."""
    return [*before[: how["at"]], *how["put"], *before[how["at"] + how["gone"] :]]


@given(ITEMS, ITEMS)
def test_a_splice_makes_one_list_of_the_other_and_tells_no_more_than_it_must(before, after):
    how = splice(before, after)
    assert spliced(before, how) == after
    assert len(how["put"]) <= len(after)
    if before == after:
        assert (how["gone"], how["put"]) == (0, [])


def test_a_splice_is_what_is_between_the_same_ends():
    assert splice([1, 2, 3, 4, 5], [1, 2, 9, 5]) == {"at": 2, "gone": 2, "put": [9]}
    assert splice([1, 1], [1, 1, 1]) == {"at": 2, "gone": 0, "put": [1]}


class Page:
    """What a page has of a shot, kept as its script keeps it."""

    def __init__(self, client, shot):
        self.client, self.at = client, f"/shots/{shot.pk}/mouths"
        self.has = self.whole(shot)
        self.told = 0

    def whole(self, shot):
        from tinfork.apps.desk.queries import desk_document
        from tinfork.apps.reading.models import Soundtrack
        from tinfork.apps.reading.solving import with_cast

        fresh = type(shot).objects.get(pk=shot.pk)
        fresh.soundtrack = Soundtrack.objects.get(shot=shot)
        return json.loads(json.dumps(desk_document(with_cast(fresh))))

    def edit(self, name, shown=None, **parameters):
        shown = self.has["revision"] if shown is None else shown
        body = {"revision": self.has["revision"], "shown": shown, "name": name, "parameters": parameters}
        answer = self.client.post(self.at, json.dumps(body), content_type="application/json")
        assert answer.status_code == 200, answer.content
        document = answer.json()["document"]
        self.told = len(answer.content)
        if "since" in document:
            assert document["since"] == self.has["revision"]
        for key, value in document.items():
            if key != "characters":
                self.has[key] = self.taken(self.has.get(key), value)
        for one in self.has["characters"]:
            for key, value in document["characters"].get(str(one["id"]), {}).items():
                one[key] = self.taken(one[key], value)
        return document

    @staticmethod
    def taken(had, value):
        return spliced(had, value) if isinstance(had, list) and isinstance(value, dict) else value


@pytest.fixture
def page(client, read_shot):
    return Page(client, read_shot)


PARTS = ("words", "turns", "clips", "looks", "notes", "characters", "layout", "canUndo", "canRedo")


def test_a_page_that_is_told_splices_has_what_one_that_is_opened_has(page, read_shot):
    who = str(read_shot.character.pk)
    word = page.has["words"][1]
    steps = [
        ("pin", {"speaker": who, "first": 20, "last": 25, "drawing": 9}),
        ("note", {"frame": 12, "text": "blink"}),
        ("slide", {"word": word["id"], "by_us": 10_000}),
        ("retype", {"word": word["id"], "text": "tram"}),
        ("dials", {"speaker": who, "values": {"shortest": 3}}),
        ("word_remove", {"word": word["id"]}),
        ("undo", {}),
        ("undo", {}),
        ("redo", {}),
        ("clear", {"speaker": who, "first": 0, "last": 40}),
    ]
    for name, parameters in steps:
        document = page.edit(name, **parameters)
        assert "since" in document, name
        opened = page.whole(read_shot)
        for part in PARTS:
            assert page.has[part] == opened[part], (name, part)


def test_a_page_that_nobody_knows_is_told_all_of_it(page, read_shot):
    document = page.edit("note", frame=3, text="nod")
    telling._TOLD._values.clear()
    document = page.edit("slide", word=page.has["words"][0]["id"], by_us=10_000)
    assert "since" not in document
    assert isinstance(document["words"], list)
    assert page.has["words"] == page.whole(read_shot)["words"]


def test_second_looks_that_are_told_again_are_those_worked_out_anew(client, read_shot, start_read, work):
    start_read("none", words="The purple tram leaves the depot before midnight.")
    assert work().state == "done"
    page = Page(client, read_shot)
    words = page.has["words"]
    doubt = next(look for look in page.has["looks"] if look["kind"] == "doubt")
    at = next(n for n, word in enumerate(words) if word["end"] == doubt["end"])
    steps = [
        ("retype", {"word": words[at + 1]["id"], "text": "kettle"}),
        ("settle", {"key": doubt["key"]}),
        ("undo", {}),
        ("move", {"clip": words[at]["clip"], "frame": 12}),
        ("undo", {}),
        # Speech without words, whose corrections name the words beside it.
        *(("word_remove", {"word": word["id"]}) for word in words[3:6]),
        ("retype", {"word": words[2]["id"], "text": "lantern"}),
        ("undo", {}),
    ]
    kinds = set()
    for name, parameters in steps:
        page.edit(name, **parameters)
        looks._LOOKS._values.clear()
        assert page.has["looks"] == page.whole(read_shot)["looks"], name
        kinds |= {look["kind"] for look in page.has["looks"] if look["corrections"]}
    assert kinds >= {"doubt", "bare"}
