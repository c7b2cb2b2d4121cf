"""Every package that the application runs with is on the page of licences, under the licence that it names itself."""

import json
import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs" / "licences.md").read_text()
#: What packages write for the licences of the page's table.
WRITTEN = {
    "MIT": "MIT",
    "BSD": "BSD",
    "Apache": "Apache",
    "LGPL": "LGPL",
    "PSF": "Python Software Foundation|PSF",
    "MPL": "MPL|Mozilla",
    "ZPL": "Zope",
    "TOST": "TOST",
}
#: Its metadata name none; its repository does.
SAYS_NOTHING = {"resvg-py"}


def plain(name):
    return re.sub(r"[-_.]+", "-", name).lower()


def table():
    """The page's table: each package with its licence."""
    rows = re.findall(r"^\| ([^|]+) \| ([^|]+) \|$", PAGE, re.M)
    return {plain(package): licence for licence, packages in rows for package in packages.split(", ")}


def test_each_package_and_each_shipped_library_is_named():
    locked = "".join((ROOT / "requirements" / name).read_text() for name in ("base.txt", "japanese.txt"))
    packages = re.findall(r"^([A-Za-z0-9_.-]+)(?:\[[^\]]*\])?==", locked, re.M)
    assert len(packages) > 30
    assert [package for package in packages if plain(package) not in table()] == []
    for file in (ROOT / "tinfork" / "static" / "vendor" / "LICENSES").iterdir():
        assert file.name in PAGE
    assert "MIT License" in (ROOT / "LICENSE").read_text()


def test_each_package_has_the_licence_that_it_names_itself():
    command = [Path(sys.executable).with_name("pip-licenses"), "--format=json", "--from=mixed"]
    told = json.loads(subprocess.run(command, check=True, capture_output=True).stdout)
    named = {plain(row["Name"]): row["License"] for row in told}
    wrong = []
    for package, licence in table().items():
        written = [words for name, words in WRITTEN.items() if name in licence]
        if package in named and package not in SAYS_NOTHING and written:
            wrong += [] if re.search("|".join(written), named[package]) else [(package, licence, named[package])]
    assert len(named.keys() & table().keys()) > 50
    assert wrong == []
