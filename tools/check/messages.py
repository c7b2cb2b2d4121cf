"""Texts for translators: `./run messages [LANGUAGE]`.

Writes `tinfork/locale/django.pot` (pages, messages) and `djangojs.pot` (scripts), updates
the files of every language, creates those of a new one, and compiles them. Texts stand in templates, in calls of
`Message` and of errors, in the core's wording and tables, and in calls of `gettext` and `ngettext` in scripts.
"""

import argparse
import ast
import io
import os
import re
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import django
from babel.messages.catalog import Catalog
from babel.messages.extract import extract
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

ROOT = Path(__file__).parents[2] / "tinfork"
LOCALE = ROOT / "locale"
#: The domains of gettext, and their contents.
DOMAINS = ("django", "djangojs")
_NOT_SAID = ("ValueError", "TypeError", "KeyError", "OSError", "RuntimeError", "CommandError", "AssertionError")


@dataclass(frozen=True)
class SourceText:
    """A text: singular, plural ("" if it has none), and its place in the source."""

    one: str
    many: str
    where: str


def catalogue(domain: str) -> Catalog:
    """All texts of a domain, without translations."""
    made = Catalog(project="Tin Fork", charset="utf-8", fuzzy=False)
    made.header_comment = "# What Tin Fork says. `./run messages` writes this anew."
    found = [*_in_templates(), *_in_python(), *_in_tables()] if domain == "django" else [*_in_scripts(), *_of_scripts()]
    for said in sorted(found, key=lambda said: (said.where, said.one)):
        made.add((said.one, said.many) if said.many else said.one, locations=[(said.where, 0)])
    return made


def _said(text: str | tuple[str, ...], where: str) -> SourceText:
    one, many = text if isinstance(text, tuple) else (text, "")
    return SourceText(one, many, where)


def _where(path: Path) -> str:
    return str(path.relative_to(ROOT.parent))


def _in_templates() -> Iterator[SourceText]:
    from django.utils.translation.template import templatize

    for path in sorted(ROOT.rglob("templates/**/*")):
        if path.suffix not in (".html", ".txt"):
            continue
        # As Python: a call for each text, everything else blanked out.
        lines = templatize(path.read_text("utf-8")).split("\n")
        calls = io.BytesIO("\n".join(line.strip() for line in lines).encode())
        for _, text, _, _ in extract("python", calls, {"gettext": None, "ngettext": (1, 2)}):
            yield _said(text, _where(path))


def _in_python() -> Iterator[SourceText]:
    for path in sorted(ROOT.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and node.args and _says(getattr(node.func, "id", "")):
                more = [k.value for k in node.keywords if k.arg == "many" and isinstance(k.value, ast.Constant)]
                for text in _texts(node.args[0]):
                    yield SourceText(text, str(more[0].value) if more else "", _where(path))


def _says(name: str) -> bool:
    return name == "Message" or (name.endswith("Error") and name not in _NOT_SAID)


def _texts(node: ast.expr) -> Iterator[str]:
    """The possible texts of an argument; codes have their wording elsewhere."""
    if isinstance(node, ast.IfExp):
        yield from (*_texts(node.body), *_texts(node.orelse))
    elif isinstance(node, ast.Constant) and not re.fullmatch(r"[a-z0-9]+\.[a-z0-9_]+", str(node.value)):
        yield str(node.value)


def _in_tables() -> Iterator[SourceText]:
    """The core's wording, and the labels of its tables."""
    from tinfork.core.motion.acting import KINDS as ACTING
    from tinfork.core.mouths.starter import STARTERS
    from tinfork.core.mouths.style import KINDS, MOODS
    from tinfork.core.scene.exporting import Purpose
    from tinfork.core.solver.dials import DIALS, PRESETS
    from tinfork.core.wording import WORDING, Plural
    from tinfork.engines.handover.table import EXPORTERS

    for code, wording in WORDING.items():
        yield SourceText(*wording, code) if isinstance(wording, Plural) else SourceText(wording, "", code)
    labels = [text for dial in DIALS.values() for text in (dial.label, dial.does, dial.unit)]
    labels += [text for kind in ACTING.values() for text in (kind.label, kind.does)]
    labels += [*(purpose.value for purpose in Purpose), *PRESETS, *_classes(), *KINDS, *MOODS]
    labels += [drawing.name for chart in STARTERS.values() for drawing in chart.drawings]
    for exporter in EXPORTERS:
        labels += [exporter.name, exporter.hint]
        for option in exporter.options:
            labels += [option.label, option.hint, *(label for _, label in option.choices)]
    for label in labels:
        if re.search("[A-Za-z]{2}", label):
            yield SourceText(label, "", "labels")


def _classes() -> list[str]:
    from tinfork.core.speech.visemes import VISEMES

    return [str(viseme) for viseme in VISEMES]


def _in_scripts() -> Iterator[SourceText]:
    for path in sorted((ROOT / "static" / "js").rglob("*.js")):
        with path.open("rb") as script:
            for _, text, _, _ in extract("javascript", script, {"gettext": None, "ngettext": (1, 2)}):
                yield _said(text, _where(path))


def _of_scripts() -> Iterator[SourceText]:
    """What scripts say of the page's data: the groups of sounds."""
    for viseme in _classes():
        yield SourceText(viseme, "", "labels")


def folder_of(language: str, locale: Path = LOCALE) -> Path:
    """Where a language's files are."""
    return locale / language / "LC_MESSAGES"


def compile_language(language: str, domain: str, texts: Catalog, locale: Path = LOCALE) -> None:
    """The file that the application reads, from a language's texts."""
    folder_of(language, locale).mkdir(parents=True, exist_ok=True)
    with (folder_of(language, locale) / f"{domain}.mo").open("wb") as file:
        write_mo(file, texts)


def _renew(language: str, domain: str, template: Catalog) -> None:
    path = folder_of(language) / f"{domain}.po"
    texts = Catalog(locale=language)
    if path.exists():
        with path.open("rb") as file:
            texts = read_po(file, locale=language)
    texts.update(template)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(_written(texts))
    compile_language(language, domain, texts)


def _written(texts: Catalog) -> bytes:
    out = io.BytesIO()
    write_po(out, texts, width=0, omit_header=texts.locale is None, include_lineno=False, sort_output=True)
    return out.getvalue()


def main() -> int:
    """Write what there is."""
    parser = argparse.ArgumentParser("run messages")
    parser.add_argument("language", nargs="?", help="make the files of a language, such as de or pt_BR")
    parser.add_argument("--check", action="store_true", help="write nothing; fail where the lists are of before")
    options = parser.parse_args()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.site.settings")
    os.environ.setdefault("DATABASE_URL", "postgres://none")
    os.environ.setdefault("TINFORK_SECRET_KEY", "none")
    django.setup()
    LOCALE.mkdir(exist_ok=True)
    is_stale = False
    for domain in DOMAINS:
        template = catalogue(domain)
        path = LOCALE / f"{domain}.pot"
        if options.check:
            is_stale |= not path.exists() or path.read_bytes() != _written(template)
            continue
        path.write_bytes(_written(template))
        there = {found.parents[1].name for found in LOCALE.glob(f"*/LC_MESSAGES/{domain}.po")}
        for language in sorted(there | ({options.language} if options.language else set())):
            _renew(language, domain, template)
    if is_stale:
        print("What is said has changed: write the lists for translators anew with ./run messages.", file=sys.stderr)
    return int(is_stale)


if __name__ == "__main__":
    sys.exit(main())
