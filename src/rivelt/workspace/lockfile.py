"""`rivelt.lock`: what was generated, from which inputs, so that a person's later edits are noticed. Meant to be committed."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated

import msgspec

from rivelt.disk.tree import in_tool_folder
from rivelt.edit.toml import read_toml
from rivelt.errors import BadInput, Place
from rivelt.project.project import Project, remembered

LOCK_NAME = "rivelt.lock"
LOCK_FORMAT = 1
_CONTROLS = frozenset(map(chr, (*range(0x20), 0x7F)))
_HEADER = "# What rivelt generated, and from what. Commit this file; do not edit it."


_Digest = Annotated[str, msgspec.Meta(pattern="^[0-9a-f]{64}\\Z")]
_Name = Annotated[str, msgspec.Meta(min_length=1, max_length=4096)]


class LockedFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A generated file: the site it is for, the SHA-256 of its bytes and, for a plate, that of its recipe (and how it was made)."""

    site: _Name
    sha256: _Digest
    recipe: Annotated[str, msgspec.Meta(pattern="^[0-9a-f]{64}( [a-z]+)?\\Z")] | None = None


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    format: int
    files: dict[_Name, LockedFile]
    inputs: dict[_Name, dict[_Name, _Digest]] = {}


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
        BadInput: it is damaged, of a later format, or names what Rivelt never writes to.
    """
    hint = "Take it back from version control; or remove it, and apply with --force."
    try:
        table = read_toml(data, LOCK_NAME, hint)
        if table["format"] > LOCK_FORMAT:
            raise BadInput(
                "the lock file is of a later version of Rivelt", place=Place(LOCK_NAME), hint="Update Rivelt."
            )
        found = msgspec.convert(table, _Table)
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise BadInput("the lock file is damaged", place=Place(LOCK_NAME), hint=hint) from error
    for path in found.files:
        if (
            in_tool_folder(path)
            or path.startswith("/")
            or ".." in path.split("/")
            or not set(path).isdisjoint(_CONTROLS)
        ):
            message = f"the lock file names what Rivelt never writes to: {path}"
            raise BadInput(message, place=Place(LOCK_NAME), hint=hint)
    return Lock(found.files, found.inputs)
