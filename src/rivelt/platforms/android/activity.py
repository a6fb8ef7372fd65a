"""The launcher activity's source: where it is, and what it does before its `super.onCreate(...)`."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, TypeAlias

from rivelt.edit.code import FirstLines, Source
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.plan.model import EditFile
from rivelt.project.snapshot import Snapshot

Language: TypeAlias = Literal["Kotlin", "Java"]

INSTALL_CALL = "installSplashScreen"
_TESTS = re.compile(r"(?:^|/)src/(?:test|androidTest|testDebug|testRelease|androidTestDebug|\w+Test)/")
_LONGEST_CHAIN = 10
_WAITS = re.compile(
    r"\b(?:postDelayed|Thread\s*\.\s*sleep|SystemClock\s*\.\s*sleep|delay|CountDownTimer|TimerTask|Timer)\b\s*[({]"
)
_MOVES_ON = re.compile(r"\bstartActivity\s*\(")
_MARKED_LINE = re.compile(rb"// rivelt: ")


@dataclass(frozen=True)
class ActivitySource:
    """The file of an activity's class. `chain` are the files of the classes it inherits from, as far as the project has them.

    `twins`: the same class in the source sets of other flavours.
    """

    snapshot: Snapshot
    path: str
    class_name: str
    chain: tuple[str, ...] = ()
    twins: tuple[ActivitySource, ...] = ()

    @property
    def everywhere(self) -> tuple[ActivitySource, ...]:
        """The source and its twins in other source sets."""
        return (self, *self.twins)

    @property
    def language(self) -> Language:
        """The language it is written in."""
        return "Java" if self.path.endswith(".java") else "Kotlin"

    @cached_property
    def problem(self) -> RiveltError | None:
        """Why the file cannot be read as a source, if it cannot."""
        try:
            _source(self.snapshot, self.path)
        except RiveltError as error:
            return error
        return None

    @cached_property
    def source(self) -> Source:
        """The file, parsed."""
        return _source(self.snapshot, self.path)

    @cached_property
    def persons_source(self) -> Source:
        """The file as it is without lines of ours."""
        return type(self.source)(self.source.without_marked(), self.path)

    @cached_property
    def installs_itself(self) -> str | None:
        """The file in which a person calls the compatibility library for this activity: its own, or one it inherits from."""
        if self.problem is not None:
            return None
        if self.persons_source.calls(INSTALL_CALL):
            return self.path
        return next((path for path in self.chain if _source(self.snapshot, path).calls(INSTALL_CALL)), None)

    @property
    def has_our_lines(self) -> bool:
        """Whether lines of ours are in it."""
        return _MARKED_LINE.search(self.snapshot.read(self.path)) is not None

    def sets_theme(self) -> bool:
        """Whether a person lets it set its theme in code."""
        return bool(self.persons_source.calls("setTheme"))

    @cached_property
    def only_waits(self) -> bool:
        """Whether it does nothing but wait and start another activity: a launch screen of its own, shown after the system's."""
        text = self.snapshot.read(self.path).decode("utf-8", "replace")
        return bool(_WAITS.search(text) and _MOVES_ON.search(text) and re.search(r"\bfinish\s*\(", text))

    def with_first_lines(self, first: FirstLines | None, summary: str) -> list[EditFile]:
        """The edit that puts lines before `super.onCreate(...)`, or (None) takes ours away; none when nothing changes.

        Raises:
            BadInput: the source is not understood.
        """
        before = self.snapshot.read(self.path)
        if first is None:
            after = self._tidied()
        else:
            data = before if first.imports else self._tidied()
            after = type(self.source)(data, self.path).with_first_lines(self.class_name, first, self._visibility)
        return [] if after == before else [EditFile(self.path, before, after, summary)]

    def _tidied(self) -> bytes:
        source = self.persons_source
        if not self.has_our_lines or source.calls(INSTALL_CALL):
            return source.data
        line = re.compile(
            rb"(?m)^import androidx\.core\.splashscreen\.SplashScreen(?:\.Companion\.installSplashScreen)?;?[ \t]*\r?\n"
        )
        return line.sub(b"", source.data)

    @property
    def _visibility(self) -> str:
        """How a superclass in the project declares `onCreate`: Java does not let it become less visible."""
        for path in self.chain:
            if re.search(
                rb"\bpublic\s+(?:final\s+)?void\s+onCreate\s*\(\s*(?:@\w+\s+)?(?:final\s+)?Bundle\b",
                self.snapshot.read(path),
            ):
                return "public"
        return "protected"


def find_activity(snapshot: Snapshot, module: str, package: str, name: str) -> ActivitySource | None:
    """The source of an activity's class, in the module first, then anywhere in the project; None when it is not there.

    Args:
        snapshot: the project.
        module: the module's folder.
        package: what a name that begins with a dot is relative to; "" when it is not known.
        name: the class as the manifest writes it.
    """
    full = package + name if name.startswith(".") else name if "." in name else f"{package}.{name}"
    wanted, _, simple = full.rpartition(".")
    found = [
        ActivitySource(snapshot, path, simple, tuple(_chain(snapshot, module, path, simple)))
        for path in _files_of(snapshot, module, wanted, simple)
    ]
    return replace(found[0], twins=tuple(found[1:])) if found else None


def _files_of(snapshot: Snapshot, module: str, package: str, simple: str) -> list[str]:
    """The files that hold a class: one, or one in each of several source sets."""
    class_of_name = re.compile(rf"\bclass\s+{re.escape(simple)}\b".encode())
    for folder in dict.fromkeys((module, "")):
        paths = [path for path in snapshot.below(folder) if path.endswith((".kt", ".java")) and not _TESTS.search(path)]
        paths.sort(
            key=lambda path: (
                not path.rpartition("/")[2].startswith(f"{simple}."),
                not path.startswith(f"{folder}/src/main/"),
            )
        )
        found = [path for path in paths if class_of_name.search(snapshot.read(path))]
        exact = [path for path in found if _package(snapshot.read(path)) == package]
        if exact or (found and folder == module and not package):
            return exact or found[:1]
    return []


def _package(data: bytes) -> str:
    found = re.search(rb"(?m)^\s*package\s+([\w.`]+)", data)
    return found[1].decode().replace("`", "") if found else ""


def _chain(snapshot: Snapshot, module: str, path: str, simple: str) -> Iterator[str]:
    for _ in range(_LONGEST_CHAIN):
        try:
            source = _source(snapshot, path)
        except RiveltError:
            return
        declaration = source.declaration(simple)
        parent = source.superclass(declaration) if declaration else None
        if parent is None:
            return
        imported = next(
            (source.imported(node) for node in source.imports if source.imported(node).endswith(f".{parent}")), None
        )
        package = imported.rpartition(".")[0] if imported else source.package
        if imported and imported.startswith(("androidx.", "android.")):
            return
        above = next(iter(_files_of(snapshot, module, package, parent)), path)
        if above == path:
            return
        path, simple = above, parent
        yield path


def _source(snapshot: Snapshot, path: str) -> Source:
    data = snapshot.read(path)
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise BadInput("the source is not UTF-8 text", place=Place(path, line), hint="Save it as UTF-8.") from error
    if path.endswith(".java"):
        from rivelt.edit.java import JavaSource

        return JavaSource(data, path)
    from rivelt.edit.kotlin import KotlinSource

    return KotlinSource(data, path)
