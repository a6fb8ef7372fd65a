"""What an iPhone or iPad shows at launch, worked out from the native files alone."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from rivelt.colour import Colour
from rivelt.edit.plist import Value
from rivelt.errors import RiveltError
from rivelt.platforms.ios.facts import idiom_of, ios_facts
from rivelt.platforms.ios.native.colours import system_colour
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.native.find import target_of
from rivelt.platforms.ios.native.targets import Target
from rivelt.platforms.ios.reader.content import Resources
from rivelt.platforms.ios.reader.storyboard import read_storyboard
from rivelt.platforms.ios.site import Declaration, IosSite
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Look, Rect, centred
from rivelt.values import replace

_BARS = {"UINavigationBar": "a navigation bar", "UITabBar": "a tab bar", "UIToolbar": "a toolbar"}


def scene(project: Project, site: IosSite, screen: Screen, look: Look) -> Scene:
    """Return what `screen` shows in `look` while the site's app target starts."""
    try:
        target = target_of(project, site.project_file, site.target_name)
        if target is None:
            return Scene.unknown(screen, look, f"target {site.target_name} is not in {site.project_file}")
        wanted = {found.name for found in site.declarations}
        declarations = [found for found in target.declarations() if not wanted or found.name in wanted]
        return _of_target(project, target, declarations, screen, look)
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))


def waiting(project: Project, site: IosSite, screen: Screen, look: Look) -> Scene | None:
    """Return what the storyboard of the app's own first moment shows; None where there is none."""
    path = next(
        (path for path in sorted(site.members) if path.endswith("Waiting.storyboard") and path in project), None
    )
    if path is None:
        return None
    try:
        resources = Resources(project, site.catalogs, site.members, screen, look)
        return read_storyboard(project.xml(path), resources, is_running=True)
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))


def _of_target(
    project: Project, target: Target, declarations: Sequence[Declaration], screen: Screen, look: Look
) -> Scene:
    """What a target shows in the first of some configurations, which all show the same."""
    if not declarations:
        return Scene.unknown(screen, look, f"target {target.name} has no build configurations")
    first = declared(project, declarations[:1], target.path)[0].on(idiom_of(screen))
    # An app that always has one look has it at launch too; before iOS 13 there is no other than the light one.
    shown = "light" if screen.version < ios_facts().levels.dark else first.look or look
    members = target.members()
    resources = Resources(project, target.catalogs, members, screen, shown)
    name, dictionary, source = first.storyboard, first.dictionary, first.place.path
    if name is not None and dictionary is not None:
        reason = f"two kinds of launch screen are declared in {source}: {name} and UILaunchScreen"
        return Scene.unknown(screen, look, reason)
    if name is None and dictionary is not None:
        return replace(_of_dictionary(dictionary, resources, source), look=look)
    if name is None:
        black = Fill(screen.frame, Colour(0, 0, 0), source)
        return Scene(screen, look, (black,), "no launch screen: the app runs letterboxed")
    if name.endswith((".storyboard", ".xib")):
        return Scene.unknown(screen, look, f"{name} is named in {source} with its extension, so that it is not found")
    files = first.storyboard_files
    path = next((path for path in sorted(members) if path.rpartition("/")[2] in files and path in project), None)
    if path is None:
        reason = f"{name}.storyboard is named by {source}, but is not in target {target.name}"
        return Scene.unknown(screen, look, reason)
    return replace(read_storyboard(project.xml(path), resources), look=look)


def _of_dictionary(dictionary: Mapping[str, Value], resources: Resources, source: str) -> Scene:
    """The `UILaunchScreen` dictionary: a colour, an image at its own size in the middle, and bars."""
    screen, look = resources.screen, resources.look
    frame = screen.frame
    layers: list[Layer] = []
    colour_name, image_name = dictionary.get("UIColorName"), dictionary.get("UIImageName")
    if isinstance(colour_name, str) and colour_name:
        found = resources.colour(colour_name)
        reason = f"colour {colour_name} is in no asset catalog of the target"
        layers.append(Fill(frame, *found) if found else Unknown(frame, reason))
    else:
        background = system_colour("systemBackgroundColor", look, screen.version)
        assert background is not None
        layers.append(Fill(frame, background, source))
    if isinstance(image_name, str) and image_name:
        layers.append(_image(image_name, dictionary, resources))
    layers += _bars(dictionary, screen)
    return Scene(screen, look, tuple(layers), "UILaunchScreen dictionary")


def _image(name: str, dictionary: Mapping[str, Value], resources: Resources) -> Layer:
    screen = resources.screen
    found = resources.image(name)
    if isinstance(found, str):
        return Unknown(screen.frame, found)
    image, size = found
    area = screen.safe_area if dictionary.get("UIImageRespectsSafeAreaInsets") is True else screen.frame
    rect = centred(size, area)
    if image.is_pdf or image.is_template:
        what = "a PDF, which is not drawn" if image.is_pdf else "a template image, whose tint is not documented here"
        return Unknown(rect, f"{image.path} is {what}")
    return Picture(rect, resources.project.image(image.path), image.path, clip=screen.frame)


def _bars(dictionary: Mapping[str, Value], screen: Screen) -> Iterator[Layer]:
    """The bars that a dictionary asks for: where they are is known, what the system draws there is not."""
    heights, area = ios_facts().bars, screen.safe_area
    for key, name in _BARS.items():
        if key not in dictionary:
            continue
        height = heights.navigation if key == "UINavigationBar" else heights.tab
        top = Rect(0, 0, screen.width, area.y + height)
        foot = Rect(0, area.bottom - height, screen.width, screen.height - area.bottom + height)
        yield Unknown(top if key == "UINavigationBar" else foot, f"{name}, which is not drawn")
