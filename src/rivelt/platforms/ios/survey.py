"""What app targets a project holds, and what each shows at launch today."""

from __future__ import annotations

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.ios.native.declared import declared, declared_kinds, refuse_missing
from rivelt.platforms.ios.native.find import targets_of
from rivelt.platforms.ios.native.generated import descriptions
from rivelt.platforms.ios.native.held import every_held_screen, held, held_screens, shares_screen
from rivelt.platforms.ios.native.leftovers import unused_launch_files
from rivelt.platforms.ios.native.targets import Group, Target, other_apps
from rivelt.platforms.ios.options import IosTable
from rivelt.platforms.ios.reader.scene import scene
from rivelt.platforms.ios.site import PREFIX, Generator, IosSite, Names
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.values import replace

_DEVICES = {"iphone": "iPhone", "ipad": "iPad"}
_SHOWN_KEYS = ("UIStatusBarStyle", "UIStatusBarHidden", "UIViewControllerBasedStatusBarAppearance")


def survey(project: Project, brief: Brief | None = None) -> list[IosSite]:
    """Return the app targets of every Xcode project."""
    options = brief.table("ios", IosTable) if brief else IosTable()
    # The editions of a brief mostly have the same options, which may hold lists.
    return project.remember(("ios survey", repr(options)), lambda: _surveyed(project, options))


def _surveyed(project: Project, options: IosTable) -> list[IosSite]:
    made = [(path, None) for path in project.find("*.xcodeproj/project.pbxproj")]
    return [
        site
        for path, generator in (*made, *descriptions(project))
        for site in _sites(project, path, generator, options)
    ]


def _sites(project: Project, path: str, generator: Generator | None, options: IosTable) -> list[IosSite]:
    try:
        targets = targets_of(project, path)
    except RiveltError as error:
        return [IosSite("ios", parent(path), project_file=path, path=path, blocked=error)]
    return [_site(project, target, generator, options) for target in targets]


def _site(project: Project, target: Target, generator: Generator | None, options: IosTable) -> IosSite:
    path = target.path
    homes = (target.folder,) if target.folder else ()
    file = parent(path) if generator is None else path
    name = f"{file}: {target.name}"
    project_name = file.rpartition("/")[2]
    names = (
        target.name,
        f"{project_name.removesuffix('.xcodeproj')}: {target.name}",
        f"{project_name}: {target.name}",
        name,
    )
    site = IosSite("ios", name, project_file=path, path=path, names=names, target_name=target.name, homes=homes)
    site = replace(site, generator=generator)
    try:
        site = _described(project, target, site, options)
        return replace(
            site,
            shows=lambda: scene(project, site, site.screens[0], "light").title,
            touches=_touched(project, site, options),
        )
    except RiveltError as error:
        return replace(site, blocked=error)


def _described(project: Project, target: Target, site: IosSite, options: IosTable) -> IosSite:
    path = target.path
    declarations = target.declarations()
    if not declarations:
        raise BadInput(
            f"target {target.name} names no Info.plist file",
            place=Place(path),
            hint="Open and save the project in Xcode.",
        )
    for declaration in declarations:
        refuse_missing(declaration, project, target.name, path)
    site = replace(site, declarations=declarations, folder=target.folder)
    lists = [project.plist(plist).values for plist in site.plists]
    members = target.members()
    is_read = not any(one.unread for one in declarations)
    found = declared(project, declarations, path) if is_read else ()
    name = next((one.storyboard for one in found if one.storyboard), None)
    files = {file for one in found for file in one.storyboard_files}
    named = sorted(path for path in members if path.rpartition("/")[2] in files)
    ways = held(declarations, found)
    catalogs = list(target.catalogs)
    own = {Names.safe(options.prefix).catalog, f"{PREFIX}.xcassets"}
    group = _home_group(target, [path for path in catalogs if path.rpartition("/")[2] not in own], named, site.plists)
    phase = target.phase("PBXResourcesBuildPhase")
    if phase is None and not group.is_synchronised:
        hint = "Add one in Xcode: Build Phases, +."
        raise BadInput(f"target {target.name} has no Resources phase", place=Place(path), hint=hint)
    site = replace(
        site,
        storyboard=next((path for path in named if path in project), None),
        catalogs=tuple(path for path in catalogs if any(True for _ in project.below(path))),
        home=group.folder,
        group=None if group.is_synchronised else group.id,
        phase=phase or "",
        other_platforms=target.other_platforms,
        sources=target.phase("PBXSourcesBuildPhase") or "",
        members=members,
        held=ways,
        screens=held_screens(ways),
        every_screen=every_held_screen(ways, is_shared=shares_screen(found)),
        homes=tuple(folder for folder in dict.fromkeys((target.folder, group.folder, *catalogs)) if folder),
    )
    unused = unused_launch_files(project, site, Names.safe(options.prefix))
    shown = {key: str(values[key]) for values in lists for key in _SHOWN_KEYS if key in values}
    facts = {
        "target": target.name,
        "project": f"made from {path}; no Xcode project is in the repository" if site.generator else "",
        "apps for other systems": "" if site.generator else ", ".join(other_apps(project, path)),
        "configurations": ", ".join(found.name for found in declarations),
        "runs on": _runs_on(site),
        "Info.plist": _lists_in_words(site),
        "declares": "\n".join(dict.fromkeys(declared_kinds(project, site.declarations)))
        or ("no launch screen (the app runs letterboxed)" if is_read else f"unknown: what {path} declares is not read"),
        "launch storyboard": ", ".join(named)
        or (f"{name} is named, but is not in the target" if name else "none in the target"),
        "shows": _contents(project, site.storyboard) if site.storyboard else "",
        "status bar": ", ".join(f"{key} {value}" for key, value in shown.items()),
        "asset catalogs": ", ".join(catalogs) or "none",
        "launch screens nothing names": "\n".join(unused),
    }
    return replace(site, facts={key: value for key, value in facts.items() if value})


def _runs_on(site: IosSite) -> str:
    """The oldest systems and the kinds of device, in words."""
    levels = {one.name: one.deployment for one in site.declarations}
    if None in levels.values():
        system = "iOS, from an unknown version on"
    elif len(set(levels.values())) == 1:
        system = f"iOS {next(iter(levels.values()))} and later"
    else:
        system = ", ".join(f"iOS {level} and later ({name})" for name, level in levels.items())
    kinds: dict[str, list[str]] = {}
    for idiom, way in site.held:
        kinds.setdefault(_DEVICES[idiom], []).append(way)
    return "; ".join((system, *(f"{device} in {' and '.join(ways)}" for device, ways in kinds.items())))


def _lists_in_words(site: IosSite) -> str:
    is_generated = any(found.is_generated for found in site.declarations)
    made = "made by Xcode from build settings" if is_generated else ""
    return " and ".join(part for part in (", ".join(site.plists), made) if part)


def _contents(project: Project, path: str) -> str:
    """What is on a launch storyboard, in words."""
    counted: dict[str, int] = {}
    try:
        for node in project.xml(path).root.walk():
            if node.local in {"label", "imageView", "button", "textField", "activityIndicatorView"}:
                counted[node.local] = counted.get(node.local, 0) + 1
    except RiveltError as error:
        return str(error)
    return ", ".join(f"{count} {name}{'s' * (count > 1)}" for name, count in counted.items()) or "a flat colour"


def _home_group(target: Target, catalogs: list[str], storyboards: list[str], plists: tuple[str, ...]) -> Group:
    """The group next to what the app has already: its catalog, its launch storyboard, its Info.plist, else the main group."""
    for folder in target.own_synchronised_folders():
        return Group("", folder, is_synchronised=True)
    for path in (*catalogs, *storyboards, *plists):
        group = target.group_of(path)
        if group is not None and not group.folder.endswith(".lproj"):
            return group
    if not target.groups:
        raise BadInput(f"the project of target {target.name} has no groups", place=Place(target.path))
    return target.groups[0]


def _touched(project: Project, site: IosSite, options: IosTable) -> tuple[str, ...]:
    if site.generator is not None:
        return (*site.plists, *((site.project_file,) if site.generator == "project.yml" else ()))
    storyboard = join(site.home, f"{Names.safe(options.prefix).of('Launch')}.storyboard")
    is_member = storyboard in site.members and storyboard in project
    needs_project = (not is_member and site.group is not None) or any(found.is_generated for found in site.declarations)
    return (*site.plists, *((site.project_file,) if needs_project else ()))
