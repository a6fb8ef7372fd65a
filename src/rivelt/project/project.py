"""A project as everything else sees it: each file read once, and parsed once for each content.

A `Project` is a value: nothing it says ever changes. What was parsed is kept with it, and shared with the projects that `overlay` makes
from it: only what an overlay changes is parsed anew. Nothing is kept outside of it, so that it goes when the project goes.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from functools import cached_property, update_wrapper
from pathlib import Path
from typing import TYPE_CHECKING, Any, Concatenate, ParamSpec, TypeVar

from rivelt.errors import BadInput, Place, RiveltError
from rivelt.picture import ImageFile
from rivelt.project.files import DISK, Files
from rivelt.project.snapshot import Content, Made, Snapshot, Unread
from rivelt.project.words import SOURCES, WordIndex, words_of
from rivelt.values import replace

if TYPE_CHECKING:
    from rivelt.edit.gradle import GradleFile
    from rivelt.edit.html import Page
    from rivelt.edit.jsontext import JsonDocument
    from rivelt.edit.plist import Plist
    from rivelt.edit.source.apple import AppleSource
    from rivelt.edit.source.csharp import Language as CSharp
    from rivelt.edit.source.language import Source
    from rivelt.edit.source.script import Language as Script
    from rivelt.edit.xcode import XcodeProject
    from rivelt.edit.xml import Document
    from rivelt.edit.yamltext import YamlDocument

_KINDS = {
    ".xml": "xml",
    ".appxmanifest": "xml",
    "proj": "xml",
    ".plist": "plist",
    ".pbxproj": "pbx",
    ".webmanifest": "json",
    ".json": "json",
    ".toml": "toml",
    ".html": "html",
    ".htm": "html",
    ".gradle": "gradle",
    ".gradle.kts": "gradle",
    ".kt": "source",
    ".java": "source",
    ".storyboard": "xml",
    ".swift": "apple_source",
    ".cs": "csharp",
    ".m": "apple_source",
    ".mm": "apple_source",
    "project.yml": "yaml",
}
"""What files with some endings are read as: the methods of `Project`."""

T = TypeVar("T")
P = ParamSpec("P")
Given = TypeVar("Given", bound=Hashable)


class ParseCache:
    """Parsed files by content, shared by all states of a project in a command. Of an earlier command, only what is asked for again is kept."""

    def __init__(self, earlier: Mapping[Hashable, Any] | None = None) -> None:
        self.now: dict[Hashable, Any] = {}
        self._earlier = earlier or {}

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what was made for a key, or make it."""
        if key not in self.now and key in self._earlier:
            self.now[key] = self._earlier[key]
        return _once(self.now, key, make)

    def renewed(self) -> ParseCache:
        """Return a cache for the next command, which drops what that does not ask for."""
        return ParseCache(self.now)


class Project:
    """The files of a project, and what they say.

    Every reader raises `BadInput`, with the place, for a file that is not what it should be, and `KeyError` for one that is not there.
    """

    def __init__(
        self,
        snapshot: Snapshot,
        base: Project | None = None,
        changed: Iterable[str] = (),
        parsed: ParseCache | None = None,
    ) -> None:
        self._snapshot = snapshot
        self._base = base
        self._changed = frozenset(changed)
        self._parsed = ParseCache() if parsed is None else parsed
        self._remembered: dict[Hashable, Any] = {}

    @classmethod
    def of_folder(cls, root: Path, earlier: Project | None = None, files: Files = DISK) -> Project:
        """Return the project in a folder; what an `earlier` state of it has parsed need not be parsed again.

        Args:
            root: the folder.
            earlier: another state of the same project, or of another.
            files: where the folder is.

        Raises:
            BadInput: the folder cannot be listed, or holds far too many files.
        """
        return cls(files.snapshot(root), parsed=earlier._parsed.renewed() if earlier else None)  # noqa: SLF001

    def digest(self, is_left_out: Callable[[str], bool]) -> str:
        """Return a SHA-256 of all files but those that are left out, with their contents, in hex."""
        return self._snapshot.digest(is_left_out)

    @property
    def has_parsed(self) -> bool:
        """Whether anything of it was parsed."""
        return bool(self._parsed.now)

    def again(self) -> Project:
        """Return the same project, to be worked on anew: what it has parsed need not be, and what is parsed from now on is not kept here."""
        return Project(self._snapshot, parsed=self._parsed.renewed())

    @classmethod
    def of_files(cls, files: Mapping[str, Content]) -> Project:
        """Return a project that is made of some files, by their POSIX paths."""
        return cls(Snapshot(files))

    def overlay(self, files: Mapping[str, Content | None]) -> Project:
        """Return the project as it would be with `files` written over it; None stands for a file that goes."""
        return Project(self._snapshot.overlay(files), self, files, self._parsed) if files else self

    # Files

    def __contains__(self, path: object) -> bool:
        return path in self._snapshot

    @property
    def unread(self) -> Sequence[Unread]:
        """What is in the project and cannot be read."""
        return self._snapshot.unread

    @property
    def is_all_read(self) -> bool:
        """Whether every source could be read, so that what none of them names is named nowhere."""
        return not any(one.kind in {"folder", "file"} for one in self.unread)

    def unknown_in(self, folders: Iterable[str]) -> BadInput | None:
        """Return why some folders are not known whole: one in them, or a source, cannot be read, or a link in them leads out of the project.

        "" is all of the project. Links do not count anywhere in it, nor in hidden folders: tools put them there, to what they fetched.
        """
        homes = tuple(folders)
        for one in self.unread:
            is_inside = any(home and f"{one.path}/".startswith(f"{home}/") for home in homes)
            if one.kind == "folder" and (is_inside or "" in homes):
                hint = "Fix its permissions: what is in it is unknown."
                return BadInput(f"this folder cannot be read: {one.reason}", place=Place(one.path), hint=hint)
            if one.kind in {"file", "odd"} and is_inside and one.path.endswith(SOURCES):
                return BadInput(f"this file cannot be read: {one.reason}", place=Place(one.path), hint="Fix that.")
            if one.kind == "outside" and is_inside and not one.is_of_a_tool:
                return BadInput(one.reason, place=Place(one.path), hint="Put what it leads to into the project.")
        return None

    @property
    def paths(self) -> Sequence[str]:
        """All paths, sorted."""
        return self._snapshot.paths

    def read(self, path: str) -> bytes:
        """Return the bytes of a file."""
        return self._snapshot.read(path)

    def content(self, path: str) -> Made:
        """Return what a file holds: its bytes, or what they will be made from."""
        return self._snapshot.content(path)

    def below(self, folder: str) -> Sequence[str]:
        """Return the paths in `folder` and in folders of it; sorted. "" is the root."""
        return self._snapshot.below(folder)

    def fetch(self, paths: Iterable[str]) -> None:
        """Read many files at once, for who is going to ask for each; those that are not there or cannot be read are passed over."""
        self._snapshot.fetch(paths)

    def find(self, pattern: str) -> Sequence[str]:
        """Return the paths that match a shell pattern, in which `*` also crosses folders; sorted."""
        return self.remember(("find", pattern), lambda: self._snapshot.find(pattern))

    def own(self, pattern: str) -> Sequence[str]:
        """Return the paths that match a pattern as `find` has it, without what git ignores and other people's code; sorted."""
        return self.remember(
            ("own", pattern), lambda: [path for path in self.find(pattern) if self._snapshot.is_own(path)]
        )

    def is_own(self, path: str) -> bool:
        """Return whether git does not ignore a file, and it is in no folder of other people's code."""
        return self._snapshot.is_own(path)

    # What they say

    def xml(self, path: str) -> Document:
        """Return an XML file, parsed."""
        from rivelt.edit.xml import parse_xml

        document = self.read_as("xml", path, parse_xml)
        return document if document.path == path else replace(document, path=path)

    def plist(self, path: str) -> Plist:
        """Return a property list, parsed."""
        from rivelt.edit.plist import Plist

        return self.read_as("plist", path, Plist)

    def pbx(self, path: str) -> XcodeProject:
        """Return an Xcode project file, parsed."""
        from rivelt.edit.xcode import XcodeProject

        return self.read_as("pbx", path, XcodeProject)

    def json(self, path: str) -> JsonDocument:
        """Return a JSON file with an object at its root, parsed."""
        from rivelt.edit.jsontext import parse_json

        return self.read_as("json", path, parse_json)

    def toml(self, path: str) -> Mapping[str, Any]:
        """Return the content of a TOML file."""
        from rivelt.edit.toml import read_toml

        return self.read_as("toml", path, read_toml)

    def html(self, path: str) -> Page:
        """Return the tags of an HTML page."""
        from rivelt.edit.html import parse_html

        return self.read_as("html", path, parse_html)

    def yaml(self, path: str) -> YamlDocument:
        """Return a YAML file with keys, parsed."""
        from rivelt.edit.yamltext import parse_yaml

        return self.read_as("yaml", path, parse_yaml)

    def gradle(self, path: str) -> GradleFile:
        """Return a Gradle build file, scanned."""
        from rivelt.edit.gradle import read_gradle

        return self.read_as("gradle", path, read_gradle)

    def source(self, path: str) -> Source:
        """Return a source file with its syntax tree; the language is known by the file's ending."""
        from rivelt.edit.source import read_source

        return self.read_as("source", path, read_source)

    def apple_source(self, path: str) -> AppleSource:
        """Return a Swift or Objective-C file with its syntax tree."""
        from rivelt.edit.source import read_apple_source

        return self.read_as("apple_source", path, read_apple_source)

    def script(self, path: str) -> Script:
        """Return a JavaScript or TypeScript file with its syntax tree."""
        from rivelt.edit.source import read_script

        return self.read_as("script", path, read_script)

    def csharp(self, path: str) -> CSharp:
        """Return a C# file with its syntax tree."""
        from rivelt.edit.source import read_csharp

        return self.read_as("csharp", path, read_csharp)

    def image(self, path: str) -> ImageFile:
        """Return an image; of one that is planned, only what wants its pixels renders it."""
        content = self._snapshot.content(path)
        if isinstance(content, ImageFile):
            return content
        data = self.read(path)
        return self._kept(("image", data), lambda: ImageFile(data))

    @cached_property
    def _words(self) -> WordIndex:
        if self._base is None:
            return WordIndex(self._sources(path for path in self.paths if path.endswith(SOURCES)), self._split)
        changed = (path for path in sorted(self._changed) if path.endswith(SOURCES) and path in self)
        return WordIndex(self._sources(changed), self._split, self._base._words, self._changed)  # noqa: SLF001

    def _sources(self, paths: Iterable[str]) -> Iterator[tuple[str, bytes]]:
        """Yield the sources that can be read."""
        wanted = list(paths)
        self.fetch(wanted)
        for path in wanted:
            with suppress(RiveltError):
                yield path, self.read(path)

    def _split(self, data: bytes) -> frozenset[bytes]:
        return self._kept(("words", data), lambda: words_of(data))

    def naming(self, name: str) -> Iterable[str]:
        """Yield the sources that hold all the words of a name (in upper or lower case): those in which it can stand at all."""
        return self._words.candidates(name)

    # Keeping

    def source_of(self, path: str, data: bytes) -> Source:
        """Return other content of a source file with its syntax tree."""
        from rivelt.edit.source import read_source

        return self._parsed_as("source", path, data, read_source)

    def parsed_as(self, kind: str, path: str, data: bytes) -> None:
        """Parse what a file is about to become, so that what cannot be read again is never planned; the result is kept.

        Raises:
            BadInput: it cannot be read.
        """
        getattr(self.overlay({path: data}), kind)(path)

    def reread(self, path: str) -> None:
        """Parse a file by the ending of its name, if that says what it is; the result is kept.

        Raises:
            BadInput: it cannot be read.
        """
        kind = max((ending for ending in _KINDS if path.endswith(ending)), key=len, default=None)
        if kind is not None:
            getattr(self, _KINDS[kind])(path)

    def remember(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what `make` gave for a key of this very project: it is called once. An error is remembered too."""
        return _once(self._remembered, key, make)

    def derived(self, kind: str, given: Given, make: Callable[[Given], T]) -> T:
        """Return what `make` gives for a value, such as the text of a media query, or bytes: once for each, for all states of a project.

        `kind`: what it gives.
        """
        return self._kept((kind, given), lambda: make(given))

    def read_as(self, kind: str, path: str, parse: Callable[[bytes, str], T]) -> T:
        """Return a file parsed by a function of its bytes and its path, which is called once for each content; `kind`: what it makes of it."""
        return self._parsed_as(kind, path, self.read(path), parse)

    def _parsed_as(self, kind: str, path: str, data: bytes, parse: Callable[[bytes, str], T]) -> T:
        key = (kind, data) if kind == "xml" else (kind, path, data)
        try:
            return self._kept(key, lambda: parse(data, path))
        except RiveltError as error:
            # Another file may have the same content; its error names that file.
            if error.place is not None and error.place.path != path:
                return parse(data, path)
            raise

    def _kept(self, key: Hashable, make: Callable[[], T]) -> T:
        return self._parsed.once(key, make)


def _once(kept: dict[Hashable, Any], key: Hashable, make: Callable[[], T]) -> T:
    """Return the value kept for a key, or make it; an error is kept as well, and raised again."""
    if key not in kept:
        try:
            kept[key] = (make(), None)
        except RiveltError as problem:
            kept[key] = (None, problem)
    value, error = kept[key]
    if error is not None:
        raise error
    result: T = value
    return result


def remembered(function: Callable[Concatenate[Project, P], T]) -> Callable[Concatenate[Project, P], T]:
    """Work a function of a project out once for each project and arguments; these must be hashable."""

    def once(project: Project, /, *arguments: P.args, **named: P.kwargs) -> T:
        key = (function, arguments, tuple(sorted(named.items())))
        return project.remember(key, lambda: function(project, *arguments, **named))

    update_wrapper(once, function)
    return once
