"""The synthesiser in its process: what ends it ends nothing else."""

import os
import signal
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from tinfork.core.errors import EngineError, WordsError
from tinfork.engines import espeak, synthesiser
from tinfork.engines.synthesiser import languages, pronounce, speak


@pytest.fixture
def process(monkeypatch):
    """A synthesiser of its own, and which process it is now."""
    own = synthesiser._Synthesiser()
    monkeypatch.setattr(synthesiser, "_SYNTHESISER", own)
    yield lambda: own._process
    if own._process:
        own._process.kill()


def test_it_is_started_once_and_answers_from_several_threads(process):
    said = {}
    words = ["bread", "tram", "toad", "oven"]
    threads = [threading.Thread(target=lambda w=word: said.update({w: pronounce(w)})) for word in words]
    for thread in threads:
        thread.start()
    first = process()
    for thread in threads:
        thread.join()
    assert said == {word: pronounce(word) for word in words}
    assert process() is (first or process())
    assert process().poll() is None


def test_one_that_died_is_started_again(process):
    before = pronounce("bread")
    os.kill(process().pid, signal.SIGKILL)
    process().wait()
    assert pronounce("bread") == before


def test_one_that_dies_or_hangs_over_a_text_is_said_in_words_and_the_next_text_is_spoken(process, monkeypatch):
    pronounce("bread")
    os.kill(process().pid, signal.SIGSTOP)
    monkeypatch.setattr(synthesiser, "_PATIENCE_S", 0.2)
    hanging = process()
    with pytest.raises(EngineError, match="Try other words, or spell odd ones by their"):
        pronounce("oven")
    assert hanging.poll() == -signal.SIGKILL
    monkeypatch.setattr(synthesiser, "_PATIENCE_S", 20.0)
    assert pronounce("oven")
    # It dies while it is asked.
    dying = process()
    threading.Timer(0.05, dying.kill).start()
    with pytest.raises(EngineError, match="Try other words, or spell odd ones by their"):
        synthesiser._SYNTHESISER.ask("speak", "the last tram " * 4000, voice="en-us", speed=80, pitch=50, flags=1)
    assert len(speak("the last tram").samples) > 10_000


def test_what_it_cannot_do_is_said_in_words():
    with pytest.raises(WordsError, match="no voice called"):
        pronounce("bread", "xx-none")
    assert {"en-us", "es", "fi"} <= {language.code for language in languages()}


def test_the_application_does_not_load_the_library():
    """Its licence is another one: only the script that runs by itself does."""
    code = "import tinfork.engines.synthesiser as s; s.pronounce('bread'); print(open('/proc/self/maps').read())"
    maps = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert "python" in maps
    assert "espeak" not in maps
    script = Path(espeak.__file__).read_text()
    assert "tinfork" not in script.split('"""', 2)[2]
