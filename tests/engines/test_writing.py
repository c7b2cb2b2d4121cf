import sys
from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import WordsError
from tinfork.core.script import ScriptLine
from tinfork.engines import writing
from tinfork.engines.synthesiser import languages
from tinfork.engines.talking import Voicing, speak_lines
from tinfork.engines.wording import LineText, spell
from tinfork.engines.writing import as_read, pieces, reader_of


def nothing(phase, done):
    assert 0 <= done <= 1


@pytest.mark.parametrize(
    ("language", "token", "found"),
    [
        # One character, two syllables: by the word it is in.
        ("cmn", "银行行长", [("银", "yin2"), ("行", "hang2"), ("行", "hang2"), ("长", "zhang3")]),
        ("cmn", "我们。", [("我", "wo3"), ("们", "men5")]),
        ("cmn", "24个面包", [("24", "24"), ("个", "ge4"), ("面", "mian4"), ("包", "bao1")]),
        ("ja", "パンを食べます。", [("パン", "パン"), ("を", "オ"), ("食べます", "タベマス")]),
        ("ja", "夜中は静か", [("夜中", "ヨナカ"), ("は", "ワ"), ("静か", "シズカ")]),
        ("ja", "こんにちは", [("こんにちは", "コンニチワ")]),
        ("yue", "銀行", [("銀", "銀"), ("行", "行")]),
        ("cs", "konečné", [("konečné", "konečné")]),
    ],
)
def test_a_token_is_cut_into_words_with_their_reading(language, token, found):
    assert pieces(token, language) == found


@pytest.mark.parametrize(
    ("language", "text", "sounds"),
    [
        ("cmn", "我们吃面包。", "w ˈo2 m ˈə1 n ts.h ˈi.5 m ˈiɛ5 n p ˈɑu5"),
        ("ja", "車庫", "ɕ ˈä k o̞"),
    ],
)
def test_characters_are_not_named_but_said(language, text, sounds):
    assert " ".join(s for said in spell([LineText(text, "", language)]).spoken for s in said.word.ipa) == sounds


@given(st.text("食べ我们パンのはa。 、1行", max_size=12), st.sampled_from(["ja", "cmn", "yue", "de"]))
def test_nothing_that_is_written_is_lost_but_marks(text, language):
    kept = "".join(written for token in text.split() for written, _ in pieces(token, language))
    assert kept == "".join(c for c in text if c not in "。 、")
    assert not set(as_read(text, "cmn")) & set("食们行")


def test_rare_characters_and_endless_lines_are_taken_too():
    assert [written for written, _ in pieces("我㐂㑲们", "cmn")] == ["我", "㐂", "㑲", "们"]
    assert "".join(written for written, _ in pieces("食べる" * 20_000, "ja")) == "食べる" * 20_000


def test_lines_are_cut_by_several_at_once():
    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(lambda n: pieces("夜中にパンを食べます", "ja"), range(40)))
    assert all(one == found[0] for one in found)


def test_the_reader_of_a_language_is_a_language():
    codes = {language.code for language in languages()}
    assert {reader_of(code) for code in codes} <= codes


@pytest.mark.parametrize(("language", "text"), [("cmn", "我们吃面包。"), ("ja", "夜中にパンを食べます。")])
def test_a_spoken_take_has_its_words_as_they_are_written(language, text):
    _, _, reading = speak_lines([ScriptLine("", text)], Voicing(language=language), nothing)
    assert "".join(word.text for word in reading.words()).replace(" ", "") == text.strip("。")


def test_japanese_without_its_dictionary_is_refused_in_words(monkeypatch):
    monkeypatch.setitem(sys.modules, "sudachipy", None)
    writing._cutter.cache_clear()
    with pytest.raises(WordsError, match="Japanese needs a dictionary that is not installed"):
        as_read("かえるはパンをやきます。", "ja")
    monkeypatch.undo()
    assert as_read("パン", "ja") == "パン"
