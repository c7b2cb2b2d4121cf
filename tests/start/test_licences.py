"""Every package that the application runs with is on the page of licences."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_each_package_and_each_shipped_library_is_named():
    page = (ROOT / "docs" / "licences.md").read_text()
    packages = re.findall(
        r"^([A-Za-z0-9_.-]+)(?:\[[^\]]*\])?==", (ROOT / "requirements" / "base.txt").read_text(), re.M
    )
    assert len(packages) > 30
    named = set(re.split(r"[\s,|`]+", page))
    assert [package for package in packages if package not in named] == []
    for file in (ROOT / "tinfork" / "static" / "vendor" / "LICENSES").iterdir():
        assert file.name in page
    assert "MIT License" in (ROOT / "LICENSE").read_text()
