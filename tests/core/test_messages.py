"""Messages: codes with values, worded in one place."""

import ast
import pickle
from pathlib import Path
from string import Formatter

import pytest

from tinfork.core import errors, messages
from tinfork.core.messages import Message, joined
from tinfork.core.wording import WORDING, Plural

ROOT = Path(messages.__file__).parents[1]
SOURCES = [path for part in ("core", "engines") for path in sorted((ROOT / part).rglob("*.py"))]
SAYS = {"Message", "_with_heard", *(n for n, e in vars(errors).items() if isinstance(e, type))}


def said_in(path):
    """The calls that say something in a file: code, names of values, line."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") in SAYS and node.args:
            names = {k.arg for k in node.keywords}
            for code in _texts(node.args[0]):
                yield code, names, node


def _texts(node):
    """What a call may say: a text, or one of two."""
    if isinstance(node, ast.IfExp):
        yield from (*_texts(node.body), *_texts(node.orelse))
    elif isinstance(node, ast.Constant):
        yield node.value
    elif isinstance(node, ast.JoinedStr) and ast.unparse(node) != "f'{code}_heard'":
        yield ast.unparse(node)


def named_in(code):
    """The values that a message names."""
    wording = WORDING[code]
    texts = wording if isinstance(wording, Plural) else [wording]
    names = {name.partition(".")[0] for text in texts for _, name, _, _ in Formatter().parse(text) if name}
    return names | ({"count"} if isinstance(wording, Plural) else set())


def test_whatever_the_core_and_the_engines_say_has_a_code_and_all_its_values():
    for path in SOURCES:
        for code, names, call in said_in(path):
            where = f"{path.relative_to(ROOT)}:{call.lineno}"
            assert code in WORDING, f"{where}: {code!r} is not worded"
            if call.func.id == "_with_heard":
                assert named_in(code) == names and named_in(f"{code}_heard") == names | {"heard"}, where
            else:
                assert named_in(code) == names, where


def test_every_wording_is_said_somewhere():
    sources = "".join(path.read_text("utf-8") for path in SOURCES if path != ROOT / "core" / "wording.py")
    assert [code for code in WORDING if f'"{code.removesuffix("_heard")}"' not in sources] == []


def test_a_message_is_its_english_and_is_said_in_the_language_of_the_moment():
    one = Message("look.short", count=1, least=2)
    assert one == "Held 1 frame, less than 2, because of pins" == str(one)
    error = errors.TimingError("edit.no_such_character")
    in_all = Message("why.skipped", sounds=joined([Message("check.no_ink"), "p"], ", "))
    messages.speak(str.upper, lambda one, many, count: f"<{many}>")
    try:
        assert str(one) == "<Held 1 frames, less than 2, because of pins>" == f"{one}"
        assert str(error) == "THAT CHARACTER IS NOT IN THIS SHOT. ADD THE CHARACTER FIRST."
        assert one == "Held 1 frame, less than 2, because of pins"
    finally:
        messages.speak(lambda text: text, lambda one, many, count: one if count == 1 else many)
    assert in_all == "Skipped: no ink, p."


def test_parts_of_a_message_are_said_in_the_language_of_the_moment_too():
    said = Message("archive.unusable", why=Message("archive.newer"))
    messages.speak(lambda text: {"it was written by a newer version": "es ist neuer"}.get(text, text), lambda *_: "")
    try:
        assert str(said) == "This archive cannot be imported: es ist neuer. Export it again."
    finally:
        messages.speak(lambda text: text, lambda one, many, count: one if count == 1 else many)


@pytest.mark.parametrize(
    "said",
    [
        Message("look.doubt_heard", word="kettle", heard="kettles"),
        Message("archive.unusable", why=Message("archive.missing", name="a{b}.png")),
        Message("A text of its own, {count}", count=3),
    ],
)
def test_a_message_comes_back_as_it_was_stored_or_sent_to_another_process(said):
    for back in (Message.from_dict(said.to_dict()), pickle.loads(pickle.dumps(said))):
        assert back == said and back.code == said.code and back.values == said.values
    assert Message.from_dict("of before there were codes {x}") == "of before there were codes {x}"


def test_an_error_crosses_to_another_process_with_its_message():
    error = pickle.loads(pickle.dumps(errors.SoundError("sound.too_slow", name="kettle.wav")))
    assert type(error) is errors.SoundError
    assert error.message.code == "sound.too_slow" and "kettle.wav" in str(error)
