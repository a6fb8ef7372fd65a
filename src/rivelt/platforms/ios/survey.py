"""What app targets a project holds, and what each shows at launch today."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from rivelt.brief.model import Brief
from rivelt.edit.plist import Plist, Value
from rivelt.edit.xcode import XcodeProject
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.ios.facts import screens
from rivelt.platforms.ios.reader import scene
from rivelt.platforms.ios.site import CATALOG, STORYBOARD, IosSite
from rivelt.platforms.ios.targets import AppTarget, Group, app_targets
from rivelt.project.snapshot import Snapshot, join, parent


def survey(snapshot: Snapshot, _brief: Brief | None = None) -> list[IosSite]:
    """The app targets of every Xcode project."""
    return [site for path in snapshot.find("*.xcodeproj/project.pbxproj") for site in _sites(snapshot, path)]


def _sites(snapshot: Snapshot, path: str) -> list[IosSite]:
    try:
        targets = app_targets(XcodeProject(snapshot.read(path), path))
    except RiveltError as error:
        return [IosSite("ios", parent(path), project_file=path, blocked=error)]
    return [_site(snapshot, target) for target in targets]


def _site(snapshot: Snapshot, target: AppTarget) -> IosSite:
    path = target.project.path
    site = IosSite("ios", f"{parent(path)}: {target.name}", project_file=path, target_name=target.name)
    try:
        site = _described(snapshot, target, site)
        today = scene(snapshot, site, screens()[0], "light").title
        return replace(site, today=today, touches=_touched(snapshot, site))
    except RiveltError as error:
        return replace(site, blocked=error)


def _described(snapshot: Snapshot, target: AppTarget, site: IosSite) -> IosSite:
    plists = _plists(snapshot, target)
    members = target.members(snapshot)
    values = Plist(snapshot.read(plists[0]), plists[0]).values
    name = _storyboard_name(values)
    named = [path for path in members if name and path.rpartition("/")[2] in {f"{name}.storyboard", f"{name}.xib"}]
    own_catalogs = sorted(path for path in members if path.endswith(".xcassets"))
    catalogs = own_catalogs or sorted({_catalog_of(path) for path in members if ".xcassets/" in path})
    group = _home_group(target, [path for path in catalogs if not path.endswith(CATALOG)], named, plists)
    phase = target.resources_phase
    if phase is None and not group.is_synchronised:
        at = Place(target.project.path)
        raise BadInput(
            f"target {target.name} has no Resources phase", place=at, hint="Add one in Xcode: Build Phases, +."
        )
    facts = {
        "target": target.name,
        "Info.plist": ", ".join(plists),
        "declares": _declaration(values),
        "launch storyboard": ", ".join(sorted(named)) or "none in the target",
        "asset catalogs": ", ".join(catalogs) or "none",
    }
    return replace(
        site,
        facts=facts,
        plists=plists,
        storyboard=next((path for path in sorted(named) if path in snapshot), None),
        catalogs=tuple(path for path in catalogs if any(True for _ in snapshot.below(path))),
        home=group.folder,
        group=None if group.is_synchronised else group.id,
        phase=phase or "",
        members=members,
    )


def _plists(snapshot: Snapshot, target: AppTarget) -> tuple[str, ...]:
    path = target.project.path
    keys = {key for settings in target.configurations for key in settings if key.startswith("INFOPLIST_KEY_UILaunch")}
    if keys:
        hint = "Move the launch screen to Info.plist, or wait for a version that writes build settings."
        raise BadInput(
            f"the launch screen is declared by build settings: {', '.join(sorted(keys))}", place=Place(path), hint=hint
        )
    plists = target.plists()
    if not plists:
        hint = "Give the target an Info.plist file (build setting INFOPLIST_FILE)."
        raise BadInput(f"target {target.name} names no Info.plist file", place=Place(path), hint=hint)
    for plist in plists:
        if plist not in snapshot:
            hint = "Mend the build setting INFOPLIST_FILE."
            raise BadInput(
                f"the Info.plist of target {target.name} is not there: {plist}", place=Place(path), hint=hint
            )
    return plists


def _home_group(target: AppTarget, catalogs: list[str], storyboards: list[str], plists: tuple[str, ...]) -> Group:
    """The group next to what the app has already: its catalog, its launch storyboard, its Info.plist, else the main group."""
    for folder in target.synchronised_folders():
        return Group("", folder, is_synchronised=True)
    for path in (*catalogs, *storyboards, *plists):
        group = target.group_of(path)
        if group is not None and not group.folder.endswith(".lproj"):
            return group
    return target.groups[0]


def _catalog_of(path: str) -> str:
    return path[: path.index(".xcassets/")] + ".xcassets"


def _storyboard_name(values: Mapping[str, Value]) -> str | None:
    name = values.get("UILaunchStoryboardName")
    return name.removesuffix(".storyboard") if isinstance(name, str) else None


def _declaration(values: Mapping[str, Value]) -> str:
    declared = [key for key in ("UILaunchStoryboardName", "UILaunchScreen") if key in values]
    name = _storyboard_name(values)
    return (
        " and ".join(declared) + (f" ({name})" if name else "")
        if declared
        else "no launch screen (the app runs letterboxed)"
    )


def _touched(snapshot: Snapshot, site: IosSite) -> tuple[str, ...]:
    storyboard = join(site.home, f"{STORYBOARD}.storyboard")
    is_member = storyboard in site.members and storyboard in snapshot
    return (*site.plists, *(() if is_member or site.group is None else (site.project_file,)))
