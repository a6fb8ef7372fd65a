"""`rivelt.lock`: what was generated, from which inputs, so that a person's later edits are noticed. Meant to be committed."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field

from rivelt.edit.toml import read_toml
from rivelt.errors import BadInput, Place
from rivelt.project.project import Project, remembered

LOCK_NAME = "rivelt.lock"
LOCK_FORMAT = 1
_HEADER = "# What rivelt generated, and from what. Commit this file; do not edit it."


@dataclass(frozen=True)
class LockedFile:
    """A generated file: the site it is for, the SHA-256 of its bytes and, for a plate, that of its recipe."""

    site: str
    sha256: str
    recipe: str | None = None


@dataclass(frozen=True)
class Lock:
    """The generated files by path, relative to the project's root; and what each site's were made from, by site.

    `inputs`: the SHA-256 of every file of art by its path in the brief, as it was when the site was last applied to.
    """

    files: Mapping[str, LockedFile] = field(default_factory=dict)
    inputs: Mapping[str, Mapping[str, str]] = field(default_factory=dict)

    def text(self) -> str:
        """The file's text: sorted by path, the same for the same content."""
        lines = [_HEADER, f"format = {LOCK_FORMAT}", "", "[inputs]"]
        for site, inputs in sorted(self.inputs.items()):
            entry = ", ".join(f"{_quoted(path)} = {_quoted(digest)}" for path, digest in sorted(inputs.items()))
            lines.append(f"{_quoted(site)} = {{{entry}}}")
        lines += ["", "[files]"]
        for path, locked in sorted(self.files.items()):
            values = {"site": locked.site, "sha256": locked.sha256, "recipe": locked.recipe}
            entry = ", ".join(f"{key} = {_quoted(value)}" for key, value in values.items() if value)
            lines.append(f"{_quoted(path)} = {{{entry}}}")
        return "\n".join([*lines, ""])


def _quoted(text: str) -> str:
    """A TOML string. JSON's are TOML's, but for DEL, which JSON leaves as it is."""
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")


@remembered
def lock_of(project: Project) -> Lock:
    """Return the lock file of a project; an empty one where it has none.

    Raises:
        BadInput: it is damaged.
    """
    return read_lock(project.read(LOCK_NAME)) if LOCK_NAME in project else Lock()


def read_lock(data: bytes) -> Lock:
    """Read the lock file.

    Raises:
        BadInput: it is damaged, or of a later format.
    """
    hint = "Take it back from version control; or remove it, and apply with --force."
    try:
        table = read_toml(data, LOCK_NAME, hint)
        if table["format"] > LOCK_FORMAT:
            raise BadInput(
                "the lock file is of a later version of Rivelt", place=Place(LOCK_NAME), hint="Update Rivelt."
            )
        files = {path: LockedFile(**entry) for path, entry in table["files"].items()}
        return Lock(files, {site: dict(inputs) for site, inputs in table.get("inputs", {}).items()})
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise BadInput("the lock file is damaged", place=Place(LOCK_NAME), hint=hint) from error
