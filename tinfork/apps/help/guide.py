"""The guide (docs/guide.md) as help pages, a page for each of its chapters.

A translation is a whole guide of its own: `guide.LANGUAGE.md` beside the English one.
"""

import functools
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

from django.conf import settings
from django.templatetags.static import static
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify
from django.utils.translation import get_language
from markdown_it import MarkdownIt
from markdown_it.token import Token

DOCS = Path(settings.ROOT).parent / "docs"
#: Where the pictures of docs/screenshots are among the static files.
PICTURES = "help"


@dataclass(frozen=True)
class Chapter:
    """A chapter: its address, its heading, what it is about in a sentence, and all of it as HTML."""

    slug: str
    title: str
    about: str
    html: SafeString


def chapters() -> dict[str, Chapter]:
    """The chapters of the guide by address, in order, in the reader's language where there is one in it."""
    own = DOCS / f"guide.{get_language()}.md"
    return _chapters(own if own.exists() else DOCS / "guide.md")


@functools.cache
def _chapters(path: Path) -> dict[str, Chapter]:
    _, *parts = path.read_text("utf-8").split("\n## ")
    found = (_chapter(part) for part in parts)
    return {chapter.slug: chapter for chapter in found}


def _chapter(text: str) -> Chapter:
    title, _, body = text.partition("\n")
    # What is written by us is shown as it is; raw HTML is not allowed all the same.
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = markdown.parse(body)
    for token, following in pairwise(tokens):
        if token.type == "heading_open":
            token.attrSet("id", slugify(following.content))
        if token.type.startswith("heading"):
            # The chapter's own is the first of its page.
            token.tag = "h2"
        if token.children:
            token.children = list(_linked(token.children, title.strip()))
    html = markdown.renderer.render(tokens, markdown.options, {})
    return Chapter(slugify(title), title.strip(), _about(tokens), mark_safe(html))


def _about(tokens: list[Token]) -> str:
    """Its headings, or its first sentence."""
    headings = [following.content for token, following in pairwise(tokens) if token.type == "heading_open"]
    if headings:
        return " · ".join(headings)
    first = next(token.content for token in tokens if token.type == "inline")
    return " ".join(first.replace("*", "").split(". ")[0].split()).rstrip(".") + "."


def _linked(tokens: Iterable[Token], title: str) -> Iterable[Token]:
    """Links to pictures become the pictures, each a link to its full size; those to other documents only text."""
    picture = ""
    document = False
    for token in tokens:
        address = str(token.attrGet("href") or "") if token.type == "link_open" else ""
        if address.endswith(".md"):
            document = True
        elif address.startswith("screenshots/"):
            picture = static(f"{PICTURES}/{address.removeprefix('screenshots/')}")
            yield Token("link_open", "a", 1, attrs={"href": picture, "class": "help-picture"})
        elif picture and token.type == "text":
            alt = [Token("text", "", 0, content=f"{title}, {token.content}")]
            yield Token("image", "img", 0, attrs={"src": picture, "alt": "", "loading": "lazy"}, children=alt)
        elif token.type == "link_close" and document:
            document = False
        elif token.content.strip() != "·":
            yield token
            if token.type == "link_close":
                picture = ""
