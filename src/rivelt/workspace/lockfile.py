"""`rivelt.lock`: what was generated, from which inputs, so that a person's later edits are noticed. Meant to be committed."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field

from rivelt.errors import BadInput, Place
from rivelt.project.snapshot import Snapshot

LOCK_NAME = "rivelt.lock"
LOCK_FORMAT = 1


@dataclass(frozen=True)
class LockedFile:
    """A generated file: the site it is for, the SHA-256 of its bytes and, for a plate, that of its recipe."""

    site: str
    sha256: str
    recipe: str | None = None


@dataclass(frozen=True)
class Lock:
    """The generated files by path, relative to the project's root."""

    files: Mapping[str, LockedFile] = field(default_factory=dict)

    def text(self) -> str:
        """The file's text: sorted by path, the same for the same content."""
        import tomlkit

        document = tomlkit.document()
        document.add(tomlkit.comment("What rivelt generated, and from what. Commit this file; do not edit it."))
        document.add("format", tomlkit.item(LOCK_FORMAT))
        files = tomlkit.table()
        for path, locked in sorted(self.files.items()):
            entry = tomlkit.inline_table()
            entry.update({"site": locked.site, "sha256": locked.sha256})
            if locked.recipe:
                entry["recipe"] = locked.recipe
            files.add(path, entry)
        document.add("files", files)
        return tomlkit.dumps(document)


def generated_in(snapshot: Snapshot) -> frozenset[str]:
    """The paths of what an earlier apply made in a project.

    Raises:
        BadInput: its lock file is damaged.
    """
    return frozenset(read_lock(snapshot.read(LOCK_NAME)).files) if LOCK_NAME in snapshot else frozenset()


def read_lock(data: bytes) -> Lock:
    """Read the lock file.

    Raises:
        BadInput: it is damaged, or of a later format.
    """
    hint = "Take it back from version control; or remove it, and apply with --force."
    try:
        table = tomllib.loads(data.decode("utf-8"))
        if table["format"] > LOCK_FORMAT:
            raise BadInput(
                "the lock file is of a later version of Rivelt", place=Place(LOCK_NAME), hint="Update Rivelt."
            )
        return Lock({path: LockedFile(**entry) for path, entry in table["files"].items()})
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise BadInput("the lock file is damaged", place=Place(LOCK_NAME), hint=hint) from error
