"""What a module's Gradle build says of its flavours, its build types, and where their sources are.

https://developer.android.com/build/build-variants
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct, field

from rivelt.edit.gradle import Block, GradleFile
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent, upwards
from rivelt.values import replace

_TOKEN = regex(r"""[A-Za-z_]\w*|"([^"\n]*)"|'([^'\n]*)'""")
_NOISE = frozenset(
    [
        "android",
        "getByName",
        "named",
        "create",
        "register",
        "maybeCreate",
        "apply",
        "run",
        "also",
        "let",
        "with",
        "configure",
        "val",
        "by",
        "creating",
        "registering",
        "getting",
        "extensions",
        "the",
        "this",
        "it",
        "project",
    ]
)
_LOOPS = frozenset(
    ["for", "forEach", "each", "if", "else", "when", "while", "repeat", "eachWithIndex", "listOf", "setOf"]
)
_ALL = frozenset(["all", "configureEach"])
_MAKES = regex(rb"\b(?:create|register|maybeCreate)\s*\(\s*(?:([\"'])(\w+)\1)?")
_BY = regex(rb"\bval\s+(\w+)\s+by\s+(?:\w+\s*\.\s*)*(?:creating|registering)\b")
_DIMENSIONS = regex(rb"\bflavorDimensions\b")
_DIMENSION = regex(rb"""\b(?:dimension|setDimension|flavorDimension)\b\s*[=(]?\s*(?:(["'])([^"'$\n]+)\1)?""")
_PLACES = r"\b(?:setSrcDirs|srcDirs?|srcFile|setRoot|root(?=\s*=))\b"
_APPLIED = r"""\bapply\s*\(?\s*from\s*[:=]\s*(?:rootProject\s*\.\s*file\s*\(\s*)?(?P<quote>["'])(?P<path>[^"'\n]+)(?P=quote)|\bapply\s*\(?\s*from\s*[:=]"""
_ROOT = regex(r"\$\{?(?:rootDir|rootProject\.projectDir|rootProject\.rootDir)\}?/?")
_HERE = regex(r"\$\{?(?:projectDir|project\.projectDir)\}?/?")
_BUILD = regex(r"\$\{?(?:buildDir|project\.buildDir|layout\.buildDirectory(?:\.get\(\)(?:\.asFile)?)?)\}?/?")
_SET_NAME = regex(r"\$\{?(?:it\.)?name\}?")
_WRAPPERS = regex(
    r"\b(?:listOf|setOf|mutableSetOf|mutableListOf|arrayOf|files?|project|rootProject|layout|projectDirectory|dir)\b"
)
_ANY = "*"


class Folders(Struct, frozen=True):
    """What a build says of the places of one source set; None where it leaves them as they usually are.

    `root`: the folder that the usual ones are in. `added`: code folders besides the usual ones. `problem`: why they are unknown.
    """

    root: str | None = None
    manifest: str | None = None
    res: tuple[str, ...] | None = None
    added_res: tuple[str, ...] = ()
    code: tuple[str, ...] | None = None
    added: tuple[str, ...] = ()
    problem: RiveltError | None = None
    code_problem: RiveltError | None = None


class Declared(Struct):
    """What a build declares. `flavours`: each with its dimension (None: the only one). `problem`: why that is not all, or not known."""

    flavours: dict[str, str | None] = field(default_factory=dict)
    dimensions: list[str] = field(default_factory=list)
    build_types: dict[str, None] = field(default_factory=lambda: {"debug": None, "release": None})
    folders: dict[str, Folders] = field(default_factory=dict)
    problem: RiveltError | None = None

    def folders_of(self, name: str) -> Folders:
        """Return what the build says of a source set, by its name or for all of them."""
        own, every = self.folders.get(name, Folders()), self.folders.get(_ANY)
        if every is None:
            return own
        added = tuple(_SET_NAME.sub(name, path) for path in every.added)
        res = tuple(_SET_NAME.sub(name, path) for path in every.added_res)
        problem = own.problem or every.problem
        return Folders(
            own.root, own.manifest, own.res, own.added_res + res, own.code, own.added + added, problem,
            own.code_problem or every.code_problem,
        )  # fmt: skip


@remembered
def declared(project: Project, module: str, path: str | None) -> Declared:
    """Return what the build of a module declares.

    Args:
        project: the project.
        module: the module's folder.
        path: its build file; None without one.
    """
    found = Declared()
    if path is None:
        return found
    try:
        file = project.gradle(path)
        files = [file, *_applied(project, module, file, found)]
    except RiveltError as error:
        found.problem = error
        return found
    for one in files:
        _Reader(project, module, one, found).read()
    if not found.flavours and found.problem is None:
        found.problem = _elsewhere(project, file)
    _refuse_loose_flavours(found, file)
    return found


def _refuse_loose_flavours(found: Declared, file: GradleFile) -> None:
    unknown = [name for name, dimension in found.flavours.items() if dimension not in found.dimensions]
    if len(found.dimensions) == 1:
        found.flavours |= {name: found.dimensions[0] for name in unknown if found.flavours[name] is None}
    elif not found.dimensions and len({found.flavours[name] for name in unknown}) <= 1:
        found.dimensions = [next((dimension for dimension in found.flavours.values() if dimension), "")]
        found.flavours = dict.fromkeys(found.flavours, found.dimensions[0])
    lost = [name for name in found.flavours if found.flavours[name] not in found.dimensions]
    if lost and found.problem is None:
        found.problem = BadInput(f"the dimension of flavour {lost[0]} is unknown", place=Place(file.path))
    for name in lost:
        del found.flavours[name]


def _applied(project: Project, module: str, file: GradleFile, found: Declared) -> Iterator[GradleFile]:
    """The scripts that a build file applies."""
    for match in file.find(_APPLIED):
        text = match["path"].decode() if match["path"] else ""
        path = _located(project, module, text, is_from_root=b"rootProject" in match[0]) if text else None
        if path is not None and path in project:
            yield project.gradle(path)
        elif found.problem is None:
            at = Place.at(file.path, file.data, match.start())
            found.problem = BadInput("a script is applied that is not in the project", place=at)


def _elsewhere(project: Project, file: GradleFile) -> RiveltError | None:
    """Why flavours may be declared somewhere else: in a convention plugin, or a script."""
    if b"productFlavors" in file.code:
        return None
    for path in sorted(project.naming("productFlavors")):
        name = path.rpartition("/")[2]
        is_plugin = path.endswith((".kt", ".java", ".groovy", ".gradle", ".gradle.kts")) and not name.startswith(
            "build.gradle"
        )
        if is_plugin and b"productFlavors" in project.read(path):
            return BadInput("the flavours may be declared by a convention plugin, which is not read", place=Place(path))
    return None


def _located(project: Project, module: str, text: str, *, is_from_root: bool = False) -> str | None:
    """A path in a build file, relative to the project; None where it is not known before the build."""
    top = next(
        (
            folder
            for folder in upwards(module)
            if any(join(folder, f"settings.gradle{end}") in project for end in ("", ".kts"))
        ),
        "",
    )
    base = top if is_from_root else module
    for pattern, folder in ((_ROOT, top), (_HERE, module), (_BUILD, join(module, "build"))):
        if found := pattern.match(text):
            base, text = folder, text[found.end() :]
            break
    if "$" in _SET_NAME.sub("", text):
        return None
    path = join(base, text.lstrip("/") if base != module or not text.startswith("/") else text)
    return None if path.startswith(("..", "/")) else path


class _Reader(Struct):
    """One build file, or a script that it applies."""

    project: Project
    module: str
    file: GradleFile
    found: Declared

    def read(self) -> None:
        """Take over what it declares."""
        for match in _DIMENSIONS.finditer(self.file.code):
            self._add_dimensions(match.end())
        for block in self.file.root.walk():
            trail = self._trail(block)
            for section in ("productFlavors", "buildTypes"):
                if section in trail:
                    self._declare(block, section, trail[trail.index(section) + 1 :])
        for match in self.file.find(_PLACES):
            self._place(match.start(), match.end(), match[0].decode())

    def _doubt(self, offset: int, what: str) -> None:
        if self.found.problem is None:
            self.found.problem = BadInput(what, place=Place.at(self.file.path, self.file.data, offset))

    # Flavours and build types

    def _declare(self, block: Block, section: str, rest: list[str]) -> None:
        known = self.found.flavours if section == "productFlavors" else self.found.build_types
        if not rest:
            self._made_by_calls(block, section)
            return
        if _LOOPS & set(rest):
            self._doubt(block.start, f"{section} are made in a loop or under a condition")
            return
        if rest[0] in _ALL or len(rest) != 1:
            return
        if self._is_made_from_variable(block):
            self._doubt(block.start, f"a name in {section} is not a literal")
            return
        if section == "buildTypes":
            known[rest[0]] = None
            return
        body = self.file.data[block.inside : block.closing]
        code = self.file.code[block.inside : block.closing]
        dimension = None
        for match in _DIMENSION.finditer(body):
            if code[match.start() : match.start() + 1].strip():
                dimension = match[2].decode() if match[2] else None
                if dimension is None:
                    self._doubt(block.inside + match.start(), f"the dimension of flavour {rest[0]} is not a literal")
        self.found.flavours[rest[0]] = dimension

    def _made_by_calls(self, block: Block, section: str) -> None:
        """What a section makes without a block of its own: `create("free")`, `val free by creating`."""
        body, code = self.file.data[block.inside : block.closing], self.file.code[block.inside : block.closing]
        for match in _MAKES.finditer(body):
            if not code[match.start() : match.start() + 1].strip():
                continue
            if match[2] is None:
                self._doubt(block.inside + match.start(), f"a name in {section} is not a literal")
            else:
                self._keep(section, match[2].decode())
        for match in _BY.finditer(code):
            self._keep(section, match[1].decode())

    def _keep(self, section: str, name: str) -> None:
        if section == "productFlavors":
            self.found.flavours.setdefault(name, None)
        else:
            self.found.build_types[name] = None

    def _is_made_from_variable(self, block: Block) -> bool:
        head = self.file.data[self._head(block) : block.inside - 1]
        return any(match[2] is None for match in _MAKES.finditer(head))

    def _add_dimensions(self, offset: int) -> None:
        text, code = self._statement(offset)
        names = [first or second for first, second in re.findall(r"""["]([^"\n]+)["]|[']([^'\n]+)[']""", text)]
        left = re.sub(r"""["'][^"'\n]*["']|\b(?:listOf|setOf|addAll|add|mutableListOf)\b|[\s\[\](),.=+<]""", "", text)
        if left or not names:
            self._doubt(offset, "the dimensions of the flavours are not literals")
        if re.match(r"\s*=(?!=)", code):
            self.found.dimensions.clear()
        self.found.dimensions += [name for name in names if name not in self.found.dimensions]

    # Places

    def _place(self, start: int, end: int, word: str) -> None:
        block = self.file.block_at(start)
        trail = self._trail(block) + self._tokens(self._line_start(start), start)
        if "sourceSets" not in trail or "kotlin" in trail[: trail.index("sourceSets")]:
            return
        rest = trail[trail.index("sourceSets") + 1 :]
        loops = set(rest) & (_LOOPS | _ALL)
        name = _ANY if loops else rest[0] if rest else ""
        kinds = [token for token in rest if token in {"manifest", "res", "java", "kotlin"}]
        is_root = word in {"setRoot", "root"}
        if not name or (not kinds and not is_root):
            return
        text, code = self._statement(end)
        paths = self._paths(text)
        old = self.found.folders.get(name, Folders())
        kind = "root" if is_root else kinds[-1]
        if paths is None:
            at = Place.at(self.file.path, self.file.data, start)
            what = {"res": "resource folders", "manifest": "manifest", "root": "root"}.get(kind, "code folders")
            problem = BadInput(f"the {what} of source set {name} are not literals in the build", place=at)
            is_code = kind in {"java", "kotlin"}
            self.found.folders[name] = replace(old, code_problem=problem) if is_code else replace(old, problem=problem)
            return
        is_whole = word == "setSrcDirs" or re.match(r"\s*=(?!=)", code) is not None
        self.found.folders[name] = _placed(old, kind, paths, is_whole=is_whole)

    def _paths(self, text: str) -> tuple[str, ...] | None:
        """The paths of an argument; None where they are not all literals."""
        left = re.sub(r"""["'][^"'\n]*["']""", "", text)
        if re.sub(r"[\s\[\](),=+]", "", _WRAPPERS.sub("", left)).strip("."):
            return None
        is_from_root = "rootProject" in left
        found = [
            _located(self.project, self.module, first or second, is_from_root=is_from_root)
            for first, second in re.findall(r"""["]([^"\n]*)["]|[']([^'\n]*)[']""", text)
        ]
        return None if any(path is None for path in found) else tuple(path for path in found if path is not None)

    # Text

    def _statement(self, offset: int) -> tuple[str, str]:
        """What follows an offset up to the end of the statement, as it is and without comments and the insides of strings."""
        code, depth, at = self.file.code, 0, offset
        while at < len(code):
            letter = code[at : at + 1]
            depth += (letter in b"([") - (letter in b")]")
            if depth < 0 or (depth == 0 and letter in b"\n;}{" and letter):
                before = code[offset:at].rstrip()
                if letter != b"\n" or (before and not before.endswith((b",", b"=", b"+"))):
                    break
            at += 1
        text = bytes(
            plain if blank.to_bytes(1, "big").strip() or inside else 32
            for plain, blank, inside in zip(
                self.file.data[offset:at], code[offset:at], _in_strings(code[offset:at]), strict=True
            )
        )
        return text.decode("utf-8", "replace"), code[offset:at].decode("utf-8", "replace")

    def _line_start(self, offset: int) -> int:
        return max(self.file.code.rfind(mark, 0, offset) for mark in (b"\n", b";", b"{", b"}")) + 1

    def _head(self, block: Block) -> int:
        return self._line_start(block.inside - 1)

    def _trail(self, block: Block) -> list[str]:
        """The words that lead to a block, without those that only say how it is reached."""
        found: list[str] = []
        above: Block | None = block
        while above is not None and above.parent is not None:
            found = self._tokens(self._head(above), above.inside - 1) + found
            above = above.parent
        return found

    def _tokens(self, start: int, end: int) -> list[str]:
        text = self.file.data[start:end].decode("utf-8", "replace")
        code = self.file.code[start:end].decode("utf-8", "replace")
        found = []
        for match in _TOKEN.finditer(text):
            if match.start() < len(code) and code[match.start()].strip():
                word = next((group for group in match.groups() if group is not None), match[0])
                if word not in _NOISE:
                    found.append(word)
        return found


def _in_strings(code: bytes) -> Iterator[bool]:
    """For each byte of blanked code whether it is inside quotes."""
    quote = 0
    for byte in code:
        if byte in b"\"'" and quote in {0, byte}:
            quote = 0 if quote else byte
        yield bool(quote)


def _placed(old: Folders, kind: str, paths: tuple[str, ...], *, is_whole: bool) -> Folders:
    if kind == "root":
        return replace(old, root=paths[0] if paths else old.root)
    if kind == "manifest":
        return replace(old, manifest=paths[0] if paths else old.manifest)
    if kind == "res":
        return replace(old, res=paths, added_res=()) if is_whole else replace(old, added_res=old.added_res + paths)
    return replace(old, code=(old.code or ()) + paths) if is_whole else replace(old, added=old.added + paths)


def library_folders(project: Project, module: str, path: str | None) -> tuple[str, ...]:
    """Return the folders of the library modules of the project that a module depends on, those named first before those they depend on."""
    found: dict[str, None] = {}
    waiting = [(module, path)]
    while waiting:
        _, build = waiting.pop(0)
        if build is None:
            continue
        try:
            file = project.gradle(build)
        except RiveltError:
            continue
        for match in file.find(r"""\bproject\s*\(\s*(?:path\s*[:=]\s*)?["'](:[\w:.-]+)["']"""):
            top = next(
                (
                    f
                    for f in upwards(parent(build))
                    if any(join(f, f"settings.gradle{e}") in project for e in ("", ".kts"))
                ),
                "",
            )
            folder = join(top, match[1].decode().strip(":").replace(":", "/"))
            build_file = next(
                (p for n in ("build.gradle.kts", "build.gradle") if (p := join(folder, n)) in project), None
            )
            if build_file is not None and folder not in found and folder != module:
                found[folder] = None
                waiting.append((folder, build_file))
    return tuple(found)
