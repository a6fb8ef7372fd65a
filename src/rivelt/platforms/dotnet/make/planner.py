"""What would be done to a single project: its item, its picture, and the resources of its Android part."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
from msgspec import Struct

from rivelt.edit.splice import Splice, spliced
from rivelt.edit.xml import Document
from rivelt.errors import BadInput
from rivelt.layout.context import PlanContext
from rivelt.plan.model import EditFile, Plan, WriteFile
from rivelt.platforms import platform
from rivelt.platforms.dotnet.facts import dotnet_facts
from rivelt.platforms.dotnet.make.picture import picture, picture_size
from rivelt.platforms.dotnet.native.android import AndroidPart, android_part, framework_theme
from rivelt.platforms.dotnet.native.project import SingleProject, read_single_project
from rivelt.platforms.dotnet.site import DotnetSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.values import replace
from rivelt.xmltext import quoted

_THEME = "android:theme="
_TITLES = {"android": "Android", "ios": "iOS", "windows": "Windows"}


def plan(context: PlanContext, project: Project, site: DotnetSite) -> Plan:
    """Return all that would be done to a single project.

    Raises:
        BadInput: the brief has no mark, or the project cannot be edited.
    """
    return _Planner(context, project, site).plan()


class _Planner(Struct, dict=True):
    """One single project."""

    context: PlanContext
    project: Project
    site: DotnetSite

    def plan(self) -> Plan:
        """Return the whole plan."""
        if not self.context.has("mark"):
            hint = "Give [light] a mark, or leave dotnet out of app.targets."
            message = "a single project cannot do without a mark: its item must name a picture"
            raise BadInput(message, place=self.context.brief.place("light.ground"), hint=hint)
        single = read_single_project(self.project, self.site.project_file)
        made = picture(self.context, self._folder(single))
        before, after = single.document.data, spliced(single.document.data, self._item(single, made.path))
        edits = [EditFile(single.path, before, after, "the item that the launch screens are made from")]
        planned = Plan(
            "dotnet",
            self.site.name,
            plates=(made,) if not isinstance(made, WriteFile) else (),
            files=(made,) if isinstance(made, WriteFile) else (),
            edits=tuple(edit for edit in edits if edit.before != edit.after),
            notes=tuple(self._notes()),
            unused=self._unused(single, made.path),
        )
        part = android_part(self.project, self.site.project_file) if "android" in self.site.feeds else None
        return self._with_android(planned, single, part) if part is not None else planned

    def _folder(self, single: SingleProject) -> str:
        """Where the picture goes: beside that of before."""
        item = single.item
        if item is not None and item.path is not None and "/" in item.path:
            return parent(item.path)
        return join(single.home, *dotnet_facts().folder.split("/"))

    # The item

    def _item(self, single: SingleProject, path: str) -> list[Splice]:
        document, item = single.document, single.item
        size = picture_size(self.context)
        written = path.removeprefix(f"{single.home}/") if single.home else path
        separator = "/" if item is not None and "/" in item.written and "\\" not in item.written else "\\"
        ground = self.context.brief.looks["light"].ground
        values = {
            "Include": written.replace("/", separator),
            "Color": ground.hex,
            "BaseSize": f"{size.width:g},{size.height:g}",
        }
        if item is None:
            return [self._added(document, values)]
        kept = {"Color": item.colour == ground, "BaseSize": item.base_size == size}
        return [
            document.set_attribute(item.node, name, value)
            for name, value in values.items()
            if item.node.get(name) != value and not kept.get(name, False)
        ]

    def _added(self, document: Document, values: dict[str, str]) -> Splice:
        shown = " ".join(f"{name}={quoted(value)}" for name, value in values.items())
        line = f"<{dotnet_facts().item} {shown} />"
        beside = next((node for node in document.root.walk() if node.local == "MauiIcon"), None)
        if beside is not None:
            return document.insert_after(beside, [line])
        unit = document.indent_unit().decode()
        lines = ["<ItemGroup>", f"{unit}{line}", "</ItemGroup>"]
        return document.append_child(document.root, lines, document.indent_unit())

    def _unused(self, single: SingleProject, path: str) -> tuple[str, ...]:
        item = single.item
        if item is None or item.path is None or item.path == path or item.path not in self.project:
            return ()
        name = item.path.rpartition("/")[2]
        naming = set(self.project.naming(name)) - {single.path}
        return () if any(name.encode() in self.project.read(one) for one in naming) else (item.path,)

    # Android

    def _with_android(self, planned: Plan, single: SingleProject, part: AndroidPart) -> Plan:
        """With the launch theme of the Android part, which has the dark look, the imprint and the backdrop too."""
        theme = f"@style/{framework_theme(self.project, single, part.activity)}"
        brief = self.context.brief
        given = brief.options.get("android") or platform("android").options()
        table = msgspec.structs.replace(given, way="platform", app_theme=theme)
        context = replace(self.context, brief=replace(brief, options={**brief.options, "android": table}))
        (site,) = (one for one in platform("android").survey(part.project, context.brief) if one.path == part.site.path)
        if site.blocked is not None:
            raise site.blocked
        android = platform("android").plan(context.for_target("android"), part.project, site)
        resources = join(parent(part.site.path), "Resources/")
        edits = [edit for edit in android.edits if edit.path.startswith(resources)]
        launch = next((name for edit in android.edits if (name := _theme_in(edit)) is not None), part.activity.theme)
        return replace(
            planned,
            plates=(*planned.plates, *android.plates),
            files=(*planned.files, *android.files),
            edits=(*planned.edits, *edits, *self._activity(part, launch)),
            notes=(*planned.notes, *(f"Android: {note}" for note in android.notes if not note.startswith(site.name))),
            unused=(*planned.unused, *(path for path in android.unused if path in self.project)),
        )

    def _activity(self, part: AndroidPart, launch: str | None) -> Iterator[EditFile]:
        """The activity's attribute, with the launch theme."""
        activity = part.activity
        if launch is None or activity.theme == launch:
            return
        source = self.project.csharp(activity.path)
        after = spliced(source.data, [source.with_argument(activity.attribute, "Theme", launch)])
        yield EditFile(activity.path, source.data, after, f"{activity.attribute.class_name} starts with {launch}")

    # What is reported

    def _notes(self) -> Iterator[str]:
        brief = self.context.brief
        others = [_TITLES[target] for target in self.site.feeds if target != "android"]
        lost = []
        if len(brief.shown_looks) > 1:
            lost.append("the dark look")
        lost += [
            name
            for name, is_there in (
                ("the imprint", self.context.has("imprint")),
                ("the backdrop", bool(self.context.backdrops)),
                ("the disc", brief.looks["light"].disc),
            )
            if is_there
        ]
        if others and lost:
            yield f"{' and '.join(others)} cannot show {', '.join(lost)}: the item of {self.site.project_file} has one picture on one colour"
        if "windows" in self.site.feeds:
            yield "the package manifest stays as it is: the build puts the picture where its placeholder stands"


def _theme_in(edit: EditFile) -> str | None:
    """The theme that an edit of a manifest gives its activity."""
    text = edit.after.decode("utf-8", "replace")
    if not edit.path.endswith("AndroidManifest.xml") or _THEME not in text:
        return None
    return text[text.index("<activity") :].partition(f'{_THEME}"')[2].partition('"')[0] or None
