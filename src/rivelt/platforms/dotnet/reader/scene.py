"""What each system shows of a single project, worked out from its files alone."""

from __future__ import annotations

from rivelt.errors import RiveltError
from rivelt.platforms import platform
from rivelt.platforms.dotnet.native.android import android_part, picture_of
from rivelt.platforms.dotnet.native.project import SingleProject, read_single_project
from rivelt.platforms.dotnet.site import DotnetSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Look, Rect, Size, centred, contain

_MADE = "UILaunchStoryboardName"
_WINDOWS_IMAGE = Size(620, 300)


def scene(project: Project, site: DotnetSite, screen: Screen, look: Look) -> Scene:
    """Return what a screen of one of the systems shows while the app starts."""
    try:
        if screen.target == "android":
            return _android(project, site, screen, look)
        single = read_single_project(project, site.project_file)
        return _of_item(project, single, screen, look)
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))


def _android(project: Project, site: DotnetSite, screen: Screen, look: Look) -> Scene:
    part = android_part(project, site.project_file)
    if part is None:
        return Scene.unknown(screen, look, "no activity has MainLauncher = true")
    shown: Scene = platform("android").scene(part.project, part.site, screen, look)
    return shown


def _of_item(project: Project, single: SingleProject, screen: Screen, look: Look) -> Scene:
    """The item's picture at its base size in the middle of its colour, in both looks."""
    item = single.item
    if item is None:
        return Scene.unknown(screen, look, f"{single.path} has no item for the launch screens")
    if screen.target == "ios":
        own = _own_storyboard(project, single)
        if own is not None:
            return Scene.unknown(screen, look, f"Info.plist names {own}, which is not the build's own")
    colour = item.colour
    ground: Layer = (
        Fill(screen.frame, colour, single.path)
        if colour is not None
        else Unknown(screen.frame, f"the item's colour {item.node.get('Color') or '(none)'} is not known")
    )
    title = f"the item {item.written}"
    found = picture_of(project, single)
    if found is None or item.path is None:
        return Scene(
            screen, look, (ground, Unknown(screen.safe_area, f"the picture {item.written} cannot be read")), title
        )
    art, size = found
    if screen.target == "windows":
        box = centred(_WINDOWS_IMAGE, screen.frame)
        reason = "how large the build draws the picture in the launch image is not documented"
        return Scene(screen, look, (ground, Unknown(box, reason)), title)
    if item.node.get("TintColor"):
        return Scene(screen, look, (ground, Unknown(centred(size, screen.frame), "the picture is tinted")), title)
    box = centred(size, screen.frame)
    shown = centred(contain(art.size, size), box)
    return Scene(screen, look, (ground, Picture(Rect(*shown), project.image(item.path), item.path)), title)


def _own_storyboard(project: Project, single: SingleProject) -> str | None:
    """The launch storyboard that the app's own Info.plist names, where it names one."""
    path = join(single.home, "Platforms", "iOS", "Info.plist")
    if path not in project:
        return None
    name = project.plist(path).values.get(_MADE)
    return name if isinstance(name, str) and name else None


def today(project: Project, site: DotnetSite, screens: tuple[Screen, ...]) -> str:
    """Return what the first screen of each system shows, in words."""
    shown = {screen.target: scene(project, site, screen, "light").title for screen in reversed(screens)}
    return "; ".join(f"{target}: {title}" for target, title in reversed(shown.items()))
