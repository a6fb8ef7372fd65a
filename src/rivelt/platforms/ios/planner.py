"""What would be done to an app target: catalog, storyboard, Info.plist or build settings, and membership of the target."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from rivelt.edit.xcode import NewMember, XcodeProject
from rivelt.errors import BadInput
from rivelt.plan.context import PlanContext
from rivelt.plan.model import EditFile, HandStep, Plan, Plate, WriteFile
from rivelt.plan.names import ASSET, renamed
from rivelt.platforms.ios.contents import colour_set, image_set, plain_contents
from rivelt.platforms.ios.declare import ProjectEdit, declare
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.leftovers import unused_launch_files
from rivelt.platforms.ios.options import Options
from rivelt.platforms.ios.plates import ImageSet, image_sets, options_of
from rivelt.platforms.ios.site import IosSite, Names
from rivelt.platforms.ios.storyboard import storyboard, swift_view
from rivelt.platforms.ios.targets import AppTarget, app_targets
from rivelt.platforms.ios.vectors import vector_mark
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot, join

_CONTENTS = "Contents.json"
_STORYBOARD_TYPE, _CATALOG_TYPE, _SWIFT_TYPE = "file.storyboard", "folder.assetcatalog", "sourcecode.swift"


def plan(context: PlanContext, snapshot: Snapshot, site: Site) -> Plan:
    """All that would be done to an app target.

    Raises:
        BadInput: the brief asks for what the art or the target does not allow.
    """
    assert isinstance(site, IosSite)
    return _Planner(context, snapshot, site).plan()


@dataclass
class _Planner:
    """One app target."""

    context: PlanContext
    snapshot: Snapshot
    site: IosSite

    def __post_init__(self) -> None:
        self.options: Options = options_of(self.context)
        plain = Names.safe(self.options.prefix)
        self.names = replace(plain, suffix=f"-{self._fingerprint(plain)}") if self.options.fresh_names else plain
        self.sets = image_sets(self.context, self.options, self.names)
        own = {plain.catalog, Names().catalog}
        usable = [path for path in self.site.catalogs if path.rpartition("/")[2] not in own]
        self.has_own_catalog = not usable
        self.catalog = usable[0] if usable else join(self.site.home, plain.catalog)

    def _fingerprint(self, plain: Names) -> str:
        """Eight hex digits of all that the screen shows."""
        sets = image_sets(self.context, self.options, plain)
        parts = [image.recipe.digest for found in sets for image in found.images]
        parts += [shown.ground.hex for shown in self.context.brief.looks.values()]
        parts.append(storyboard(self.context, self.options, plain, sets, waiting=False))
        parts.append(self.options.mark_form)
        return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:8]

    def plan(self) -> Plan:
        """The whole plan."""
        self._refuse_other_platforms()
        vector = vector_mark(self.context, self.sets, self.catalog) if self.options.mark_form == "vector" else None
        plates = [
            plate for found in self.sets if vector is None or found.part != "Mark" for plate in self._plates(found)
        ]
        declared = declare(self.snapshot, self.site, self.context.brief, self.options, self.names)
        members, screens = self._screens()
        files = (*self._contents(is_vector=vector is not None), *(vector or ()), *screens, *declared.files)
        project = self._project(members, declared.project)
        made = Plan(
            "ios",
            self.site.name,
            plates=tuple(plates),
            files=tuple(files),
            edits=(*declared.edits, *project),
            hand_steps=tuple(self._hand_steps()),
            notes=(*declared.notes, *self._notes()),
        )
        return self._with_unused(made)

    def _refuse_other_platforms(self) -> None:
        makes_storyboard = self.options.screen == "storyboard" or self.options.waiting is True
        if self.site.other_platforms and makes_storyboard:
            others = ", ".join(self.site.other_platforms)
            hint = 'Use screen = "plist" under [ios]: the UILaunchScreen dictionary; and waiting = "swiftui".'
            message = (
                f"target {self.site.target_name} is also built for {others}, where an iOS storyboard does not compile"
            )
            raise BadInput(message, place=self.context.brief.place("ios.screen"), hint=hint)

    def _plates(self, found: ImageSet) -> Iterator[Plate]:
        for image in found.images:
            yield Plate(join(self.catalog, f"{found.name}.imageset", image.file), image.look, image.recipe)

    def _contents(self, *, is_vector: bool) -> Iterator[WriteFile]:
        for found in self.sets:
            if not (is_vector and found.part == "Mark"):
                path = join(self.catalog, f"{found.name}.imageset", _CONTENTS)
                yield WriteFile(path, image_set(found), f"image set of the {found.part.lower()}")
        path = join(self.catalog, f"{self.names.of('Ground')}.colorset", _CONTENTS)
        yield WriteFile(path, colour_set(self.context), "the ground as a named colour")
        if self.has_own_catalog:
            yield WriteFile(join(self.catalog, _CONTENTS), plain_contents(), "asset catalog")

    def _screens(self) -> tuple[list[NewMember], list[WriteFile]]:
        """The storyboards (and the SwiftUI view), and all that must be a member of the target."""
        members = [NewMember(self.names.catalog, _CATALOG_TYPE)] if self.has_own_catalog else []
        files: list[WriteFile] = []

        def add(name: str, text: str, kind: str, summary: str, phase: str = "Resources") -> None:
            members.append(NewMember(name, kind, phase))
            files.append(WriteFile(join(self.site.home, name), text.encode(), summary))

        arguments = (self.context, self.options, self.names, self.sets)
        if self.options.screen == "storyboard":
            text = storyboard(*arguments, waiting=False)
            add(f"{self.names.of('Launch')}.storyboard", text, _STORYBOARD_TYPE, "launch storyboard")
        if self.options.waiting == "swiftui":
            if self.site.group is not None and not self.site.sources:
                at, hint = self.context.brief.place("ios.waiting"), "Use waiting = true under [ios]: a storyboard."
                raise BadInput(f"target {self.site.target_name} compiles no sources", place=at, hint=hint)
            add(f"{self.names.waiting}.swift", swift_view(*arguments), _SWIFT_TYPE, "the app's first moment", "Sources")
        elif self.options.waiting:
            text = storyboard(*arguments, waiting=True)
            add(f"{self.names.waiting}.storyboard", text, _STORYBOARD_TYPE, "the app's first moment")
        return members, files

    # The project file

    def _project(self, members: list[NewMember], changes: tuple[ProjectEdit, ...]) -> list[EditFile]:
        path = self.site.project_file
        before = after = self.snapshot.read(path)
        for change in changes:
            after = change(XcodeProject(after, path))
        if self.site.group is not None:  # a synchronised folder includes new files by itself
            after = self._without_old(after, {join(self.site.home, member.path) for member in members})
            for member in members:
                after = self._with_member(after, member)
        if after == before:
            return []
        names = " and ".join(member.path for member in members)
        return [EditFile(path, before, after, f"{names} in target {self.site.target_name}")]

    def _with_member(self, data: bytes, member: NewMember) -> bytes:
        path = join(self.site.home, member.path)
        target = self._target(data)
        phase = self.site.sources if member.phase == "Sources" else self.site.phase
        if path in target.members(self.snapshot, member.phase):
            return data
        assert self.site.group is not None
        known = target.reference_of(path)
        return target.project.add_member(
            member, group=self.site.group, phase=phase, target_name=self.site.target_name, reference=known
        )

    def _without_old(self, data: bytes, wanted: set[str]) -> bytes:
        """The project file without screens of ours that are no longer made: other names, or another kind."""
        ours = re.compile(
            rf"(?:^|/)(?:{self.names.prefix}Launch(?:-[0-9a-f]{{8}})?\.storyboard|{self.names.waiting}\.(?:storyboard|swift))$"
        )
        for path in sorted(self.context.generated):
            if (
                ours.search(path)
                and path not in wanted
                and path.startswith(f"{self.site.home}/" if self.site.home else "")
            ):
                reference = self._target(data).reference_of(path)
                if reference is not None:
                    data = self._target(data).project.without_file(reference)
        return data

    def _target(self, data: bytes) -> AppTarget:
        project = XcodeProject(data, self.site.project_file)
        return next(found for found in app_targets(project, self.snapshot) if found.name == self.site.target_name)

    # What is said

    def _hand_steps(self) -> Iterator[HandStep]:
        if self.options.waiting == "swiftui":
            yield HandStep("Show it as the app's first view while it loads", None, (f"{self.names.waiting}()",))
        elif self.options.waiting:
            line = f'UIStoryboard(name: "{self.names.waiting}", bundle: nil).instantiateInitialViewController()'
            yield HandStep("Show it as the window's first view controller while the app loads", None, (line,))

    def _notes(self) -> Iterator[str]:
        if note := renamed(self.options.prefix, ASSET, "ios.prefix"):
            yield note
        lost = [
            part
            for part, is_there in (("imprint", self.context.has("imprint")), ("backdrop", bool(self.context.backdrops)))
            if is_there
        ]
        if self.options.screen == "plist" and lost:
            yield f"{self.site.target_name}: UILaunchScreen cannot show the {' and the '.join(lost)}"
        limit = ios_facts().most_decoded
        for found in self.sets:
            largest = max(image.recipe.canvas.width * image.recipe.canvas.height * 4 for image in found.images)
            if largest > limit:
                yield f"{found.name} takes {largest / 1e6:.0f} MB decoded; the system shows no launch image of more than {limit / 1e6:.0f} MB"

    def _with_unused(self, made: Plan) -> Plan:
        after = self.snapshot.overlay(
            {file.path: file.content for file in made.files} | {edit.path: edit.after for edit in made.edits}
        )
        unused = unused_launch_files(after, self.site, self.names)
        if not unused:
            return made
        data = after.read(self.site.project_file)
        for path in unused:
            reference = self._target(data).reference_of(path)
            if reference is not None:
                data = self._target(data).project.without_file(reference)
        before = self.snapshot.read(self.site.project_file)
        edit = EditFile(self.site.project_file, before, data, "without the files that nothing uses")
        return replace(made, unused=unused, prune_edits=(edit,) if data != before else ())
