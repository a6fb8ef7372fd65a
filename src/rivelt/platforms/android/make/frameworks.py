"""What an app needs whose activity is a framework's class: the framework's own means, and steps where only a person can act."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from rivelt.brief.model import Brief
from rivelt.edit.splice import spliced
from rivelt.errors import BadInput, Place
from rivelt.plan.model import EditFile, ManualStep
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.code import theme_call
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.native.frameworks import Framework, regenerated
from rivelt.platforms.android.native.manifest import attribute, full_name, prefix_of
from rivelt.platforms.android.native.resources import resources_of, split_reference
from rivelt.platforms.android.native.theme import WINDOW_BACKGROUND, device_at, theme_items
from rivelt.platforms.android.native.variants import MAIN
from rivelt.platforms.android.site import AndroidSite, Way
from rivelt.project.project import Project

_BACKGROUNDS = ("setBackgroundColor", "setBackgroundDrawable", "setBackgroundDrawableResource", "setBackgroundResource")
_OWN_CLASS = "LaunchActivity"


def refuse_waiting(framework: Framework | None, place: Place | None) -> None:
    """Refuse a layout for the first moment in an activity that sets its view itself.

    Raises:
        BadInput: with what would happen.
    """
    if framework is not None and framework.has_own_view:
        message = (
            f"`android.waiting` would remove the app's view: {framework.name}'s activity sets its content view itself"
        )
        raise BadInput(
            message,
            place=place,
            hint="Leave it out; hold the launch screen, or give the app's first screen the same ground.",
        )


def with_meta(project: Project, site: AndroidSite, edit: EditFile, wanted: Mapping[str, str]) -> EditFile:
    """Return the edit of the manifest with `<meta-data>` of the launcher activity that its framework asks for: name -> resource."""
    document = project.overlay({edit.path: edit.after}).xml(edit.path)
    package = site.build.namespace or "" if site.build else ""
    activity = full_name(site.activity, package)
    node = next(
        node
        for node in document.root.walk()
        if node.local == "activity" and full_name(attribute(node, "name") or "", package) == activity
    )
    present = {attribute(meta, "name") for meta in node.all("meta-data")}
    prefix = prefix_of(document)
    lines = [
        f'<meta-data {prefix}:name="{name}" {prefix}:resource="{resource}" />'
        for name, resource in wanted.items()
        if name not in present
    ]
    if not lines:
        return edit
    after = spliced(document.data, [document.append_child(node, lines, document.indent_unit())])
    framework = site.framework.name if site.framework is not None else ""
    return EditFile(
        edit.path, edit.before, after, f"{edit.summary}, and {framework} is informed", is_shared=edit.is_shared
    )


def is_switched_by_meta(site: AndroidSite, way: Way) -> bool:
    """Return whether the framework's activity switches the theme by itself, as soon as a `<meta-data>` names it."""
    is_named = site.launch_style is None and site.source_set == MAIN
    return way == "platform" and site.framework is not None and bool(site.framework.theme_meta) and is_named


def is_of_library(site: AndroidSite) -> bool:
    """Return whether the launcher's class is a library's, so that nobody can edit it: a framework's, or of another package."""
    if site.source is not None:
        return False
    if site.framework is not None:
        return True
    namespace = site.build.namespace if site.build else None
    return namespace is not None and not full_name(site.activity, namespace).startswith(f"{namespace}.")


def subclass_step(project: Project, site: AndroidSite, theme: str) -> ManualStep:
    """Return the step that gives an app with a library's activity a class of its own that leaves the launch theme."""
    namespace = (site.build.namespace if site.build else None) or "your.package"
    call = theme_call(project, None, theme, namespace)
    title = f"{site.activity} is a class of a library: let the launcher start a class of the app's own, {_OWN_CLASS}.java, in its place"
    lines = (
        f"package {namespace};",
        "",
        f"public class {_OWN_CLASS} extends {site.activity} {{",
        "    @Override",
        "    public void onCreate(android.os.Bundle savedInstanceState) {",
        f"        {call};",
        "        super.onCreate(savedInstanceState);",
        "    }",
        "}",
        "",
        f'and in {site.manifest}: android:name=".{_OWN_CLASS}" in place of android:name="{site.activity}"',
    )
    return ManualStep(title, None, lines)


def generated_steps(
    project: Project, site: AndroidSite, brief: Brief, names: Names, paths: Iterable[str]
) -> Iterator[ManualStep]:
    """Yield what to write into the file that survives when a framework's tool regenerates a native folder."""
    found = regenerated(project, site.module, site.framework)
    if found is None:
        return
    folder, kept, framework = found
    mine = sorted(path for path in paths if path.startswith(f"{folder}/"))
    title = (
        f"{folder} is regenerated by the framework's tool, which discards what Rivelt writes there: put this in {kept}"
    )
    if framework.lines:
        ground = brief.looks["light"].ground.hex
        lines: tuple[str, ...] = tuple(line.replace("{ground}", ground) for line in framework.lines)
    elif kept.endswith(".xml"):
        activity = site.activity.rpartition(".")[2]
        lines = (
            '<platform name="android">',
            f'    <edit-config file="AndroidManifest.xml" mode="merge" target="/manifest/application/activity[@android:name=\'{activity}\']">',
            f'        <activity android:theme="@style/{names.launch}" />',
            "    </edit-config>",
            *(f'    <resource-file src="{path}" target="{path.removeprefix(f"{folder}/")}" />' for path in mine),
            "</platform>",
        )
    else:
        res = f"{folder}/app/src/main/"
        lines = tuple(f"{path} -> {kept}/{path.removeprefix(res)}" for path in mine)
    yield ManualStep(title, kept, lines)


def gap_steps(project: Project, site: AndroidSite, brief: Brief, names: Names) -> Iterator[ManualStep]:
    """Yield what closes the gap until a framework draws its first picture: the window of the app's theme is seen until then."""
    reference = split_reference(site.app_theme)
    if site.framework is None or not site.framework.has_own_view or reference is None or reference[0] != "style":
        return
    yield from _set_in_code(project, site, names)
    resources = resources_of(project, site.all_res)
    level = android_facts().levels.system_launch_screen
    for look in brief.shown_looks:
        device = device_at(level, is_night=look == "dark")
        item = theme_items(resources, site.app_theme, device, site.versions).items.get(f"android:{WINDOW_BACKGROUND}")
        colour = resources.colour(item[0], device) if item is not None else None
        if colour is not None and colour[0] == brief.looks[look].ground:
            continue
        shown = colour[0].hex if colour is not None else "a ground that is not known"
        title = (
            f"Until {site.framework.name} draws its first picture, people see the window of {site.app_theme}: {shown} ({look}). "
            "Give it the ground of the launch screen"
        )
        own = resources.best("style", reference[1], device)
        path = own.path if own is not None else None
        yield ManualStep(title, path, (f'<item name="android:{WINDOW_BACKGROUND}">@color/{names.ground}</item>',))
        return


def _set_in_code(project: Project, site: AndroidSite, names: Names) -> Iterator[ManualStep]:
    """Yield findings on a background that the activity gives its window or its root view in code, over that of the theme."""
    source = site.source
    if source is None or source.problem is not None or site.framework is None:
        return
    for path, _ in source.classes:
        parsed = project.source(path)
        for call in _BACKGROUNDS:
            for node in parsed.calls(call):
                place = Place.at(path, parsed.data, node.start_byte)
                title = f"{place} sets a background in code, which is seen until {site.framework.name} draws: give it the ground of the launch screen"
                yield ManualStep(title, path, (f"R.color.{names.ground}",))
                return
