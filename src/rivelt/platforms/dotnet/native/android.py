"""The Android part of a single project as Android's build would see it: with the activity that a C# attribute declares, and what the framework makes."""

from __future__ import annotations

from msgspec import Struct

from rivelt.art.source import read_art
from rivelt.edit.source.csharp import Attribute
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.picture import Art
from rivelt.pixels.planned import PlannedImage
from rivelt.plan.model import Placement, Recipe
from rivelt.platforms import platform
from rivelt.platforms.dotnet.facts import dotnet_facts
from rivelt.platforms.dotnet.native.project import SingleProject, read_single_project
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import Content, join
from rivelt.scene.site import Site
from rivelt.templating import Templates
from rivelt.units import Rect, Size, contain

_TEMPLATES = Templates("rivelt.platforms.dotnet")
_DENSITY = 4  # of the largest bitmaps that the build makes: xxxhdpi
_PARENT = regex(rb'<style\s+name="([^"]+)"\s+parent="([^"]+)"')


class Activity(Struct, frozen=True):
    """The activity that starts the app: where its attribute stands, and the theme that it names."""

    path: str
    attribute: Attribute
    theme: str | None

    @property
    def full_name(self) -> str:
        """The class with its namespace."""
        return ".".join(part for part in (self.attribute.namespace, self.attribute.class_name) if part)


class AndroidPart(Struct, frozen=True):
    """The Android part: the files as Android's build would see them, and the app module in them."""

    project: Project
    site: Site
    activity: Activity


def folder_of(single: SingleProject) -> str:
    """Return the folder of the Android part."""
    return join(single.home, "Platforms", "Android")


def find_activity(project: Project, single: SingleProject) -> Activity | None:
    """Return the activity with `MainLauncher = true`.

    Raises:
        BadInput: there are several.
    """
    found = []
    for path in project.below(folder_of(single)):
        if path.endswith(".cs") and b"MainLauncher" in project.read(path):
            source = project.csharp(path)
            for attribute in source.attributes("Activity"):
                launcher = attribute.arguments.get("MainLauncher")
                if launcher is not None and source.text(launcher) == "true":
                    found.append(Activity(path, attribute, source.string(attribute.arguments.get("Theme"))))
    if len(found) > 1:
        names = ", ".join(one.attribute.class_name for one in found)
        raise BadInput(f"several activities have MainLauncher = true: {names}", place=Place(found[0].path))
    return found[0] if found else None


def framework_theme(project: Project, single: SingleProject, activity: Activity) -> str:
    """Return the theme that the framework made the activity start with: that of the attribute, or what a launch theme there inherits from."""
    theme = (activity.theme or "").removeprefix("@style/")
    for path in project.below(join(folder_of(single), "Resources")):
        if path.endswith(".xml") and "/values" in path:
            for name, above in _PARENT.findall(project.read(path)):
                if name.decode("utf-8", "replace") == theme:
                    return str(above.decode("utf-8", "replace")).removeprefix("@style/")
    return theme or dotnet_facts().launch_theme


@remembered
def android_part(project: Project, path: str) -> AndroidPart | None:
    """Return the Android part of a single project; None where no activity starts it.

    Raises:
        BadInput: it cannot be handled, with the reason.
    """
    single = read_single_project(project, path)
    activity = find_activity(project, single)
    if activity is None:
        return None
    folder = folder_of(single)
    files: dict[str, Content] = {one: project.content(one) for one in project.below(folder)}
    files |= _virtual(project, single, activity, folder)
    seen = Project.of_files(files)
    sites = [site for site in platform("android").survey(seen) if site.path.startswith(f"{folder}/")]
    if not sites:
        raise BadInput("its Android part cannot be read", place=Place(activity.path))
    if sites[0].blocked is not None:
        raise sites[0].blocked
    return AndroidPart(seen, sites[0], activity)


def _virtual(project: Project, single: SingleProject, activity: Activity, folder: str) -> dict[str, Content]:
    """What is in no file of the project: the merged manifest, the levels, and what the framework's build makes of the item."""
    facts = dotnet_facts()
    theme = activity.theme or f"@style/{facts.launch_theme}"
    item = single.item
    picture = item.path.rpartition("/")[2].rpartition(".")[0] if item is not None and item.path else "none"
    values = {
        "activity": activity.full_name,
        "theme": theme,
        "framework": framework_theme(project, single, activity),
        "min_sdk": single.min_sdk,
        "compile_sdk": single.compile_sdk or 0,
        "colour": item.colour.android if item is not None and item.colour is not None else None,
        "picture": picture,
        "facts": facts,
        "application": _application(project, join(folder, "AndroidManifest.xml")),
    }

    def made(name: str) -> bytes:
        return _TEMPLATES.render(name, **values).encode()

    files: dict[str, Content] = {
        join(folder, "AndroidManifest.xml"): made("manifest.xml.j2"),
        join(folder, "build.gradle"): made("build.gradle.j2"),
        join(folder, "Resources/values/framework_of_the_build.xml"): made("framework.xml.j2"),
        join(folder, "Resources/values-v31/framework_of_the_build.xml"): made("framework_v31.xml.j2"),
        join(folder, f"Resources/drawable/{facts.framework_drawable}.xml"): made("window.xml.j2"),
    }
    image = picture_of(project, single)
    if image is not None:
        art, size = image
        canvas = size.pixels(_DENSITY)
        shown = contain(art.size, Size(*canvas))
        box = Rect((canvas.width - shown.width) / 2, (canvas.height - shown.height) / 2, *shown)
        recipe = Recipe(canvas, (Placement(art, box),))
        from rivelt.pixels.render import render

        files[join(folder, f"Resources/drawable-xxxhdpi/{picture}.png")] = PlannedImage(recipe, render)
    return files


def _application(project: Project, path: str) -> dict[str, str]:
    """The icon and the theme of the application."""
    if path not in project:
        return {}
    try:
        application = project.xml(path).root.first("application")
    except RiveltError:
        return {}
    found = application.attributes if application is not None else {}
    wanted = {"icon", "roundIcon", "theme", "label"}
    return {key.rpartition("}")[2]: value for key, value in found.items() if key.rpartition("}")[2] in wanted}


def picture_of(project: Project, single: SingleProject) -> tuple[Art, Size] | None:
    """Return the picture of the item and the size in dp at which it is shown; None when it cannot be read."""
    item = single.item
    if item is None or item.path is None or item.path not in project:
        return None
    try:
        art = read_art(project.read(item.path), item.path.rpartition("/")[2])
    except RiveltError:
        return None
    return art, item.base_size or art.size
