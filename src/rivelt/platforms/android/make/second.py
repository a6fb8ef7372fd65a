"""What a person does about a launch screen of the app's own, step by step, with the app's real names."""

from __future__ import annotations

import re
from collections.abc import Iterator

from rivelt.plan.model import ManualStep
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.native.effective import manifest_of
from rivelt.platforms.android.native.leftovers import is_named
from rivelt.platforms.android.native.manifest import Manifest
from rivelt.platforms.android.native.resources import resources_of
from rivelt.platforms.android.native.second_screen import SecondScreen
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project

_LAYOUT = re.compile(r"\bR\.layout\.(\w+)")


def second_screen_steps(project: Project, site: AndroidSite, names: Names) -> Iterator[ManualStep]:
    """Yield the steps that leave the system's launch screen as the only one; none for an app that has no other."""
    second = site.source.second if site.source is not None else None
    if second is None:
        return
    if second.kind == "activity":
        yield _begin_with(manifest_of(project, site), site, second, names)
        yield _delete(project, site, second)
    else:
        target = second.targets[0] if second.targets else "the destination that it navigates to"
        title = f"{second.name} is a second launch screen, shown {second.duration}: begin with {target}"
        lines = (f"startDestination = {target}", f"and delete composable({second.name}) with what only it uses")
        yield ManualStep(title, second.place.path, lines)


def _begin_with(manifest: Manifest, site: AndroidSite, second: SecondScreen, names: Names) -> ManualStep:
    target = f".{second.targets[0]}" if len(second.targets) == 1 else "the activity that it leads to"
    declared = next((one.written_name for one in manifest.activities if one.name.endswith(target)), target)
    theme = f"@style/{names.launch}"
    title = f"{site.activity} is a second launch screen, shown {second.duration}: let the launcher start {declared}"
    lines = (
        f"move the <intent-filter> with MAIN and LAUNCHER from {site.activity} to {declared}",
        f'there: android:exported="true" android:theme="{theme}"',
    )
    return ManualStep(title, site.manifest, lines)


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
