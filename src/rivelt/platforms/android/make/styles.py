"""The launch theme written out: as a style of our own, or into the style that a framework starts with."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct, field

from rivelt.colour import Colour
from rivelt.edit.splice import Splice, spliced
from rivelt.edit.xml import Document, Node
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.launch_theme import Folder, Theme
from rivelt.platforms.android.names import is_generated
from rivelt.platforms.android.native.manifest import TOOLS
from rivelt.platforms.android.native.qualifiers import NIGHT, VERSION
from rivelt.platforms.android.native.resources import Entry, Resources
from rivelt.platforms.android.native.theme import LAUNCH_ITEM, LIBRARY_THEME, POST_LAUNCH, WINDOW_BACKGROUND, device_at
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.templating import Templates
from rivelt.xmltext import escaped, quoted

_TEMPLATES = Templates("rivelt.platforms.android")
_SYSTEM_ITEMS = f"android:{LAUNCH_ITEM}"
_PLAIN = "values"
_OLDER = "Up to Android 11 the launch screen is the window's background."
_NEWER = "From Android 12 the system draws the launch screen itself."


class _Style(Struct, frozen=True):
    """A `<style>` to be generated."""

    name: str
    parent: str | None
    entries: Mapping[str, str]
    comment: str
    targets: Mapping[str, int] = field(default_factory=dict)
    """API levels for `tools:targetApi`, by item."""


def own_styles(theme: Theme, res: str) -> list[WriteFile]:
    """Return the values files with a launch theme of our own."""
    styles = {
        folder.name: _style(theme, folder, theme.names.launch, theme.parent(folder.look), theme.items(folder))
        for folder in theme.folders()
    }
    return list(_values_files(theme, res, styles))


def _style_for_code(theme: Theme) -> _Style | None:
    """The style by which code names a library's theme: only the library's own `R` has a constant for that."""
    if not theme.needs_app_style:
        return None
    comment = "The app's own theme, which comes from a library: the app's R has a constant for it here."
    return _Style(theme.names.app, theme.app_theme.removeprefix("@style/"), {}, comment)


def plain_style(theme: Theme) -> bytes:
    """Return a values file with a launch theme that shows what the system and the library show by themselves."""
    items = {POST_LAUNCH: theme.app_theme}
    style = _Style(theme.names.launch, LIBRARY_THEME, items, "For the variants without a launch screen of their own.")
    return _values(theme, {}, [style]).encode()


def _values(theme: Theme, colours: Mapping[str, Colour], styles: Sequence[_Style]) -> str:
    has_targets = any(style.targets for style in styles)
    prefix = theme.names.prefix
    return _TEMPLATES.render("values.xml.j2", prefix=prefix, colours=colours, styles=styles, has_targets=has_targets)


def _style(theme: Theme, folder: Folder, name: str, inherits: str | None, entries: Mapping[str, str]) -> _Style:
    targets = {item: level for item in entries if (level := theme.target(item, folder)) is not None}
    return _Style(name, inherits, entries, _comment(theme, folder), targets)


def _comment(theme: Theme, folder: Folder) -> str:
    if folder.has_system_screen:
        return _NEWER
    return _OLDER if theme.way == "platform" else "Up to Android 11 the library draws the launch screen."


def _values_files(theme: Theme, res: str, styles: Mapping[str, _Style]) -> Iterator[WriteFile]:
    colours = {folder.name: found for folder, found in theme.colours()}
    for folder in sorted({*colours, *styles}):
        found = [styles[folder]] if folder in styles else []
        if folder == _PLAIN and (for_code := _style_for_code(theme)) is not None:
            found.append(for_code)
        text = _values(theme, colours.get(folder, {}), found)
        holds = " and ".join(
            part for part, is_there in (("colours", folder in colours), ("launch theme", folder in styles)) if is_there
        )
        yield WriteFile(join(res, folder, theme.names.values_file), text.encode(), holds)


def into_style(
    theme: Theme, project: Project, resources: Resources, name: str, res: str
) -> tuple[list[EditFile], list[WriteFile]]:
    """Return the edits that make a person's style the launch theme, and values files for the folders in which it is not defined yet.

    Args:
        theme: what it is to say.
        project: the project.
        resources: the module's resources.
        name: the style.
        res: where new files go; definitions elsewhere are not edited, but defined anew.
    """
    definitions = [
        entry for entry in resources.defined("style", name) if entry.node and not is_generated(project.read(entry.path))
    ]
    edits: dict[str, list[Splice]] = {}
    styles: dict[str, _Style] = {}
    for entry in definitions:
        folder = _folder_of(entry)
        if parent(parent(entry.path)) == res:
            document = project.xml(entry.path)
            node = next(found for found in document.root.all("style") if found.get("name") == name)
            wanted = _completed(theme.items(folder), theme)
            targets = {item: level for item in wanted if (level := theme.target(item, folder)) is not None}
            edits.setdefault(entry.path, []).extend(_spliced_items(document, node, wanted, targets, folder))
        else:
            folder_name = parent(entry.path).rpartition("/")[2]
            styles[folder_name] = _copied(entry, name, theme, folder)
    present = {parent(entry.path).rpartition("/")[2] for entry in definitions}
    for folder in theme.folders():
        if folder.name not in present:
            styles[folder.name] = _copied(_standing_in(definitions, name, folder), name, theme, folder)
    changed = [
        EditFile(path, before, after, f"@style/{name} is the launch theme")
        for path, splices in edits.items()
        if (after := spliced(before := project.read(path), splices)) != before
    ]
    return changed, list(_values_files(theme, res, styles))


def _folder_of(entry: Entry) -> Folder:
    """What the folder of a definition counts for, as far as a launch theme depends on it."""
    is_night = any(kind == NIGHT and value == "night" for kind, value in entry.qualifiers)
    level = next((value for kind, value in entry.qualifiers if kind == VERSION and isinstance(value, int)), 0)
    return Folder("dark" if is_night else "light", level)


def _standing_in(definitions: list[Entry], name: str, folder: Folder) -> Entry:
    """The person's definition that a phone would be given where there is none for exactly this folder."""
    own = Resources({("style", name): definitions})
    level = folder.level or android_facts().levels.system_launch_screen - 1
    best = own.best("style", name, device_at(level, is_night=folder.look == "dark"))
    return best or definitions[0]


def _copied(entry: Entry, name: str, theme: Theme, folder: Folder) -> _Style:
    assert entry.node is not None
    items = {item.get("name") or "": item.text.strip() for item in entry.node.all("item")}
    wanted = _completed(theme.items(folder), theme)
    persons = {key: value for key, value in items.items() if key not in wanted and not key.startswith(_SYSTEM_ITEMS)}
    return _style(theme, folder, name, entry.node.get("parent"), persons | wanted)


def _completed(items: dict[str, str], theme: Theme) -> dict[str, str]:
    """A framework shows the window's background until its own first picture, on new systems too."""
    return {f"android:{WINDOW_BACKGROUND}": f"@drawable/{theme.names.window}"} | items


def _spliced_items(
    document: Document, node: Node, wanted: Mapping[str, str], targets: Mapping[str, int], folder: Folder
) -> Iterator[Splice]:
    present = {item.get("name") or "": item for item in node.all("item")}
    last_kept = None
    for name, item in present.items():
        if folder.has_system_screen and name.startswith(_SYSTEM_ITEMS) and name not in wanted:
            yield document.remove(item)
            continue
        last_kept = item
        if name in wanted and item.text.strip() != wanted[name]:
            yield document.set_content(item, wanted[name])
    tools = document.prefix_of(TOOLS)
    if tools is None and targets.keys() - present.keys():
        tools = "tools"
        yield document.set_attribute(document.root, f"xmlns:{tools}", TOOLS)
    shown = {name: f" {tools}:targetApi={quoted(str(level))}" for name, level in targets.items()}
    missing = [
        f"<item name={quoted(name)}{shown.get(name, '')}>{escaped(value)}</item>"
        for name, value in wanted.items()
        if name not in present
    ]
    if missing and last_kept is not None:
        yield document.insert_after(last_kept, missing)
    elif missing:
        yield document.append_child(node, missing, document.indent_unit())
