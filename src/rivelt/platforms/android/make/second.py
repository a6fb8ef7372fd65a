"""What becomes of a launch screen of the app's own: replaced by the system's, or the steps for a person with the app's real names."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator, Mapping

from msgspec import Struct, field

from rivelt.edit.splice import indent_at, spliced
from rivelt.edit.xml import parse_xml
from rivelt.patterns import regex
from rivelt.plan.model import ManualStep
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.native.effective import manifest_of, resolved, variants_of_site
from rivelt.platforms.android.native.leftovers import is_named
from rivelt.platforms.android.native.manifest import Component, Manifest, attribute, prefix_of
from rivelt.platforms.android.native.resources import resources_of, split_reference
from rivelt.platforms.android.native.second_screen import SecondScreen
from rivelt.platforms.android.native.variants import MAIN, source_set
from rivelt.platforms.android.site import AndroidSite
from rivelt.platforms.choose import listed
from rivelt.project.project import Project
from rivelt.values import replace

_ROUTE = regex(r'"[^"{$]*"|[A-Za-z_][\w.]*')
_LAYOUT = regex(r"\bR\.layout\.(\w+)")


def second_screen_steps(project: Project, site: AndroidSite, names: Names) -> Iterator[ManualStep]:
    """Yield the steps that leave the system's launch screen as the only one; none for an app that has no other."""
    second = site.source.second if site.source is not None else None
    if second is None:
        return
    if second.kind == "activity":
        yield _begin_with(project, manifest_of(project, site), site, second, names)
        yield _delete(project, site, second)
    else:
        target = second.targets[0] if second.targets else "the destination that it navigates to"
        title = f"{second.name} is a second launch screen, shown {second.duration}: begin with {target}"
        moved = _moved_start(project, site, second)
        path = second.place.path
        change = (
            (f"startDestination = {target}",)
            if isinstance(moved, str)
            else _diff(project.read(path), moved.edits[path])
        )
        lines = (*change, f"and delete composable({second.name}) with what only it uses")
        yield ManualStep(title, second.place.path, lines)


def _begin_with(
    project: Project, manifest: Manifest, site: AndroidSite, second: SecondScreen, names: Names
) -> ManualStep:
    target = f".{second.targets[0]}" if len(second.targets) == 1 else "the activity that it leads to"
    declared = next((one.written_name for one in manifest.activities if one.name.endswith(target)), target)
    theme = f"@style/{names.launch}"
    title = f"{site.activity} is a second launch screen, shown {second.duration}: let the launcher start {declared}"
    lines = _as_diff(project, site, manifest, second, theme) or (
        f"move the <intent-filter> with MAIN and LAUNCHER from {site.activity} to {declared}",
        f'there: android:exported="true" android:theme="{theme}"',
    )
    return ManualStep(title, site.manifest, lines)


def _as_diff(
    project: Project, site: AndroidSite, manifest: Manifest, second: SecondScreen, theme: str
) -> tuple[str, ...]:
    """The step as a diff of the manifest, its old activity still declared; none where it is not clear what moves where."""
    targets = [one for one in manifest.activities if second.targets == (one.name.rpartition(".")[2],)]
    launcher = manifest.launcher
    old = launcher.in_file(site.manifest) if launcher is not None else None
    if len(targets) != 1 or targets[0].in_file(site.manifest) is None or old is None:
        return ()
    if len(old.node.all("intent-filter")) != 1:
        return ()
    before = project.read(site.manifest)
    after = _moved_launcher(project, site, manifest, targets[0], theme)
    return _diff(before, after)


def _diff(before: bytes, after: bytes) -> tuple[str, ...]:
    """What differs between two versions of a file, with a line of what is round it, in the form of `diff -u`."""
    old, new = (data.decode("utf-8", "replace").splitlines() for data in (before, after))
    return tuple(difflib.unified_diff(old, new, n=1, lineterm=""))[2:]


def _delete(project: Project, site: AndroidSite, second: SecondScreen) -> ManualStep:
    title = f"Then delete {second.name}, if nothing else starts it: its <activity>, and these files"
    return ManualStep(title, site.manifest, tuple(_files(project, site)))


def _files(project: Project, site: AndroidSite) -> Iterator[str]:
    """The activity's source, and the layouts that nothing but it names."""
    assert site.source is not None
    resources = resources_of(project, site.all_res)
    for source in site.source.everywhere:
        yield source.path
        for name in dict.fromkeys(_LAYOUT.findall(project.read(source.path).decode("utf-8", "replace"))):
            files = [entry.path for entry in resources.defined("layout", name)]
            if not is_named(project, name, {source.path, *files}):
                yield from files


class Replaced(Struct, frozen=True):
    """A project in which the app begins with what its second launch screen leads to.

    `edits`: what makes it so, by path. `unused`: the person's files that nothing needs any more. `pruned`: files of values without the
    theme that nothing needs any more, by path.
    """

    project: Project
    site: AndroidSite
    edits: Mapping[str, bytes]
    unused: tuple[str, ...]
    pruned: Mapping[str, bytes] = field(default_factory=dict)


def without_second_screen(project: Project, site: AndroidSite) -> Replaced | str:
    """Return the project and the site without the second launch screen; or why that cannot be done safely.

    Raises:
        BadInput: what the app would begin with has no theme that is known.
    """
    second = site.source.second if site.source is not None else None
    assert second is not None
    if second.kind == "composable":
        return _moved_start(project, site, second)
    manifest = manifest_of(project, site)
    why_not = _why_not(project, site, second, manifest)
    if why_not:
        return why_not
    target = next(one for one in manifest.activities if one.name.rpartition(".")[2] == second.targets[0])
    after = _moved_launcher(project, site, manifest, target)
    changed = project.overlay({site.manifest: after})
    variants = variants_of_site(project, site)
    own = source_set(variants, site.source_set, site.module, None)
    sets = (own,) if own.name == MAIN else (own, variants.main)
    there = resolved(changed, site, sets, variants.libraries, target.written_name)
    files = tuple(_files(project, site))
    return Replaced(changed, there, {site.manifest: after}, files, _without_theme(changed, site, manifest, set(files)))


def _without_theme(project: Project, site: AndroidSite, manifest: Manifest, gone: set[str]) -> dict[str, bytes]:
    """The files of values without the old activity's own theme, where nothing else names it; `project`: without that activity."""
    theme = manifest.launcher.value("theme") if manifest.launcher is not None else None
    reference = split_reference(theme or "")
    if reference is None or reference[0] != "style":
        return {}
    name = reference[1]
    entries = [entry for entry in resources_of(project, site.all_res).defined("style", name) if entry.node is not None]
    in_code = re.escape(re.sub(r"[.-]", "_", name))
    named = re.compile(
        rf"""style/{re.escape(name)}\b|parent=["'](?:@style/)?{re.escape(name)}["']|name=["']{re.escape(name)}\.|R\.style\.{in_code}\b""".encode()
    )
    if any(path not in gone and named.search(project.read(path)) for path in project.naming(name.rpartition(".")[2])):
        return {}
    found: dict[str, bytes] = {}
    for entry in entries:
        document = project.xml(entry.path)
        node = next(node for node in document.root.all("style") if node.get("name") == name)
        found[entry.path] = spliced(document.data, [document.remove(node)])
    return found


def _why_not(project: Project, site: AndroidSite, second: SecondScreen, manifest: Manifest) -> str:
    """Why the launcher cannot be moved without asking; "" when it can."""
    assert site.source is not None
    launcher = manifest.launcher
    if second.does_more:
        return f"{second.name} does more than wait: {second.does_more}"
    if len(second.targets) != 1:
        return f"{second.name} leads to {listed(second.targets) or 'what is not known'}"
    named = [one for one in manifest.activities if one.name.rpartition(".")[2] == second.targets[0]]
    if len(named) != 1 or named[0].in_file(site.manifest) is None:
        return f"{second.targets[0]} is not declared in {site.manifest}"
    if launcher is None or launcher.in_file(site.manifest) is None or len(launcher.written) > 1 or manifest.aliases:
        return f"{site.activity} is declared in several places"
    if site.source.twins:
        return f"{second.name} has a source in several source sets"
    if len(list(launcher.children("intent-filter"))) != 1:
        return f"{site.activity} is started in other ways too"
    word = re.compile(rf"\b{re.escape(second.name)}\b".encode())
    others = (path for path in project.naming(second.name) if path not in {site.source.path, site.manifest})
    named_in = next((path for path in others if word.search(project.read(path))), None)
    if named_in is not None or not project.is_all_read:
        return f"{second.name} is named in {named_in or 'a file that cannot be read'}"
    names = {launcher.name, launcher.written_name}
    for node in project.xml(site.manifest).root.walk():
        if node.start != launcher.written[0].node.start and names & set(node.attributes.values()):
            return f"{second.name} is named in another element of {site.manifest}"
    return ""


def _moved_launcher(
    project: Project, site: AndroidSite, manifest: Manifest, target: Component, theme: str | None = None
) -> bytes:
    """The manifest with the launcher's filter in another activity; with a theme for that, the one that had the filter stays without it."""
    document = project.xml(site.manifest)
    launcher = manifest.launcher
    old = launcher.in_file(site.manifest) if launcher is not None else None
    new = target.in_file(site.manifest)
    assert old is not None
    assert new is not None
    intent_filter = old.node.all("intent-filter")[0]
    indent = indent_at(document.data, intent_filter.start).decode()
    lines = dedented(document.data[intent_filter.start : intent_filter.end].decode(), indent)
    prefix = prefix_of(document)
    splices = [document.remove(old.node if theme is None else intent_filter)]
    splices.append(document.set_attribute(new.node, f"{prefix}:exported", "true"))
    if theme is not None:
        splices.append(document.set_attribute(new.node, f"{prefix}:theme", theme))
    once = parse_xml(spliced(document.data, splices), site.manifest)
    name = attribute(new.node, "name")
    there = next(node for node in once.root.walk() if node.local == "activity" and attribute(node, "name") == name)
    return spliced(once.data, [once.append_child(there, lines, once.indent_unit())])


def dedented(text: str, indent: str) -> list[str]:
    """Return the lines of an element, all but the first without the indentation of the first."""
    return [line.removeprefix(indent) for line in text.splitlines()]


def _moved_start(project: Project, site: AndroidSite, second: SecondScreen) -> Replaced | str:
    """The navigation that starts with what the second launch screen leads to."""
    if len(second.targets) != 1 or not _ROUTE.fullmatch(second.targets[0]):
        return f"{second.name} leads to {listed(second.targets) or 'what is not known'}"
    path = second.place.path
    data = project.read(path).decode()
    found = list(re.finditer(rf"(\bstartDestination\s*=\s*){re.escape(second.name)}(?!\w)", data))
    if len(found) != 1:
        return f"{second.name} is the start of several navigations"
    at = found[0]
    after = (data[: at.end(1)] + second.targets[0] + data[at.end() :]).encode()
    changed = project.overlay({path: after})
    return Replaced(
        changed, replace(site, source=replace(site.source, second=None) if site.source else None), {path: after}, ()
    )
