"""A language in which each letter has a mark: what is read without one was not given to translators."""

import re
from html.parser import HTMLParser
from pathlib import Path

from babel.messages.catalog import Catalog

from tools.check.messages import DOMAINS, catalogue, compile_language

LANGUAGE = "xx"
_PLAIN = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"
_MARKED = "äƀçđëƒĝħïĵķŀɱñöþɋřşŧüṽŵẋÿžÄƁÇĐËƑĜĦÏĴĶĿṀÑÖÞɊŘŞŦÜṼŴẊŸŽ"
_MARKS = str.maketrans(_PLAIN, _MARKED)
#: What is no letter to a reader: values in braces, format codes, tags, entities.
_KEPT = re.compile(r"(\{\{.*?\}\}|\{[^{}]*\}|%\(\w+\)[sd]|<[^<>]+>|&#?\w+;)")
_READ = ("title", "aria-label", "placeholder", "alt")
_UNREAD = ("script", "style", "kbd")


def marked(text: str) -> str:
    """A text with a mark on each letter."""
    return "".join(part if at % 2 else part.translate(_MARKS) for at, part in enumerate(_KEPT.split(text)))


def make_language(locale: Path) -> None:
    """The language in a folder of translations: every text that translators are given."""
    for domain in DOMAINS:
        texts = Catalog(locale="en")
        for message in catalogue(domain):
            if message.id:
                many = isinstance(message.id, tuple)
                texts.add(message.id, tuple(map(marked, message.id)) if many else marked(message.id))
        compile_language(LANGUAGE, domain, texts, locale)


class _Reader(HTMLParser):
    def __init__(self):
        super().__init__()
        self.inside, self.texts = [], []

    def handle_starttag(self, tag, attrs):
        given = dict(attrs)
        self.texts += [given[name] for name in _READ if given.get(name)]
        if tag == "input" and given.get("type") in ("submit", "button"):
            self.texts.append(given.get("value") or "")
        if tag not in ("meta", "link", "input", "img", "br", "hr", "source"):
            self.inside.append(tag)

    def handle_endtag(self, tag):
        while tag in self.inside and self.inside.pop() != tag:
            pass

    def handle_data(self, data):
        if not any(tag in _UNREAD for tag in self.inside):
            self.texts.append(data)


def texts_of(page: str) -> list[str]:
    """What a person reads on a page, or hears of it."""
    reader = _Reader()
    reader.feed(page)
    return reader.texts


def unmarked(texts: list[str], known: set[str]) -> set[str]:
    """Words of two letters or more that are read as they were written, but for what is `known`: what people named."""
    names = sorted(map(re.escape, known), key=len, reverse=True)
    out: set[str] = set()
    for text in texts:
        left = re.sub("|".join(names), " ", text) if names else text
        out |= {f"{word}: {' '.join(text.split())[:80]}" for word in re.findall(r"[A-Za-z]{2,}", left)}
    return out
