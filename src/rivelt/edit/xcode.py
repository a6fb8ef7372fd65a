"""Xcode project files: their objects, and changes that are collected and then made all at once, by splicing lines in and out."""

from __future__ import annotations

import hashlib
import re
from bisect import bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct, field

from rivelt.edit.openstep import Plain, Value, parse_openstep
from rivelt.edit.splice import Splice, spliced
from rivelt.edit.text import read_text
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

_COMMENT = r"/\*(?:(?!\*/).)*\*/"
_NEEDS_NO_QUOTES = regex(r"[A-Za-z0-9_./$]+")


class NewMember(Struct, frozen=True):
    """A file to be added to a target: `path` relative to its group's folder, the file type by Xcode's name.

    `phase`: the name of the build phase it belongs to. `platforms`: those that it is built for ("ios"); empty for all of the target.
    """

    path: str
    file_type: str
    phase: str = "Resources"
    platforms: tuple[str, ...] = ()


class XcodeProject:
    """A `project.pbxproj`.

    Raises:
        BadInput: not UTF-8, not readable, or without objects.
    """

    def __init__(self, data: bytes, path: str) -> None:
        self.path = path
        self.data = data
        self.text = read_text(data, path, hint="Open and save it in Xcode.")
        self._tree = parse_openstep(self.text, path)
        objects = (self._tree.entries or {}).get("objects")
        if objects is None or objects.entries is None:
            raise BadInput("the project file has no objects", place=Place(path), hint="Open and save it in Xcode.")
        self.values: Value = objects
        self._plain: dict[str, Mapping[str, Plain]] = {}

    @property
    def entries(self) -> dict[str, Value]:
        """The objects by id, each with its place in the file."""
        return self.values.entries or {}

    def object(self, object_id: object) -> Mapping[str, Plain]:
        """Return the object with an id; empty when there is none (a dangling reference)."""
        key = str(object_id)
        if key not in self._plain:
            found = self.entries.get(key)
            plain = found.plain if found is not None else {}
            self._plain[key] = plain if isinstance(plain, dict) else {}
        return self._plain[key]

    @cached_property
    def _by_class(self) -> Mapping[str, list[str]]:
        found: dict[str, list[str]] = {}
        for object_id, value in self.entries.items():
            found.setdefault(str(value.isa), []).append(object_id)
        return found

    def ids(self, isa: str) -> Sequence[str]:
        """Return the ids of the objects of a class, in file order."""
        return self._by_class.get(isa, ())

    def objects(self, isa: str) -> Iterator[tuple[str, Mapping[str, Plain]]]:
        """Yield the objects of a class with their ids, in file order."""
        for object_id in self.ids(isa):
            yield object_id, self.object(object_id)

    @cached_property
    def _places(self) -> Sequence[tuple[int, int, str]]:
        return sorted((value.start, value.end, object_id) for object_id, value in self.entries.items())

    def naming(self, words: Iterable[str]) -> list[str]:
        """Return the ids of the objects in whose text any of some words stands: all that can name it."""
        found: dict[str, None] = {}
        for word in sorted(words):
            at = self.text.find(word)
            while at >= 0:
                index = bisect_right(self._places, at, key=lambda place: place[0]) - 1
                if index >= 0 and at < self._places[index][1]:
                    found[self._places[index][2]] = None
                at = self.text.find(word, at + 1)
        return list(found)

    @property
    def root(self) -> Mapping[str, Plain]:
        """The PBXProject object."""
        return self.object((self._tree.entries or {"rootObject": self._tree})["rootObject"].text)


class XcodeEdit(Struct):
    """Changes of a project file: noted one by one, and made together by `result`.

    Ids of new objects are made from the target's and the file's name, so that the same change gives the same bytes.
    """

    project: XcodeProject
    _settings: dict[str, dict[str, str | None]] = field(default_factory=dict)
    _objects: dict[str, list[str]] = field(default_factory=dict)
    _items: dict[tuple[str, str], list[str]] = field(default_factory=dict)
    _entries: list[tuple[Value, str]] = field(default_factory=list)
    _gone: set[str] = field(default_factory=set)
    _ids: set[str] = field(default_factory=set)

    def set_setting(self, configuration: str, key: str, value: str | None) -> None:
        """Set a build setting of a configuration, in Xcode's alphabetical order, or (None) remove it.

        Raises:
            BadInput: the configuration has no settings.
        """
        if "buildSettings" not in (self.project.entries[configuration].entries or {}):
            raise BadInput(f"configuration {configuration} has no build settings", place=Place(self.project.path))
        self._settings.setdefault(configuration, {})[key] = value

    def add(self, member: NewMember, *, group: str, phase: str, target_name: str, reference: str | None = None) -> None:
        """Put a file into a group and a build phase (by its id): four new lines, in this file's own style.

        With `reference`, a file that the project knows already: two new lines.
        """
        name = member.path.rpartition("/")[2]
        reference = reference or self.add_reference(member, group=group, target_name=target_name)
        build_file = self._free_id(f"build file {target_name} {member.path}")
        in_phase = self._noted(build_file, f"{name} in {member.phase}")
        filters = f"platformFilters = ({''.join(f'{one}, ' for one in member.platforms)}); " if member.platforms else ""
        entry = f"{{isa = PBXBuildFile; fileRef = {self._noted(reference, name)}; {filters}}}"
        self._objects.setdefault("PBXBuildFile", []).append(f"{in_phase} = {entry};")
        self._items.setdefault((phase, "files"), []).append(in_phase)

    def add_reference(self, member: NewMember, *, group: str, target_name: str) -> str:
        """Put a file into a group alone, in two new lines: it is shown, and built by no phase. Return the id of its reference."""
        name = member.path.rpartition("/")[2]
        reference = self._free_id(f"reference {target_name} {member.path}")
        entry = f"{{isa = PBXFileReference; lastKnownFileType = {member.file_type}; "
        if name != member.path:
            entry += f"name = {_quoted(name)}; "
        entry += f'path = {_quoted(member.path)}; sourceTree = "<group>"; }}'
        noted = self._noted(reference, name)
        self._objects.setdefault("PBXFileReference", []).append(f"{noted} = {entry};")
        self._items.setdefault((group, "children"), []).append(noted)
        return reference

    def filter_member(self, folder: str, target: str, path: str, platforms: tuple[str, ...]) -> None:
        """Build a file of a synchronised folder (by its id) for some platforms of a target (by its id) alone.

        Args:
            folder: the id of the folder.
            target: the id of the target.
            path: the file, relative to the folder.
            platforms: such as ("ios",).
        """
        entry = f"{_quoted(path)} = ({''.join(f'{one}, ' for one in platforms)});"
        sets = self.project.object(folder).get("exceptions")
        ids = [str(one) for one in sets] if isinstance(sets, list) else []
        mine = next((one for one in ids if str(self.project.object(one).get("target")) == target), None)
        if mine is not None:
            key = "platformFiltersByRelativePath"
            filters = (self.project.entries[mine].entries or {}).get(key)
            if filters is not None:
                self._entries.append((filters, entry))
            else:
                self._entries.append((self.project.entries[mine], f"{key} = {{{entry} }};"))
            return
        made = self._free_id(f"exceptions {folder} {target}")
        isa = "PBXFileSystemSynchronizedBuildFileExceptionSet"
        noted = self._noted(made, isa)
        text = f"{noted} = {{isa = {isa}; platformFiltersByRelativePath = {{{entry} }}; target = {target}; }};"
        self._objects.setdefault(isa, []).append(text)
        if isinstance(sets, list):
            self._items.setdefault((folder, "exceptions"), []).append(noted)
        else:
            self._entries.append((self.project.entries[folder], f"exceptions = ({noted}, );"))

    def remove(self, reference: str) -> None:
        """Remove a file reference (or variant group) and all that names it: build files, group and phase entries."""
        children = self.project.object(reference).get("children", [])
        gone = {reference, *(map(str, children) if isinstance(children, list) else ())}
        build_files = frozenset(self.project.ids("PBXBuildFile")).intersection(self.project.naming(gone))
        gone |= {key for key in build_files if str(self.project.object(key).get("fileRef")) in gone}
        self._gone |= gone

    def result(self) -> bytes:
        """Return the file with all changes made; the same bytes where there are none.

        Raises:
            BadInput: an object that a change needs is not as Xcode writes it.
        """
        found = [
            *self._settings_spans(),
            *self._object_spans(),
            *self._item_spans(),
            *(self._new_entry(owner, entry) for owner, entry in self._entries),
            *self._removed_spans(),
        ]
        if not found:
            return self.project.data
        text, data = self.project.text, self.project.data
        offsets = {at: at for span in found for at in span[:2]}
        if not text.isascii():  # offsets of characters are not those of bytes
            offset = position = 0
            for at in sorted(offsets):
                offset += len(text[position:at].encode())
                offsets[at], position = offset, at
        return spliced(data, (Splice(offsets[start], offsets[end], new.encode()) for start, end, new in found))

    # Settings

    def _settings_spans(self) -> Iterator[_Span]:
        for configuration, changes in self._settings.items():
            yield from self._of_configuration(configuration, changes)

    def _of_configuration(self, configuration: str, changes: Mapping[str, str | None]) -> Iterator[_Span]:
        owner = self.project.entries[configuration]
        settings = (owner.entries or {})["buildSettings"]
        entries = settings.entries or {}
        gone = {key for key, value in changes.items() if value is None and key in entries}
        for key in gone:
            yield self._without_entry(settings, key)
        new: dict[int, list[tuple[str, str, str]]] = {}
        for key, value in sorted(changes.items()):
            if value is None:
                continue
            if key in entries:
                yield entries[key].start, entries[key].end, _quoted(value)
                continue
            line = f"{_quoted(key)} = {_quoted(value)};"
            at, before, after = self._room_for(configuration, settings, key, gone)
            new.setdefault(at, []).append((before, line, after))
        for at, lines in new.items():
            # The closing text belongs after the last of several new lines.
            yield at, at, "".join(before + line for before, line, _ in lines) + lines[-1][2]

    def _room_for(self, configuration: str, settings: Value, key: str, gone: set[str]) -> tuple[int, str, str]:
        """Return where a new setting goes, and what stands before and after it there."""
        text, entries = self.project.text, settings.entries or {}
        before = [name for name in entries if name < key and name not in gone]
        if before:
            last = max(before, key=lambda name: entries[name].start)
            after = text.index(";", entries[last].end) + 1
            is_own_line = "\n" in text[settings.start : settings.entry_starts[last]]
            gap = f"{self._newline}{self._indent(settings.entry_starts[last])}" if is_own_line else " "
            return after, gap, ""
        at = settings.start + 1
        outer = self._indent(self.project.entries[configuration].entry_starts["buildSettings"])
        inner = text[at : settings.end - 1]
        closing = "" if "\n" in inner or entries else f"{self._newline}{outer}"
        return at, f"{self._newline}{outer}\t" if "\n" in inner or not entries else " ", closing

    # Objects and the lists that name them

    def _object_spans(self) -> Iterator[_Span]:
        """New entries of `objects`, after the last one of their class, else as the last ones of all."""
        entries = self.project.entries
        for isa, lines in self._objects.items():
            same = [key for key in self.project.ids(isa) if key not in self._gone]
            if same:
                at = self.project.text.index(";", entries[same[-1]].end) + 1
                gap = f"{self._newline}{self._indent(self.project.values.entry_starts[same[-1]])}"
            else:
                at = len(self.project.text[: self.project.values.end - 1].rstrip())
                gap = f"{self._newline}\t\t"
            yield at, at, "".join(gap + line for line in lines)

    def _item_spans(self) -> Iterator[_Span]:
        for (owner, key), items in self._items.items():
            yield self._new_items(owner, key, items)

    def _new_items(self, owner: str, key: str, new: list[str]) -> _Span:
        """Items of an array of an object, as the last ones."""
        entries = (self.project.entries[owner].entries or {}) if owner in self.project.entries else {}
        if key not in entries:
            place = Place(self.project.path)
            raise BadInput(f"object {owner} has no {key}", place=place, hint="Open and save it in Xcode.")
        text, array = self.project.text, entries[key]
        items = [item for item in array.items or [] if item.text not in self._gone]
        key_indent = self._indent(self.project.entries[owner].entry_starts[key])
        if not items:
            inner = text[array.start + 1 : array.end - 1]
            closing = "" if "\n" in inner else f"{self._newline}{key_indent}"
            body = "".join(f"{self._newline}{key_indent}\t{item}," for item in new)
            return array.start + 1, array.start + 1, body + closing
        last = items[-1].end
        gap = re.compile(rf"(?:\s|{_COMMENT})*,", re.DOTALL).match(text, last)
        own_line = "\n" in text[array.start : items[-1].start]
        separator = f"{self._newline}{self._indent(items[-1].start)}" if own_line else " "
        if gap:
            return gap.end(), gap.end(), "".join(f"{separator}{item}," for item in new)
        note = re.compile(rf"(?:[ \t]*{_COMMENT})?", re.DOTALL).match(text, last)
        at = note.end() if note else last
        return at, at, "".join(f",{separator}{item}" for item in new)

    def _new_entry(self, owner: Value, entry: str) -> _Span:
        """An entry of a dictionary, as the last one, on a line of its own where the others have one."""
        text, entries = self.project.text, owner.entries or {}
        if not entries:
            return owner.start + 1, owner.start + 1, entry
        last = max(entries, key=lambda name: entries[name].start)
        at = text.index(";", entries[last].end) + 1
        start = owner.entry_starts[last]
        is_own_line = not text[text.rfind("\n", 0, start) + 1 : start].strip()
        return at, at, (f"{self._newline}{self._indent(start)}" if is_own_line else " ") + entry

    # Removing

    def _removed_spans(self) -> Iterator[_Span]:
        if not self._gone:
            return
        entries = self.project.entries
        yield from (self._without_entry(self.project.values, key) for key in entries if key in self._gone)
        for key in self.project.naming(self._gone):
            if key in self._gone:
                continue
            for name in ("children", "files"):
                array = (entries[key].entries or {}).get(name)
                for item in array.items or [] if array else []:
                    if item.text in self._gone:
                        yield self._without_item(item)

    def _without_entry(self, owner: Value, key: str) -> _Span:
        entries = owner.entries or {}
        return self._whole_line(owner.entry_starts[key], self.project.text.index(";", entries[key].end) + 1)

    def _without_item(self, item: Value) -> _Span:
        comma = re.compile(rf"(?:\s|{_COMMENT})*,?", re.DOTALL).match(self.project.text, item.end)
        return self._whole_line(item.start, comma.end() if comma else item.end)

    def _whole_line(self, start: int, end: int) -> _Span:
        """A span, with its line where it stands alone on it."""
        text = self.project.text
        line = text.rfind("\n", 0, start) + 1
        rest = re.compile(r"[ \t]*\r?\n").match(text, end)
        if rest and not text[line:start].strip():
            return line, rest.end(), ""
        return start, end, ""

    # Style

    def _free_id(self, seed: str) -> str:
        """24 hex digits that no object has, always the same for the same seed and project."""
        for attempt in range(1000):
            candidate = hashlib.sha256(f"rivelt {seed} {attempt}".encode()).hexdigest()[:24].upper()
            if candidate not in self.project.entries and candidate not in self._ids:
                self._ids.add(candidate)
                return candidate
        raise AssertionError("a thousand hash collisions")

    def _noted(self, object_id: str, note: str) -> str:
        """An id with its comment, if this file has such comments."""
        return f"{object_id} /* {note.replace('*/', '')} */" if "/* Begin PBX" in self.project.text else object_id

    @property
    def _newline(self) -> str:
        return "\r\n" if "\r\n" in self.project.text else "\n"

    def _indent(self, position: int) -> str:
        line = self.project.text.rfind("\n", 0, position) + 1
        found = re.compile(r"[ \t]*").match(self.project.text, line)
        return found[0] if found else ""


_Span = tuple[int, int, str]
"""Characters from a start up to an end, and what stands there instead."""


def _quoted(text: str) -> str:
    if _NEEDS_NO_QUOTES.fullmatch(text):
        return text
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return f'"{escaped}"'
