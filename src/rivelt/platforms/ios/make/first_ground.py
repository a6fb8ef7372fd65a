"""The ground of the app's first screen, made that of the launch screen where the brief asks for it."""

from __future__ import annotations

import re

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at, spliced
from rivelt.edit.xml import Document
from rivelt.layout.context import PlanContext
from rivelt.plan.model import EditFile
from rivelt.platforms.ios.facts import design_screen
from rivelt.platforms.ios.make.ground import GroundForm
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.native.first_screen import Written, first_screen
from rivelt.platforms.ios.native.targets import Target
from rivelt.platforms.ios.native.written import written_colour
from rivelt.platforms.ios.site import IosSite
from rivelt.project.project import Project


class FirstGround(Struct, frozen=True):
    """What becomes of the first screen: the edit, and what has to be said."""

    edits: tuple[EditFile, ...] = ()
    notes: tuple[str, ...] = ()


def first_ground(
    project: Project, site: IosSite, target: Target, context: PlanContext, ground: GroundForm, prefix: str
) -> FirstGround:
    """Return the edit that gives the first screen the ground of the launch screen; none where it has it, or it is unknown.

    Args:
        project: the project.
        site: the target as a site.
        target: the target.
        context: the brief, for its grounds.
        ground: how the launch screen shows its ground.
        prefix: what generated names begin with: a colour of an earlier apply is followed by that of this one.
    """
    (values,) = declared(project, site.declarations[:1], site.project_file)
    found = first_screen(project, target.members(), target.members("Sources"), values)
    written = found.written
    if written is None:
        return FirstGround(notes=(f"the ground of the {found.moment} stays as it is: {found.reason}",))
    screen, looks = design_screen(), context.brief.shown_looks
    grounds = [context.brief.looks[look].ground for look in looks]
    if [written_colour(project, site.catalogs, written, screen, look) for look in looks] == grounds:
        return FirstGround()
    is_ours = re.search(rf"\b{re.escape(prefix)}Ground(?:-[0-9a-f]{{8}})?\b", written.text) is not None
    is_known = written_colour(project, site.catalogs, written, screen, "light") is not None
    if not is_ours and not is_known:
        note = f"the ground of the {found.moment} stays as it is: {written.place} is not a colour that is read"
        return FirstGround(notes=(note,))
    before = project.read(written.path)
    after = spliced(before, _splices(project, written, ground, grounds[0]))
    kind = "xml" if written.syntax == "storyboard" else "apple_source"
    project.parsed_as(kind, written.path, after)  # a change that could not be read again must never leave this module
    summary = f"the {found.moment} has the ground of the launch screen"
    return FirstGround((EditFile(written.path, before, after, summary),) if after != before else ())


def _splices(project: Project, written: Written, ground: GroundForm, light: Colour) -> list[Splice]:
    name = ground.name if ground.is_named else None
    red, green, blue = (f"{channel / 255:.6g}" for channel in light[:3])
    if written.syntax == "storyboard":
        values = f'red="{red}" green="{green}" blue="{blue}" alpha="1" colorSpace="custom" customColorSpace="sRGB"'
        text = f'<color key="backgroundColor" {f"name={chr(34)}{name}{chr(34)}" if name else values}/>'
        more = _resource(project.xml(written.path), name, values) if name else []
        return [Splice(written.start, written.end, text.encode()), *more]
    texts = {
        "uikit": (f'UIColor(named: "{name}")', f"UIColor(red: {red}, green: {green}, blue: {blue}, alpha: 1)"),
        "objective-c": (
            f'[UIColor colorNamed:@"{name}"]',
            f"[UIColor colorWithRed:{red} green:{green} blue:{blue} alpha:1]",
        ),
        "swiftui": (f'Color("{name}")', f"Color(red: {red}, green: {green}, blue: {blue})"),
    }
    by_name, by_value = texts[written.syntax]
    return [Splice(written.start, written.end, (by_name if name else by_value).encode())]


def _resource(document: Document, name: str, values: str) -> list[Splice]:
    """The named colour among the resources at the end of a storyboard, which Interface Builder keeps of each."""
    root, data = document.root, document.data
    resources = root.first("resources")
    known = [one.get("name") for one in resources.all("namedColor")] if resources is not None else []
    if name in known:
        return []
    newline = newline_at(data, root.start).decode()
    lines = [f'<namedColor name="{name}">', f"    <color {values}/>", "</namedColor>"]
    if resources is not None and resources.closing < resources.end:
        at = resources.closing
        outer = indent_at(data, at).decode() if begins_line(data, at) else ""
        text = "".join(f"    {line}{newline}{outer}" for line in lines)
        return [Splice(at, at, text.encode())]
    at = root.closing
    block = ["    <resources>", *(f"        {line}" for line in lines), "    </resources>"]
    return [Splice(at, at, "".join(f"{line}{newline}" for line in block).encode())]
