"""What can be set from outside is written on the page about running."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]
#: How code asks for a variable; the name that the process gives to what was refused is none.
ASKED = re.compile(r"""(?:env(?:\.\w+)?\(|environ(?:\.get\(|\[)|\$\{)\s*"?((?:TINFORK|DATABASE)_[A-Z_]+)""")


def test_every_variable_that_is_read_has_a_row():
    sources = [
        *(ROOT / "tinfork").rglob("*.py"),
        *(ROOT / "tools" / "start").glob("*.py"),
        ROOT / "tools/setup/setup.sh",
    ]
    asked = {name for path in sources for name in ASKED.findall(path.read_text("utf-8"))}
    rows = set(
        re.findall(r"^\| `((?:TINFORK|DATABASE)_[A-Z_]+)", (ROOT / "docs" / "running.md").read_text("utf-8"), re.M)
    )
    assert {"TINFORK_HOSTS", "TINFORK_EXTRAS", "TINFORK_WORDS_MODEL", "DATABASE_URL"} <= asked
    # How long the soak lasts is said on its command line.
    assert asked - rows == {"TINFORK_SOAK_S"}
    assert rows - asked == set()
