"""The launcher activity's source: where it is, what it inherits from, and what it does when it begins."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from msgspec import Struct

from rivelt.edit.source.language import Source
from rivelt.errors import Place, RiveltError
from rivelt.patterns import regex
from rivelt.platforms.android.native.second_composable import second_composable
from rivelt.platforms.android.native.second_screen import SecondScreen, second_activity
from rivelt.project.project import Project, remembered
from rivelt.values import replace

INSTALL_CALL = "installSplashScreen"
_SOURCE_SETS = regex(r"(?:^|/)src/(\w+)(?=/)")
_TESTS = regex(r"(?:test|androidTest)(?:$|[A-Z])|\w+Test$")
_KNOWN_BASES = frozenset(
    {"Activity", "AppCompatActivity", "ComponentActivity", "FragmentActivity", "ListActivity", "NativeActivity"}
)
"""Classes of Android and AndroidX, none of which installs a launch screen, as a file may name them that imports whole packages."""
_LONGEST_CHAIN = 10
_ENDINGS = (".kt", ".java")
_STYLE = regex(rb"\s*\(\s*(?:[\w.]+\.)?(?<!android\.)R\.style\.(\w+)\s*\)")


class ClassFile(NamedTuple):
    """A class by its simple name, and the file that declares it."""

    path: str
    name: str


class ActivitySource(Struct, frozen=True):
    """The file of an activity's class. `chain`: the classes it inherits from with their files, as far as the project has them.

    `language`: its name for people. `twins`: the same class in the source sets of other flavours. `problem`: why it cannot be read as a
    source. `installs_itself`: the file in which a person calls the compatibility library for this activity: its own, or one it inherits
    from. `sets_theme`: whether a person lets it set its theme in code, and `theme_set` the style, as a constant of `R`, where that is one
    and the same in every call. `second`: the launch screen of the app's own that
    it is, or begins with, after the system's, and `second_problem` why that is unknown. `base`: the first class of the chain that the
    project has not, with its package where that is known.
    """

    path: str
    class_name: str
    language: str
    chain: tuple[ClassFile, ...] = ()
    twins: tuple[ActivitySource, ...] = ()
    problem: RiveltError | None = None
    installs_itself: str | None = None
    sets_theme: bool = False
    theme_set: str | None = None
    second: SecondScreen | None = None
    second_problem: RiveltError | None = None
    base: str = ""

    @property
    def classes(self) -> tuple[ClassFile, ...]:
        """The activity's class and those that it inherits from."""
        return (ClassFile(self.path, self.class_name), *self.chain)

    @property
    def everywhere(self) -> tuple[ActivitySource, ...]:
        """The source and its twins in other source sets."""
        return (self, *self.twins)


@remembered
def find_activity(project: Project, module: str, package: str, name: str) -> ActivitySource | None:
    """Return the source of an activity's class, in the module first, then anywhere in the project; None when it is not there.

    Args:
        project: the project.
        module: the module's folder.
        package: what a name that begins with a dot is relative to; "" when it is not known.
        name: the class as the manifest writes it.
    """
    full = package + name if name.startswith(".") else name if "." in name else f"{package}.{name}"
    wanted, _, simple = full.rpartition(".")
    found = [_described(project, module, path, simple) for path in _files_of(project, module, wanted, simple)]
    return replace(found[0], twins=tuple(found[1:])) if found else None


def _described(project: Project, module: str, path: str, simple: str) -> ActivitySource:
    language = "Java" if path.endswith(".java") else "Kotlin"
    chain = tuple(_chain(project, module, path, simple))
    plain = ActivitySource(path, simple, language, chain, base=_base(project, (ClassFile(path, simple), *chain)[-1]))
    try:
        source = persons_source(project, path)
        installing = _installing(project, source, chain)
    except RiveltError as error:
        return replace(plain, problem=error)
    described = replace(
        plain,
        language=source.name,
        installs_itself=installing,
        sets_theme=bool(source.calls("setTheme")),
        theme_set=_theme_set(source),
    )
    try:
        return replace(described, second=_second(project, module, plain))
    except RiveltError as error:
        return replace(described, second_problem=error)


def _base(project: Project, last: ClassFile) -> str:
    """What the last class of a chain inherits from, by its full name where its file says that; "" when that is not known."""
    try:
        source = project.source(last.path)
    except RiveltError:
        return ""
    declaration = source.declaration(last.name)
    parent = source.superclass(declaration) if declaration is not None else None
    if declaration is None or parent is None:
        return ""
    written = re.search(
        rf"([\w.]+\.)?{re.escape(parent)}\b", source.text(declaration).partition("{")[0].partition(last.name)[2]
    )
    if written is not None and written[1]:
        return f"{written[1]}{parent}"
    return next((name for name in source.imported if name.endswith(f".{parent}")), parent)


def _second(project: Project, module: str, activity: ActivitySource) -> SecondScreen | None:
    """The launch screen of the app's own that an activity is, or shows as the first of its composables."""
    classes = [(project.source(path), name) for path, name in activity.classes]
    found = second_activity(classes, heading(project, activity))
    if found is not None or all(b"setContent" not in source.data for source, _ in classes):
        return found
    return second_composable(project, sorted(path for path in project.below(module) if path.endswith(".kt")))


def _theme_set(source: Source) -> str | None:
    """The constant of the one style that all calls of `setTheme` are given; None where they differ, or are given anything else."""
    given = [_STYLE.match(source.data, call.end_byte) for call in source.calls("setTheme")]
    names = {found[1].decode() if found is not None else None for found in given}
    return next(iter(names)) if len(names) == 1 else None


def _installing(project: Project, source: Source, chain: tuple[ClassFile, ...]) -> str | None:
    if source.calls(INSTALL_CALL):
        return source.path
    return next((path for path, _ in chain if project.source(path).calls(INSTALL_CALL)), None)


def persons_source(project: Project, path: str) -> Source:
    """Return a source as it is without the lines that Rivelt inserted.

    Raises:
        BadInput: it cannot be read as a source.
    """
    source = project.source(path)
    return project.source_of(path, source.without_marked()) if source.is_marked else source


def heading(project: Project, source: ActivitySource) -> Place:
    """Return where an activity begins its work: its `onCreate`, or else the class."""
    parsed = project.source(source.path)
    return Place.at(source.path, parsed.data, parsed.heading(source.class_name))


def is_whole(source: ActivitySource) -> bool:
    """Return whether all classes that an activity inherits from are known: the project's, and those of Android and AndroidX."""
    return source.base in _KNOWN_BASES or source.base.startswith(("android.", "androidx."))


def installs(project: Project, source: ActivitySource) -> bool:
    """Return whether an activity, or a class it inherits from, makes the library's call.

    Raises:
        BadInput: a source cannot be read.
    """
    if project.source(source.path).calls(INSTALL_CALL):
        return True
    return any(INSTALL_CALL.encode() in project.read(path) for path, _ in source.chain)


def _files_of(project: Project, module: str, package: str, simple: str) -> list[str]:
    """The files that hold a class: one, or one in each of several source sets."""
    class_of_name = re.compile(rf"\bclass\s+{re.escape(simple)}\b".encode())
    for folder in dict.fromkeys((module, "")):
        paths = [path for path in project.below(folder) if path.endswith(_ENDINGS) and not _is_for_tests(path)]
        paths.sort(
            key=lambda path: (
                not path.rpartition("/")[2].startswith(f"{simple}."),
                not path.startswith(f"{folder}/src/main/"),
            )
        )
        found = [path for path in paths if class_of_name.search(project.read(path))]
        exact = [path for path in found if _package(project.read(path)) == package]
        if exact or (found and folder == module and not package):
            return exact or found[:1]
    return []


def _is_for_tests(path: str) -> bool:
    """Whether a source is in a source set of tests; folders above the module's own `src` say nothing of that."""
    names = _SOURCE_SETS.findall(path)
    return bool(names) and _TESTS.match(names[-1]) is not None


def _package(data: bytes) -> str:
    found = re.search(rb"(?m)^\s*package\s+([\w.`]+)", data)
    return found[1].decode().replace("`", "") if found else ""


def _chain(project: Project, module: str, path: str, simple: str) -> Iterator[ClassFile]:
    for _ in range(_LONGEST_CHAIN):
        try:
            source = project.source(path)
        except RiveltError:
            return
        declaration = source.declaration(simple)
        parent = source.superclass(declaration) if declaration else None
        if parent is None:
            return
        imported = next((name for name in source.imported if name.endswith(f".{parent}")), None)
        package = imported.rpartition(".")[0] if imported else source.package
        if imported and imported.startswith(("androidx.", "android.")):
            return
        above = next(iter(_files_of(project, module, package, parent)), path)
        if above == path:
            return
        path, simple = above, parent
        yield ClassFile(path, simple)
