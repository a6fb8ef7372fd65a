"""An app's resources as Android sees them: the best match, styles and references.

Rules: https://developer.android.com/guide/topics/resources/providing-resources
"""

from __future__ import annotations

import re
from collections.abc import Mapping

from msgspec import Struct, field

from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.platforms.android.native.qualifiers import (
    DENSITY,
    Device,
    Qualifier,
    Rank,
    density_of,
    fits,
    parse_qualifiers,
    rank,
)
from rivelt.project.project import Project, remembered

TYPED_FOLDERS = frozenset(
    {"anim", "animator", "color", "drawable", "font", "layout", "mipmap", "raw", "transition", "xml"}
)
MAX_REFERENCES = 50
"""A chain of references or parents longer than this goes in a circle."""


class Entry(Struct, frozen=True):
    """One definition of a resource: a file, or an element in a values file."""

    qualifiers: tuple[Qualifier, ...]
    path: str
    node: Node | None = None

    @property
    def density(self) -> int | None:
        """The dpi its folder is for: None for nodpi and anydpi, 160 when the folder does not say."""
        return density_of(self.qualifiers)

    @property
    def names_density(self) -> bool:
        """Whether its folder names a density."""
        return any(kind == DENSITY for kind, _ in self.qualifiers)

    @property
    def has_any_density(self) -> bool:
        """Whether its folder is `anydpi`, which beats every other density."""
        return any(kind == DENSITY and value == "anydpi" for kind, value in self.qualifiers)


class StyleItems(Struct, frozen=True):
    """The items of a style with those it inherits, the nearest first; and the parent that could not be found, if any."""

    items: Mapping[str, tuple[str, str]]
    missing_parent: str | None


class Resources(Struct, eq=False):
    """The resource table of one `res` folder. `broken`: files that could not be read, with the reason."""

    entries: dict[tuple[str, str], list[Entry]] = field(default_factory=dict)
    broken: list[BadInput] = field(default_factory=list)
    _best: dict[tuple[str, str, Device], Entry | None] = field(default_factory=dict)
    _styles: dict[tuple[str, Device], StyleItems | None] = field(default_factory=dict)
    _ranks: dict[tuple[tuple[Qualifier, ...], Device], Rank] = field(default_factory=dict)

    @classmethod
    def of_folder(cls, project: Project, res: str) -> Resources:
        """Read the table. A file that cannot be read is set aside in `broken`."""
        table = cls()
        parsed: dict[str, tuple[Qualifier, ...] | None] = {}
        for path in project.below(res):
            folder, _, name = path.removeprefix(f"{res}/" if res else "").rpartition("/")
            kind, _, suffix = folder.partition("-")
            if suffix not in parsed:
                parsed[suffix] = project.derived("qualifiers", suffix, parse_qualifiers)
            qualifiers = parsed[suffix]
            if qualifiers is None or "/" in folder:
                continue
            if kind == "values" and name.endswith(".xml"):
                table._add_values(project, path, qualifiers)
            elif kind in TYPED_FOLDERS:
                stem = name.removesuffix(".9.png").partition(".")[0]
                table._add(kind, stem, Entry(qualifiers, path))
        return table

    def _add(self, kind: str, name: str, entry: Entry) -> None:
        self.entries.setdefault((kind, name), []).append(entry)

    def _add_values(self, project: Project, path: str, qualifiers: tuple[Qualifier, ...]) -> None:
        try:
            root = project.xml(path).root
        except BadInput as error:
            self.broken.append(error)
            return
        for node in root.children:
            name = node.get("name")
            kind = node.get("type") if node.local == "item" else node.local
            if name and kind:
                self._add(kind, name, Entry(qualifiers, path, node))

    def defined(self, kind: str, name: str) -> list[Entry]:
        """Return every definition of a resource."""
        return self.entries.get((kind, name), [])

    def best(self, type_: str, name: str, device: Device) -> Entry | None:
        """Return the definition that Android would choose; None when none fits."""
        key = type_, name, device
        if key not in self._best:
            self._best[key] = self._chosen(type_, name, device)
        return self._best[key]

    def _chosen(self, type_: str, name: str, device: Device) -> Entry | None:
        fitting = [entry for entry in self.defined(type_, name) if fits(entry.qualifiers, device)]
        if len(fitting) < 2:
            return fitting[0] if fitting else None
        best: tuple[Rank, Entry] | None = None
        for entry in fitting:
            found = self._rank(entry.qualifiers, device)
            if best is None or found.is_better_than(best[0], device):
                best = (found, entry)
        return best[1] if best else None

    def _rank(self, qualifiers: tuple[Qualifier, ...], device: Device) -> Rank:
        key = qualifiers, device
        if key not in self._ranks:
            self._ranks[key] = rank(qualifiers, device)
        return self._ranks[key]

    def style(self, name: str, device: Device) -> StyleItems | None:
        """Return a style with all it inherits, `name` -> (value, path of its file); None when the app does not define it."""
        key = name, device
        if key not in self._styles:
            self._styles[key] = self._inherited(name, device)
        return self._styles[key]

    def _inherited(self, name: str, device: Device) -> StyleItems | None:
        items: dict[str, tuple[str, str]] = {}
        seen = 0
        wanted: str | None = name
        missing = None
        while wanted:
            entry = self.best("style", wanted, device)
            if entry is None or entry.node is None:
                missing = wanted
                break
            for item in entry.node.all("item"):
                items.setdefault(item.get("name") or "", (item.text.strip(), entry.path))
            wanted = style_parent(entry.node)
            seen += 1
            if seen > MAX_REFERENCES:
                raise BadInput(f"style {name} inherits from itself", hint="Break the circle of parents.")
        return None if missing == name else StyleItems(items, missing)

    def colour(self, value: str, device: Device) -> tuple[Colour, str] | None:
        """Return a colour value or `@color/` reference as a colour and the file it comes from; None when it is unknown."""
        source = ""
        for _ in range(MAX_REFERENCES):
            if value.startswith("#"):
                return _colour_or_none(value, source)
            reference = split_reference(value)
            if reference == ("android:color", "white"):
                return Colour(255, 255, 255), source or value
            if reference == ("android:color", "black"):
                return Colour(0, 0, 0), source or value
            entry = self.best(*reference, device) if reference and reference[0] in {"color", "drawable"} else None
            if entry is None or entry.node is None:
                return None
            value, source = entry.node.text.strip(), entry.path
        return None


@remembered
def resources_of(project: Project, folders: tuple[str, ...]) -> Resources:
    """Return the table of several folders merged as a build does it: of the same resource in the same folder, the first one counts."""
    # How well a folder fits a device depends on nothing else, whatever becomes of the project.
    merged = Resources(_ranks=project.derived("ranks", folders, lambda _: {}))
    for table in (Resources.of_folder(project, res) for res in folders):
        merged.broken += table.broken
        for key, entries in table.entries.items():
            have = {entry.qualifiers for entry in merged.defined(*key)}
            merged.entries.setdefault(key, []).extend(entry for entry in entries if entry.qualifiers not in have)
    return merged


def _colour_or_none(value: str, source: str) -> tuple[Colour, str] | None:
    try:
        return android_colour(value), source
    except ValueError:
        return None


def style_parent(style: Node) -> str | None:
    """Return the name of the style that this one inherits from: its `parent`, else what its name's dots imply.

    A platform style keeps its `android:` prefix, as no app defines it.
    """
    parent = style.get("parent")
    if parent is None:
        return (style.get("name") or "").rpartition(".")[0] or None
    platform = "android:" if "android:" in parent else ""
    return platform + parent.rpartition("/")[2].removeprefix("android:") if parent else None


def split_reference(value: str) -> tuple[str, str] | None:
    """Return `@color/ink` as ("color", "ink"), `@android:color/white` as ("android:color", "white"); None for anything else."""
    found = re.fullmatch(r"@\+?((?:[\w.]+:)?\w+)/([\w.]+)", value.strip())
    return (found[1], found[2]) if found else None


def android_colour(text: str) -> Colour:
    """Return `#RGB`, `#ARGB`, `#RRGGBB` or `#AARRGGBB` as a colour.

    Raises:
        ValueError: none of these.
    """
    digits = text.strip().removeprefix("#")
    if len(digits) in {3, 4}:
        digits = "".join(digit * 2 for digit in digits)
    channels = bytes.fromhex(digits)
    if len(channels) not in {3, 4}:
        raise ValueError(f"{text!r} is not an Android colour")
    alpha, rest = (channels[0], channels[1:]) if len(channels) == 4 else (255, channels)
    return Colour(rest[0], rest[1], rest[2], alpha)
