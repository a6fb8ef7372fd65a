"""`rivelt.lock`: who generated and edited what, from which inputs, so that each can take back its own. Meant to be committed.

One entry a line, sorted, none depending on another, with lines between that never change: git merges what two branches did for different
owners, and whoever resolves a conflict may keep the lines of both.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import Annotated, Any

import msgspec
from msgspec import Struct, field

from rivelt.disk.tree import in_tool_folder
from rivelt.edit.toml import MOST_BYTES, read_toml
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.plan.owner import Owner
from rivelt.project.project import Project, remembered
from rivelt.workspace.record import Put, Record

LOCK_NAME = "rivelt.lock"
LOCK_FORMAT = 2
_CONTROLS = frozenset(map(chr, (*range(0x20), 0x7F)))
_BEGIN = (
    "# What rivelt made, for whom, and from what. Commit this file; do not edit it.",
    "# Each line stands for itself: in a merge conflict keep the lines of both sides, then run: rivelt apply",
    f"format = {LOCK_FORMAT}",
    "made = [",
)
_SHELVES = 64
# A value as it is written: a string without what JSON and TOML read differently, a number, or true.
_WRITTEN = r'"(?:[^"\\\x00-\x1f\x7f]|\\[btnfr"\\]|\\u00[01][0-9a-f]|\\u007f)*+"|0|[1-9][0-9]{0,15}|true'
_PAIR = regex(rf"([a-z0-9]+) = ({_WRITTEN})")
_ENTRY = regex(rf"  \{{ {_PAIR.pattern}(?:, {_PAIR.pattern})*+ \}},")
_SHELF = regex("  # [0-9a-f]{2}")
_EDITED_SCRIPTS = regex(
    # The description of an Xcode project; what makes a web app manifest.
    r"project\.yml|manifest\.(?:ts|js|tsx|mjs)|(?:vite|nuxt|astro|quasar|svelte|vue|rsbuild)\.config\.[cm]?[jt]s"
)
_SCRIPTS = (
    ".sh",
    ".bash",
    ".zsh",
    ".fish",
    ".bat",
    ".cmd",
    ".ps1",
    ".py",
    ".rb",
    ".pl",
    ".js",
    ".mjs",
    ".ts",
    ".yml",
    ".yaml",
)
"""What is run by others than a build: no platform has Rivelt edit it, whatever a stranger's lock file says."""

_Digest = Annotated[str, msgspec.Meta(pattern="^[0-9a-f]{64}\\Z")]
_Name = Annotated[str, msgspec.Meta(min_length=1, max_length=4096)]
_Recipe = Annotated[str, msgspec.Meta(pattern="^[0-9a-f]{64}( [a-z]+)?\\Z")]
_Edition = Annotated[str, msgspec.Meta(max_length=60)]


class LockedFile(Struct, frozen=True):
    """A generated file: the SHA-256 of its bytes and, for a plate, that of its recipe (and how it was made).

    `is_fallback`: whether it only stands in until the owner whose place this is makes one.
    """

    sha256: str
    recipe: str | None = None
    is_fallback: bool = False


class _Entry(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One line of the lock file: a file, a file of art, or an edit."""

    brief: Annotated[str, msgspec.Meta(max_length=4096)]
    site: _Name
    edition: _Edition = ""
    file: _Name | None = None
    art: _Name | None = None
    edit: _Name | None = None
    sha256: _Digest | None = None
    recipe: _Recipe | None = None
    fallback: bool = False
    before: str = ""
    put: str | None = None
    head: str = ""
    length: Annotated[int, msgspec.Meta(ge=0)] = 0
    lead: str = ""
    tail: str = ""
    whole: bool = False


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    format: int
    made: list[_Entry]


class _OldFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    site: _Name
    sha256: _Digest
    recipe: _Recipe | None = None


class _OldTable(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    format: int
    files: dict[_Name, _OldFile]
    inputs: dict[_Name, dict[_Name, _Digest]] = {}


class Lock(Struct, frozen=True, dict=True):
    """What each owner generated, by path relative to the project's root; what it edited; and what all that was made from.

    `inputs`: the SHA-256 of every file of art by its path in the brief, as it was when the site was last applied to.
    """

    files: Mapping[Owner, Mapping[str, LockedFile]] = field(default_factory=dict)
    inputs: Mapping[Owner, Mapping[str, str]] = field(default_factory=dict)
    edits: Mapping[Owner, Sequence[Record]] = field(default_factory=dict)

    @cached_property
    def owners(self) -> frozenset[Owner]:
        """Everybody who has an entry."""
        return frozenset({*self.files, *self.inputs, *self.edits})

    @cached_property
    def paths(self) -> Mapping[str, Mapping[Owner, LockedFile]]:
        """The generated files, each with its owners."""
        found: dict[str, dict[Owner, LockedFile]] = {}
        for owner, files in self.files.items():
            for path, locked in files.items():
                found.setdefault(path, {})[owner] = locked
        return found

    def locked(self, path: str) -> tuple[LockedFile, ...]:
        """Return what is known of a generated file."""
        return tuple(self.paths.get(path, {}).values())

    def without(self, owners: frozenset[Owner]) -> Lock:
        """Return what is left when some owners go."""
        parts = (self.files, self.inputs, self.edits)
        return Lock(*({owner: its for owner, its in part.items() if owner not in owners} for part in parts))  # type: ignore[arg-type]

    def text(self) -> str:
        """Return the file's text: the same for the same content."""
        shelves: list[list[str]] = [[] for _ in range(_SHELVES)]
        for owner in sorted(self.owners):
            shelf = hashlib.sha256("\0".join(owner).encode()).digest()[0] % _SHELVES
            shelves[shelf] += sorted(f"  {_line(owner, entry)}," for entry in self._entries(owner))
        lines = [*_BEGIN]
        for number, shelf_lines in enumerate(shelves):
            lines += [f"  # {number:02x}", *shelf_lines]
        return "\n".join([*lines, "]", ""])

    def _entries(self, owner: Owner) -> Iterator[dict[str, Any]]:
        for name, digest in self.inputs.get(owner, {}).items():
            yield {"art": name, "sha256": digest}
        for path, locked in self.files.get(owner, {}).items():
            yield {"file": path, "sha256": locked.sha256, "recipe": locked.recipe, "fallback": locked.is_fallback}
        for record in self.edits.get(owner, ()):
            put = record.put
            yield {
                "edit": record.path,
                "before": record.before,
                "put": put.text,
                "head": put.head,
                "length": put.length,
                "sha256": put.sha256,
                "lead": record.lead,
                "tail": record.tail,
                "whole": record.is_whole,
            }


def _line(owner: Owner, entry: Mapping[str, Any]) -> str:
    values = {"brief": owner.brief, "edition": owner.edition or None, "site": owner.site, **entry}
    kept = {
        key: value
        for key, value in values.items()
        if value not in {None, "", 0} or (key in {"put", "brief"} and value == "")
    }
    return "{ " + ", ".join(f"{key} = {_quoted(value)}" for key, value in kept.items()) + " }"


def _quoted(value: object) -> str:
    """A TOML value. JSON's are TOML's, but for DEL, which JSON leaves as it is."""
    if isinstance(value, str) and value.isascii() and value.isprintable() and '"' not in value and "\\" not in value:
        return f'"{value}"'
    return json.dumps(value, ensure_ascii=False).replace("\x7f", "\\u007f")


@remembered
def lock_of(project: Project) -> Lock:
    """Return the lock file of a project; an empty one where it has none.

    Raises:
        BadInput: it is damaged.
    """
    return project.read_as("lock", LOCK_NAME, lambda data, _: read_lock(data)) if LOCK_NAME in project else Lock()


def read_lock(data: bytes) -> Lock:
    """Read the lock file, of this format or an older one.

    Raises:
        BadInput: it is damaged, of a later format, or names what Rivelt never writes to.
    """
    hint = "Take it back from version control; or remove it, and apply with --force."
    try:
        if b"\n<<<<<<< " in data or data.startswith(b"<<<<<<< "):
            merging = "Keep the lines of both sides, remove the markers, then run: rivelt apply"
            raise BadInput("the lock file has a merge conflict", place=Place(LOCK_NAME), hint=merging)
        table = _as_written(data) or read_toml(data, LOCK_NAME, hint)
        if table["format"] > LOCK_FORMAT:
            raise BadInput(
                "the lock file is of a later version of Rivelt", place=Place(LOCK_NAME), hint="Update Rivelt."
            )
        lock = _old(msgspec.convert(table, _OldTable)) if table["format"] == 1 else _new(msgspec.convert(table, _Table))
    except RiveltError:
        raise
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise BadInput("the lock file is damaged", place=Place(LOCK_NAME), hint=hint) from error
    edited = [record.path for records in lock.edits.values() for record in records]
    for path in (*lock.paths, *edited):
        if not _is_safe(path):
            message = f"the lock file names what Rivelt never writes to: {path}"
            raise BadInput(message, place=Place(LOCK_NAME), hint=hint)
    odd = next((path for path in edited if not _is_edited(path)), None)
    if odd is not None:
        message = f"the lock file names an edit of what Rivelt never edits: {odd}"
        raise BadInput(message, place=Place(LOCK_NAME), hint=hint)
    return lock


def _as_written(data: bytes) -> Mapping[str, Any] | None:
    """Return what `read_toml` gives of a file that is laid out as `Lock.text` does it, in a third of the time; None for any other."""
    if len(data) > MOST_BYTES:
        return None
    try:
        lines = data.decode().split("\n")
    except UnicodeDecodeError:
        return None
    if lines[: len(_BEGIN)] != [*_BEGIN] or lines[-2:] != ["]", ""]:
        return None
    made = []
    for line in lines[len(_BEGIN) : -2]:
        if _ENTRY.fullmatch(line):
            pairs = _PAIR.findall(line)
            made.append({key: _value(text) for key, text in pairs})
            if len(made[-1]) < len(pairs):
                return None
        elif not _SHELF.fullmatch(line):
            return None
    return {"format": LOCK_FORMAT, "made": made}


def _value(text: str) -> str | int | bool:
    if text.startswith('"'):
        found: str = json.loads(text) if "\\" in text else text[1:-1]
        return found
    return text == "true" or int(text)


def _is_edited(path: str) -> bool:
    """Whether a path may be that of a file that Rivelt edits: not one in a hidden folder, and no script."""
    parts = path.lower().split("/")
    return (
        not any(part.startswith(".") for part in parts)
        and "." in parts[-1]
        and (_EDITED_SCRIPTS.fullmatch(parts[-1]) is not None or not parts[-1].endswith(_SCRIPTS))
    )


def _is_safe(path: str) -> bool:
    is_plain = not path.startswith("/") and ".." not in path.split("/") and set(path).isdisjoint(_CONTROLS)
    return is_plain and not in_tool_folder(path)


def _old(table: _OldTable) -> Lock:
    """A lock of format 1: it names the site alone. Its owners have no brief; who plans for the site takes over what they made."""
    files: dict[Owner, dict[str, LockedFile]] = {}
    for path, found in table.files.items():
        files.setdefault(Owner("", "", found.site), {})[path] = LockedFile(found.sha256, found.recipe)
    return Lock(files, {Owner("", "", site): inputs for site, inputs in table.inputs.items()})


def _new(table: _Table) -> Lock:
    files: dict[Owner, dict[str, LockedFile]] = {}
    inputs: dict[Owner, dict[str, str]] = {}
    edits: dict[Owner, list[Record]] = {}
    for entry in table.made:
        owner = Owner(entry.brief, entry.edition, entry.site)
        kinds = [kind for kind in (entry.file, entry.art, entry.edit) if kind is not None]
        if len(kinds) != 1:
            raise ValueError("an entry is of one kind")
        if entry.edit is not None:
            put = Put(entry.put, entry.head, entry.length, (entry.sha256 or "") if entry.put is None else "")
            record = Record(entry.edit, entry.before, put, entry.lead, entry.tail, entry.whole)
            edits.setdefault(owner, []).append(record)
        elif entry.sha256 is None:
            raise ValueError("a file has a hash")
        elif entry.file is not None:
            files.setdefault(owner, {})[entry.file] = LockedFile(entry.sha256, entry.recipe, entry.fallback)
        elif entry.art is not None:
            inputs.setdefault(owner, {})[entry.art] = entry.sha256
    return Lock(files, inputs, {owner: tuple(records) for owner, records in edits.items()})
