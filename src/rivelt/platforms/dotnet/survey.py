"""What .NET single projects a project holds, and what each shows at launch today."""

from __future__ import annotations

from rivelt.brief.model import Brief
from rivelt.errors import RiveltError
from rivelt.platforms import platform
from rivelt.platforms.dotnet.native.android import find_activity, folder_of
from rivelt.platforms.dotnet.native.project import SingleProject, is_single, read_single_project, single_projects
from rivelt.platforms.dotnet.reader.scene import today
from rivelt.platforms.dotnet.site import DotnetSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.scene.model import Screen
from rivelt.values import replace

_TITLES = {"android": "Android", "ios": "iOS", "windows": "Windows"}


def survey(project: Project, _brief: Brief | None = None) -> list[DotnetSite]:
    """Return the single projects that feed a platform with launch screens."""
    found = [_site(project, path) for path in single_projects(project)]
    return [site for site in found if site is not None]


def _site(project: Project, path: str) -> DotnetSite | None:
    home = path.rpartition("/")[0]
    names = (path, path.rpartition("/")[2].removesuffix(".csproj"), home or ".")
    site = DotnetSite("dotnet", path, project_file=path, path=path, names=names, homes=(home,) if home else ())
    try:
        if not is_single(project, path):
            return None
        single = read_single_project(project, path)
        if not single.feeds:
            return None
        site = replace(
            site, feeds=single.feeds, screens=_screens(single, is_all=False), every_screen=_screens(single, is_all=True)
        )
        activity = find_activity(project, single)
        touches = (path, *((activity.path,) if activity is not None else ()))
        return replace(
            site, shows=lambda: today(project, site, site.screens), facts=_facts(project, single), touches=touches
        )
    except RiveltError as error:
        return replace(site, blocked=error)


def _screens(single: SingleProject, *, is_all: bool) -> tuple[Screen, ...]:
    found = [platform(target) for target in single.feeds]
    return tuple(screen for one in found for screen in (one.every_screen() if is_all else one.screens()))


def _facts(project: Project, single: SingleProject) -> dict[str, str]:
    item = single.item
    activity = find_activity(project, single)
    size = item.base_size if item is not None else None
    manifest = join(single.home, "Platforms", "Windows", "Package.appxmanifest")
    has_placeholder = manifest in project and b"$placeholder$" in project.read(manifest)
    theme = (activity.theme or "none") if activity is not None else ""
    facts = {
        "feeds": ", ".join(_TITLES[target] for target in single.feeds),
        "picture": item.written if item is not None else "none: the build makes no launch screen",
        "colour": (item.node.get("Color") or "none") if item is not None else "",
        "base size": (f"{size.width:g} x {size.height:g} dp" if size else "that of the picture")
        if item is not None
        else "",
        "Android activity": f"{activity.full_name} ({activity.path}), theme {theme}"
        if activity is not None
        else "none has MainLauncher = true",
        "Android resources": join(folder_of(single), "Resources"),
        "Windows manifest": f"{manifest}: a placeholder, which the build fills in" if has_placeholder else "",
    }
    return {key: value for key, value in facts.items() if value}
