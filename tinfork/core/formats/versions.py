"""Documents of earlier versions, brought up to today's before anything else reads them.

What people keep outlives the code that wrote it: a format that changes gets an upgrade from the version before, never a
second reader. A sample of each version is kept in `tests/samples/`, which a test reads.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

#: Makes a document of a version into one of the next.
Upgrade = Callable[[dict[str, Any]], dict[str, Any]]


@dataclass(frozen=True)
class Format:
    """A format of documents by its name, and how one of each earlier version becomes one of the next, the first first.

    It has a new version by one more upgrade.
    """

    name: str
    upgrades: tuple[Upgrade, ...] = ()

    @property
    def version(self) -> int:
        """The version that is written: 1 without upgrades."""
        return len(self.upgrades) + 1

    def knows(self, version: object) -> bool:
        """Whether a document that says this version can be read."""
        return type(version) is int and 1 <= version <= self.version

    def upgraded(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """A document of a known version as one of today's.

        Raises
        ------
        ValueError
            For a version that is not known.
        """
        version = document["version"]
        if not self.knows(version):
            raise ValueError(version)
        out = dict(document)
        for upgrade in self.upgrades[version - 1 :]:
            out = upgrade(out)
        return out | {"version": self.version}


READING = Format("reading")
SOUNDTRACK = Format("soundtrack")
WEIGHTS = Format("weights")
DIALS = Format("tin-fork-dials")
CHARACTER = Format("tin-fork-character")
SET = Format("tin-fork-set")
SHOT = Format("tin-fork-shot")
PRODUCTION = Format("tin-fork-production")

#: Every format of ours that is read again.
FORMATS = (READING, SOUNDTRACK, WEIGHTS, DIALS, CHARACTER, SET, SHOT, PRODUCTION)
