"""Unused functions, methods and classes: part of `./run check`.

Tests do not count as use. Names used by Django, templates and libraries are in `_ASKED_FOR`.
"""

import sys
from fnmatch import fnmatch
from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).parents[2]
_KINDS = ("function", "method", "class", "property", "unreachable_code")
_DECORATORS = ["@register.*", "@app.*"]
_ASKED_FOR = (
    # Django: apps, forms, middleware, commands, error pages, storage.
    "*Config", "*Middleware", "Clean*", "CompressPages", "AboutFilter", "*Formatter", "StaticStorage",
    "LimitedUploadHandler", "AccountAdapter", "StudioSignupForm", "SignInForm", "clean_*", "process_*", "add_arguments",
    "signup", "is_open_for_signup", "not_found", "forbidden", "not_from_here", "bad_request", "server_error",
    "accounts", "tour",
    # Templates.
    "waits_for", "is_doubtful", "said_findings",
    # Files and the web server.
    "seekable", "readinto", "getfile",
)  # fmt: skip


def main() -> int:
    """List them, and fail if there are any."""
    found = Vulture(ignore_names=list(_ASKED_FOR), ignore_decorators=_DECORATORS)
    found.scavenge([str(ROOT / "tinfork"), str(ROOT / "tools")], exclude=["*/migrations/*"])
    unused = [
        one
        for one in found.get_unused_code(min_confidence=60)
        if one.typ in _KINDS and not any(fnmatch(one.name, name) for name in _ASKED_FOR)
    ]
    for one in unused:
        print(f"{Path(one.filename).relative_to(ROOT)}:{one.first_lineno}: nothing uses {one.typ} {one.name}")
    return 1 if unused else 0


if __name__ == "__main__":
    sys.exit(main())
