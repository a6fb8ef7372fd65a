"""What would be done to an app target: catalog, storyboard, Info.plist, and membership of the target."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from rivelt.brief.model import Role
from rivelt.colour import Colour
from rivelt.edit.plist import Plist
from rivelt.edit.xcode import NewMember, XcodeProject
from rivelt.plan.context import PlanContext
from rivelt.plan.model import EditFile, Plan, Plate, WriteFile
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.plates import NAMES, file_name, frames, plates
from rivelt.platforms.ios.site import CATALOG, GROUND, IMPRINT, MARK, STORYBOARD, IosSite
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot, join
from rivelt.templating import Templates
from rivelt.units import Look, Point, Rect, Size, centred

_TEMPLATES = Templates("rivelt.platforms.ios")
_CANVAS = Rect(0, 0, 393, 852)  # the device that the storyboard opens with in Xcode
_SAFE_BOTTOM = 34
_CONTENTS = "Contents.json"


def plan(context: PlanContext, snapshot: Snapshot, site: Site) -> Plan:
    """All that would be done to an app target."""
    assert isinstance(site, IosSite)
    usable = [path for path in site.catalogs if not path.endswith(f"/{CATALOG}") and path != CATALOG]
    catalog = usable[0] if usable else join(site.home, CATALOG)
    made = tuple(Plate(join(catalog, plate.path), plate.look, plate.recipe) for plate in plates(context))
    storyboard = join(site.home, f"{STORYBOARD}.storyboard")
    members = [NewMember(f"{STORYBOARD}.storyboard", "file.storyboard")]
    if not usable:
        members.append(NewMember(CATALOG, "folder.assetcatalog"))
    return Plan(
        "ios",
        site.name,
        plates=made,
        files=tuple(_files(context, catalog, storyboard, own_catalog=not usable)),
        edits=(*_plist_edits(snapshot, site), *_project_edits(snapshot, site, members)),
    )


def _files(context: PlanContext, catalog: str, storyboard: str, *, own_catalog: bool) -> Iterable[WriteFile]:
    for role in frames(context):
        yield WriteFile(
            join(catalog, f"{NAMES[role]}.imageset/{_CONTENTS}"),
            _json(_image_set(context, role)),
            f"image set of the {role}",
        )
    yield WriteFile(
        join(catalog, f"{GROUND}.colorset/{_CONTENTS}"), _json(_colour_set(context)), "the ground as a named colour"
    )
    if own_catalog:
        yield WriteFile(join(catalog, _CONTENTS), _json({}), "asset catalog")
    yield WriteFile(storyboard, _storyboard(context).encode(), "launch storyboard")


def _image_set(context: PlanContext, role: Role) -> dict[str, Any]:
    images = [
        {**_appearances(look), "filename": file_name(role, look, scale), "idiom": "universal", "scale": f"{scale}x"}
        for look in context.looks(role)
        for scale in ios_facts().scales
    ]
    return {"images": images}


def _colour_set(context: PlanContext) -> dict[str, Any]:
    def components(colour: Colour) -> dict[str, str]:
        named = {"blue": colour.blue, "green": colour.green, "red": colour.red}
        return {"alpha": "1.000", **{name: f"0x{channel:02X}" for name, channel in named.items()}}

    grounds = {look: context.brief.looks[look].ground for look in context.brief.shown_looks}
    shown = {look: ground for look, ground in grounds.items() if look == "light" or ground != grounds["light"]}
    return {
        "colors": [
            {
                **_appearances(look),
                "color": {"color-space": "srgb", "components": components(ground)},
                "idiom": "universal",
            }
            for look, ground in shown.items()
        ]
    }


def _appearances(look: Look) -> dict[str, Any]:
    return {} if look == "light" else {"appearances": [{"appearance": "luminosity", "value": "dark"}]}


def _json(contents: dict[str, Any]) -> bytes:
    """`Contents.json` the way Xcode writes it: `"key" : value`, two spaces."""
    whole = {**contents, "info": {"author": "rivelt", "version": 1}}
    return (json.dumps(whole, indent=2, separators=(",", " : ")) + "\n").encode()


def _storyboard(context: PlanContext) -> str:
    sizes = frames(context)
    mark, imprint = sizes["mark"], sizes.get("imprint")
    foot = ios_facts().imprint.foot
    values: dict[str, Any] = {"mark": _whole(mark), "mark_frame": _shown_at(centred(mark, _CANVAS)), "imprint": None}
    if imprint is not None:
        corner = Rect(
            (_CANVAS.width - imprint.width) / 2, _CANVAS.height - _SAFE_BOTTOM - foot - imprint.height, *imprint
        )
        values |= {"imprint": _whole(imprint), "imprint_frame": _shown_at(corner)}
    ground = context.brief.looks["light"].ground
    shares = {name: f"{getattr(ground, name) / 255:.10g}" for name in ("red", "green", "blue")}
    names = {"mark": MARK, "imprint": IMPRINT, "ground": GROUND}
    return _TEMPLATES.render(f"{STORYBOARD}.storyboard.j2", **values, names=names, ground=shares, foot=f"{foot:g}")


def _whole(size: Size) -> dict[str, str]:
    return {"width": f"{size.width:g}", "height": f"{size.height:g}"}


def _shown_at(rect: Rect) -> Point | dict[str, str]:
    """A frame's corner as Interface Builder writes it: with at least one decimal."""
    return {"x": str(float(rect.x)), "y": str(float(rect.y))}


def _plist_edits(snapshot: Snapshot, site: IosSite) -> Iterable[EditFile]:
    for path in site.plists:
        before = snapshot.read(path)
        after = before
        if "UILaunchScreen" in Plist(before, path).values:
            after = Plist(after, path).remove("UILaunchScreen")  # two kinds must never be declared together
        if Plist(after, path).values.get("UILaunchStoryboardName") != STORYBOARD:
            after = Plist(after, path).set_string("UILaunchStoryboardName", STORYBOARD, near="UI")
        if after != before:
            yield EditFile(path, before, after, f"UILaunchStoryboardName is {STORYBOARD}")


def _project_edits(snapshot: Snapshot, site: IosSite, members: list[NewMember]) -> Iterable[EditFile]:
    if site.group is None:  # a synchronised folder includes the new files by itself
        return
    before = after = snapshot.read(site.project_file)
    for member in members:
        if join(site.home, member.path) not in site.members:
            project = XcodeProject(after, site.project_file)
            after = project.add_member(member, group=site.group, phase=site.phase, target_name=site.target_name)
    if after != before:
        names = " and ".join(member.path for member in members)
        yield EditFile(site.project_file, before, after, f"{names} in target {site.target_name}")
