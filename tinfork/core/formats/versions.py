"""Documents of earlier versions are upgraded to the current one before anything else reads them.

Files that people keep outlive the code that wrote them: a format that changes gets an upgrade from the version before,
never a second reader. `tests/samples/` has a sample of each version, which a test reads.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

#: Turns a document of one version into one of the next.
Upgrade = Callable[[dict[str, Any]], dict[str, Any]]


@dataclass(frozen=True)
class Format:
    """A format of documents: its name, and the upgrades from each earlier version to the next, in order.

    One more upgrade makes a new version.
    """

    name: str
    upgrades: tuple[Upgrade, ...] = ()

    @property
    def version(self) -> int:
        """The current version, which is written: 1 without upgrades."""
        return len(self.upgrades) + 1

    def knows(self, version: object) -> bool:
        """Whether documents of a version can be read."""
        return type(version) is int and 1 <= version <= self.version

    def upgraded(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """A document of a known version, upgraded to the current one.

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

#: Every format of our own that can be read.
FORMATS = (READING, SOUNDTRACK, WEIGHTS, DIALS, CHARACTER, SET, SHOT, PRODUCTION)
