"""The guide (docs/guide.md) as help pages, one for each chapter.

Translations are whole guides: `guide.LANGUAGE.md` beside the English one.
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
#: The folder of the pictures of docs/screenshots in the static files.
PICTURES = "help"


@dataclass(frozen=True)
class Chapter:
    """A chapter: its address, its heading, a one-sentence summary, and its HTML."""

    slug: str
    title: str
    about: str
    html: SafeString


def chapters() -> dict[str, Chapter]:
    """The chapters of the guide by address, in order, in the reader's language if translated."""
    own = DOCS / f"guide.{get_language()}.md"
    return _chapters(own if own.exists() else DOCS / "guide.md")


@functools.cache
def _chapters(path: Path) -> dict[str, Chapter]:
    _, *parts = path.read_text("utf-8").split("\n## ")
    found = (_chapter(part) for part in parts)
    return {chapter.slug: chapter for chapter in found}


def _chapter(text: str) -> Chapter:
    title, _, body = text.partition("\n")
    # The guide is trusted, but raw HTML is disabled all the same.
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = markdown.parse(body)
    for token, following in pairwise(tokens):
        if token.type == "heading_open":
            token.attrSet("id", slugify(following.content))
        if token.type.startswith("heading"):
            # The chapter's heading is the first on its page.
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
    """Replace links to pictures by the pictures.

    Each is linked to its full size. Links to other documents become plain text.
    """
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
