"""Xcode project files: their objects, and making a file a member of a target by splicing lines in."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from rivelt.edit.openstep import Plain, Value, parse_openstep
from rivelt.edit.splice import Splice, spliced
from rivelt.errors import BadInput, Place

_COMMENT = r"/\*(?:(?!\*/).)*\*/"
_NEEDS_NO_QUOTES = re.compile(r"[A-Za-z0-9_./$]+")


@dataclass(frozen=True)
class NewMember:
    """A file to be added to a target: `path` relative to its group's folder, the file type by Xcode's name.

    `phase`: the name of the build phase it belongs to.
    """

    path: str
    file_type: str
    phase: str = "Resources"


class XcodeProject:
    """A `project.pbxproj`.

    Raises:
        BadInput: not UTF-8, not readable, or without objects.
    """

    def __init__(self, data: bytes, path: str) -> None:
        self.path = path
        try:
            self._text = data.decode("utf-8")
        except UnicodeDecodeError as error:
            raise BadInput(
                "the project file is not UTF-8 text", place=Place(path), hint="Open and save it in Xcode."
            ) from error
        self._tree = parse_openstep(self._text, path)
        objects = (self._tree.entries or {}).get("objects")
        if objects is None or objects.entries is None:
            raise BadInput("the project file has no objects", place=Place(path), hint="Open and save it in Xcode.")
        self._objects: Value = objects

    @property
    def data(self) -> bytes:
        """The file as it was read."""
        return self._text.encode()

    def object(self, object_id: object) -> Mapping[str, Plain]:
        """The object with an id; empty when there is none (a dangling reference)."""
        found = (self._objects.entries or {}).get(str(object_id))
        plain = found.plain if found is not None else {}
        return plain if isinstance(plain, dict) else {}

    def objects(self, isa: str) -> Iterator[tuple[str, Mapping[str, Plain]]]:
        """The objects of a class with their ids, in file order."""
        for object_id in self._objects.entries or {}:
            found = self.object(object_id)
            if found.get("isa") == isa:
                yield object_id, found

    @property
    def root(self) -> Mapping[str, Plain]:
        """The PBXProject object."""
        return self.object((self._tree.entries or {"rootObject": self._tree})["rootObject"].text)

    def add_member(
        self, member: NewMember, *, group: str, phase: str, target_name: str, reference: str | None = None
    ) -> bytes:
        """The file with `member` in a group and in a build phase (by its id): four new lines, in this file's own style.

        With `reference`, a file that the project knows already: two new lines. Ids are made from the target's and the file's name, so that the same change gives the same bytes.
        """
        name = member.path.rpartition("/")[2]
        is_known = reference is not None
        reference = reference or self._free_id(f"reference {target_name} {member.path}")
        build_file = self._free_id(f"build file {target_name} {member.path}")
        reference_entry = f"{{isa = PBXFileReference; lastKnownFileType = {member.file_type}; "
        if name != member.path:
            reference_entry += f"name = {_quoted(name)}; "
        reference_entry += f'path = {_quoted(member.path)}; sourceTree = "<group>"; }}'
        in_phase = f"{name} in {member.phase}"
        build_entry = f"{{isa = PBXBuildFile; fileRef = {self._noted(reference, name)}; }}"
        splices = [
            self._new_object("PBXBuildFile", f"{self._noted(build_file, in_phase)} = {build_entry};"),
            self._new_item(phase, "files", self._noted(build_file, in_phase)),
        ]
        if not is_known:
            splices.append(self._new_object("PBXFileReference", f"{self._noted(reference, name)} = {reference_entry};"))
            splices.append(self._new_item(group, "children", self._noted(reference, name)))
        return self._changed([(at, at, text) for at, text in splices])

    def without_file(self, reference: str) -> bytes:
        """The file without a file reference (or variant group) and all that names it: build files, group and phase entries."""
        gone = {reference}
        children = self.object(reference).get("children", [])
        gone |= {str(child) for child in children} if isinstance(children, list) else set()
        gone |= {key for key, found in self.objects("PBXBuildFile") if str(found.get("fileRef")) in gone}
        splices = [self._without_entry(self._objects, key) for key in gone if key in (self._objects.entries or {})]
        for key, owner in (self._objects.entries or {}).items():
            if key in gone:
                continue
            for name in ("children", "files"):
                array = (owner.entries or {}).get(name)
                items = array.items or [] if array else []
                splices += [self._without_item(item) for item in items if item.text in gone]
        return self._changed(splices)

    def with_setting(self, configuration: str, key: str, value: str | None) -> bytes:
        """The file with a build setting of a configuration set, in Xcode's alphabetical order, or (None) removed."""
        owner = (self._objects.entries or {})[configuration].entries or {}
        if "buildSettings" not in owner:
            raise BadInput(f"configuration {configuration} has no build settings", place=Place(self.path))
        settings = owner["buildSettings"]
        entries = settings.entries or {}
        if value is None:
            return self._changed([self._without_entry(settings, key)]) if key in entries else self.data
        if key in entries:
            return self._changed([(entries[key].start, entries[key].end, _quoted(value))])
        line = f"{_quoted(key)} = {_quoted(value)};"
        before = [name for name in entries if name < key]
        if before:
            last = max(before, key=lambda name: entries[name].start)
            after = self._text.index(";", entries[last].end) + 1
            is_own_line = "\n" in self._text[settings.start : settings.entry_starts[last]]
            gap = f"{self._newline}{self._indent(settings.entry_starts[last])}" if is_own_line else " "
            return self._changed([(after, after, gap + line)])
        at = settings.start + 1
        outer = self._indent((self._objects.entries or {})[configuration].entry_starts["buildSettings"])
        inner = self._text[at : settings.end - 1]
        closing = "" if "\n" in inner or entries else f"{self._newline}{outer}"
        gap = f"{self._newline}{outer}\t" if "\n" in inner or not entries else " "
        return self._changed([(at, at, gap + line + closing)])

    def _without_entry(self, owner: Value, key: str) -> tuple[int, int, str]:
        entries = owner.entries or {}
        return self._whole_line(owner.entry_starts[key], self._text.index(";", entries[key].end) + 1)

    def _without_item(self, item: Value) -> tuple[int, int, str]:
        comma = re.compile(rf"(?:\s|{_COMMENT})*,?", re.DOTALL).match(self._text, item.end)
        return self._whole_line(item.start, comma.end() if comma else item.end)

    def _whole_line(self, start: int, end: int) -> tuple[int, int, str]:
        """A span, with its line where it stands alone on it."""
        line = self._text.rfind("\n", 0, start) + 1
        rest = re.compile(r"[ \t]*\r?\n").match(self._text, end)
        if rest and not self._text[line:start].strip():
            return line, rest.end(), ""
        return start, end, ""

    def _changed(self, splices: list[tuple[int, int, str]]) -> bytes:
        """The file with spans of its text replaced."""
        in_bytes = [
            Splice(len(self._text[:start].encode()), len(self._text[:end].encode()), text.encode())
            for start, end, text in splices
        ]
        changed = spliced(self.data, in_bytes)
        XcodeProject(changed, self.path)  # a change that could not be read again must never leave this class
        return changed

    def _free_id(self, seed: str) -> str:
        """24 hex digits that no object has, always the same for the same seed and project."""
        for attempt in range(1000):
            candidate = hashlib.sha256(f"rivelt {seed} {attempt}".encode()).hexdigest()[:24].upper()
            if candidate not in (self._objects.entries or {}):
                return candidate
        raise AssertionError("a thousand hash collisions")

    def _noted(self, object_id: str, note: str) -> str:
        """An id with its comment, if this file has such comments."""
        return f"{object_id} /* {note.replace('*/', '')} */" if "/* Begin PBX" in self._text else object_id

    def _new_object(self, isa: str, entry: str) -> tuple[int, str]:
        """An entry of `objects`, after the last one of its class, else as the last one of all."""
        entries = self._objects.entries or {}
        same = [key for key in entries if self.object(key).get("isa") == isa]
        if not same:
            at = self._line_end_before(self._objects.end - 1)
            return at, f"{self._newline}\t\t{entry}"
        last = same[-1]
        after = self._text.index(";", entries[last].end) + 1
        return after, f"{self._newline}{self._indent(self._objects.entry_starts[last])}{entry}"

    def _new_item(self, owner: str, key: str, item: str) -> tuple[int, str]:
        """An item of an array of an object, as the last one."""
        entries = (self._objects.entries or {})[owner].entries or {}
        if key not in entries:
            raise BadInput(f"object {owner} has no {key}", place=Place(self.path), hint="Open and save it in Xcode.")
        array = entries[key]
        items = array.items or []
        key_indent = self._indent((self._objects.entries or {})[owner].entry_starts[key])
        if not items:
            inner = self._text[array.start + 1 : array.end - 1]
            closing = "" if "\n" in inner else f"{self._newline}{key_indent}"
            return array.start + 1, f"{self._newline}{key_indent}\t{item},{closing}"
        last = items[-1].end
        gap = re.compile(rf"(?:\s|{_COMMENT})*,", re.DOTALL).match(self._text, last)
        own_line = "\n" in self._text[array.start : items[-1].start]
        separator = f"{self._newline}{self._indent(items[-1].start)}" if own_line else " "
        if gap:
            return gap.end(), f"{separator}{item},"
        note = re.compile(rf"(?:[ \t]*{_COMMENT})?", re.DOTALL).match(self._text, last)
        return (note.end() if note else last), f",{separator}{item}"

    @property
    def _newline(self) -> str:
        return "\r\n" if "\r\n" in self._text else "\n"

    def _indent(self, position: int) -> str:
        line = self._text.rfind("\n", 0, position) + 1
        found = re.compile(r"[ \t]*").match(self._text, line)
        return found[0] if found else ""

    def _line_end_before(self, position: int) -> int:
        """The end of the last line that has something on it before `position`."""
        return len(self._text[:position].rstrip())


def _quoted(text: str) -> str:
    if _NEEDS_NO_QUOTES.fullmatch(text):
        return text
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return f'"{escaped}"'
