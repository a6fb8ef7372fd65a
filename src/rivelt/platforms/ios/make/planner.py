"""What would be done to an app target: catalog, storyboard, Info.plist or build settings, and membership of the target."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from functools import cached_property

import msgspec
from msgspec import Struct

from rivelt.edit.xcode import NewMember, XcodeEdit
from rivelt.errors import BadInput
from rivelt.layout.context import PlanContext
from rivelt.plan.model import EditFile, ManualStep, Plan, Plate, WriteFile
from rivelt.plan.names import ASSET, renamed
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.make.contents import colour_set, image_set, plain_contents
from rivelt.platforms.ios.make.decide import decide
from rivelt.platforms.ios.make.declare import Declaring, declare, launch_keys
from rivelt.platforms.ios.make.described import described_edit, described_steps
from rivelt.platforms.ios.make.first_ground import FirstGround, first_ground
from rivelt.platforms.ios.make.ground import GroundForm
from rivelt.platforms.ios.make.plates import ImageSet, image_sets
from rivelt.platforms.ios.make.storyboard import storyboard, swift_view
from rivelt.platforms.ios.make.vector import vector_mark
from rivelt.platforms.ios.native.find import target_of
from rivelt.platforms.ios.native.leftovers import unused_launch_files
from rivelt.platforms.ios.native.targets import AppTarget, app_target
from rivelt.platforms.ios.options import IosTable
from rivelt.platforms.ios.site import IosSite, Names
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.values import replace

_CONTENTS = "Contents.json"
_PLIST_TYPE = "text.plist.xml"
_STORYBOARD_TYPE, _CATALOG_TYPE, _SWIFT_TYPE = "file.storyboard", "folder.assetcatalog", "sourcecode.swift"


def plan(context: PlanContext, project: Project, site: IosSite) -> Plan:
    """Return all that would be done to an app target.

    Raises:
        BadInput: the brief asks for what the art or the target does not allow.
    """
    return _Planner(context, project, site).plan()


class _Planner(Struct, dict=True):
    """One app target."""

    context: PlanContext
    project: Project
    site: IosSite

    def __post_init__(self) -> None:
        given = self.context.brief.table("ios", IosTable)
        self.decision = decide(self.context, self.site, given)
        self.options = msgspec.structs.replace(given, screen=self.decision.screen)
        plain = Names.safe(self.options.prefix)
        self.names = replace(plain, suffix=f"-{self._fingerprint(plain)}") if self.options.fresh_names else plain
        self.ground = GroundForm.of(self.context, self.site, self.names)
        self.sets = image_sets(self.context, self.options, self.names, self.ground, self.site.held)
        own = {plain.catalog, Names().catalog}
        usable = [path for path in self.site.catalogs if path.rpartition("/")[2] not in own]
        self.has_own_catalog = not usable
        self.catalog = usable[0] if usable else join(self.site.home, plain.catalog)
        if self.options.catalog is not None:
            self.catalog = self._chosen_catalog(self.options.catalog.rstrip("/"))
            self.has_own_catalog = False

    def _chosen_catalog(self, wanted: str) -> str:
        """The catalog that the brief names.

        Raises:
            BadInput: the shipped app has none of that name.
        """
        if wanted in self.site.catalogs:
            return wanted
        place = self.context.brief.place("ios.catalog")
        hint = f"It has {', '.join(self.site.catalogs) or 'none'}."
        raise BadInput(f"{wanted} is not an asset catalog of the shipped app", place=place, hint=hint)

    def _fingerprint(self, plain: Names) -> str:
        """Eight hex digits of all that the screen shows."""
        ground = GroundForm.of(self.context, self.site, plain)
        sets = image_sets(self.context, self.options, plain, ground, self.site.held)
        parts = [image.recipe.digest for found in sets for image in found.images]
        parts += [shown.ground.hex for shown in self.context.brief.looks.values()]
        parts.append(storyboard(self.context, self.options, plain, sets, ground, waiting=False))
        parts.append(self.options.mark_form)
        return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:8]

    def plan(self) -> Plan:
        """Return the whole plan."""
        is_vector = self.options.mark_form == "vector" and self.context.has("mark")
        vector = vector_mark(self.context, self.sets, self.catalog) if is_vector else None
        plates = [
            plate for found in self.sets if vector is None or found.part != "Mark" for plate in self._plates(found)
        ]
        image = self.names.of("Mark") if self.context.has("mark") else None
        if self.site.generator in {None, "project.yml"}:
            declaring = declare(self.project, self.site, self.context.brief, self.options, self.names, image)
        else:
            declaring = Declaring((), (), (), ())
        members, screens = self._screens()
        files = (*self._contents(is_vector=vector is not None), *(vector or ()), *screens, *declaring.files)
        if self.site.generator is None:
            pbx = self._project_file(members, declaring)
        else:
            pbx = described_edit(self.project, self.site, declaring) if self.site.generator == "project.yml" else []
        first = FirstGround()
        if self.options.first_ground == "apply":
            plain = Names.safe(self.options.prefix).prefix
            target = target_of(self.project, self.site.project_file, self.site.target_name)
            assert target is not None
            first = first_ground(self.project, self.site, target, self.context, self.ground, plain)
        made = Plan(
            "ios",
            self.site.name,
            plates=tuple(plates),
            files=tuple(files),
            edits=(*declaring.edits, *pbx, *first.edits),
            manual_steps=tuple(self._manual_steps(image)),
            notes=(*declaring.notes, *first.notes, *self._notes()),
        )
        return self._with_unused(made)

    def _plates(self, found: ImageSet) -> Iterator[Plate]:
        for image in found.images:
            yield Plate(join(self.catalog, f"{found.name}.imageset", image.file), image.look, image.recipe)

    def _contents(self, *, is_vector: bool) -> Iterator[WriteFile]:
        for found in self.sets:
            if not (is_vector and found.part == "Mark"):
                path = join(self.catalog, f"{found.name}.imageset", _CONTENTS)
                yield WriteFile(path, image_set(found), f"image set of the {found.part.lower()}")
        if self.ground.is_named or self.options.waiting == "swiftui":
            path = join(self.catalog, f"{self.names.of('Ground')}.colorset", _CONTENTS)
            yield WriteFile(path, colour_set(self.context), "the ground as a named colour")
        if self.has_own_catalog:
            yield WriteFile(join(self.catalog, _CONTENTS), plain_contents(), "asset catalog")

    def _screens(self) -> tuple[list[NewMember], list[WriteFile]]:
        """The storyboards (and the SwiftUI view), and all that must be a member of the target."""
        members = [NewMember(self.names.catalog, _CATALOG_TYPE)] if self.has_own_catalog else []
        files: list[WriteFile] = []

        def add(name: str, text: str, kind: str, summary: str, phase: str = "Resources") -> None:
            # Elsewhere a storyboard for iPhone and iPad does not compile.
            platforms = ("ios",) if self.site.other_platforms and kind == _STORYBOARD_TYPE else ()
            members.append(NewMember(name, kind, phase, platforms))
            files.append(WriteFile(join(self.site.home, name), text.encode(), summary))

        arguments = (self.context, self.options, self.names, self.sets)
        ground = self.ground
        if self.options.screen == "storyboard":
            text = storyboard(*arguments, ground, waiting=False)
            add(f"{self.names.of('Launch')}.storyboard", text, _STORYBOARD_TYPE, "launch storyboard")
        if self.options.waiting == "swiftui":
            if self.site.group is not None and not self.site.sources:
                at, hint = self.context.brief.place("ios.waiting"), "Use waiting = true under [ios]: a storyboard."
                raise BadInput(f"target {self.site.target_name} compiles no sources", place=at, hint=hint)
            add(f"{self.names.waiting}.swift", swift_view(*arguments), _SWIFT_TYPE, "the app's first moment", "Sources")
        elif self.options.waiting:
            text = storyboard(*arguments, ground, waiting=True)
            add(f"{self.names.waiting}.storyboard", text, _STORYBOARD_TYPE, "the app's first moment")
        return members, files

    # The project file

    def _project_file(self, members: list[NewMember], declaring: Declaring) -> list[EditFile]:
        """The one edit of the project file: build settings, old members out, new ones in."""
        path = self.site.project_file
        edit = XcodeEdit(self.project.pbx(path))
        for setting in declaring.settings:
            edit.set_setting(setting.configuration, setting.key, setting.value)
        if self.site.group is not None:  # a synchronised folder includes new files by itself
            self._remove_old(edit, {join(self.site.home, member.path) for member in members})
            for member in members:
                self._add_member(edit, member)
        else:
            self._filter(edit, members)
        self._show_lists(edit, {file.path for file in declaring.files})
        before, after = edit.project.data, edit.result()
        if after == before:
            return []
        self.project.parsed_as("pbx", path, after)  # a change that could not be read again must never leave this module
        names = " and ".join(member.path for member in members)
        return [EditFile(path, before, after, f"{names} in target {self.site.target_name}")]

    def _add_member(self, edit: XcodeEdit, member: NewMember) -> None:
        path = join(self.site.home, member.path)
        if path in self._target.members(member.phase):
            return
        assert self.site.group is not None
        edit.add(
            member,
            group=self.site.group,
            phase=self.site.sources if member.phase == "Sources" else self.site.phase,
            target_name=self.site.target_name,
            reference=self._target.reference_of(path),
        )

    def _show_lists(self, edit: XcodeEdit, wanted: set[str]) -> None:
        """Put a new Info.plist, which no phase builds, into the main group; take out that of an earlier apply."""
        main = self._target.groups[0]
        for path in sorted(wanted):
            if self._target.reference_of(path) is None:
                inside = path.removeprefix(f"{main.folder}/") if main.folder else path
                member = NewMember(inside, _PLIST_TYPE)
                edit.add_reference(member, group=main.id, target_name=self.site.target_name)
        old = join(self.site.folder, f"{self.names.prefix}Info.plist")
        reference = self._target.reference_of(old)
        if reference is not None and old not in wanted and old in self.context.generated:
            edit.remove(reference)

    def _filter(self, edit: XcodeEdit, members: list[NewMember]) -> None:
        """In a synchronised folder, a file for some platforms alone is an exception of the folder."""
        folder = self._target.synchronised_group(self.site.home)
        for member in members:
            if (
                member.platforms
                and folder is not None
                and not self._target.is_filtered(join(self.site.home, member.path))
            ):
                edit.filter_member(folder.id, self._target.id, member.path, member.platforms)

    def _remove_old(self, edit: XcodeEdit, wanted: set[str]) -> None:
        """Take out screens that an earlier apply made and this one does not: other names, or another kind."""
        generated = re.compile(
            rf"(?:^|/)(?:{self.names.prefix}Launch(?:-[0-9a-f]{{8}})?\.storyboard|{self.names.waiting}\.(?:storyboard|swift))$"
        )
        home = f"{self.site.home}/" if self.site.home else ""
        for path in sorted(self.context.generated):
            if generated.search(path) and path not in wanted and path.startswith(home):
                reference = self._target.reference_of(path)
                if reference is not None:
                    edit.remove(reference)

    @cached_property
    def _target(self) -> AppTarget:
        target = app_target(self.project, self.site.project_file, self.site.target_name)
        assert target is not None
        return target

    # What is reported

    def _manual_steps(self, image: str | None) -> Iterator[ManualStep]:
        if self.site.generator not in {None, "project.yml"}:
            yield from described_steps(self.site, launch_keys(self.options, self.names, image))
        if self.options.waiting == "swiftui":
            yield ManualStep("Show it as the app's first view while it loads", None, (f"{self.names.waiting}()",))
        elif self.options.waiting:
            line = f'UIStoryboard(name: "{self.names.waiting}", bundle: nil).instantiateInitialViewController()'
            yield ManualStep("Show it as the window's first view controller while the app loads", None, (line,))

    def _notes(self) -> Iterator[str]:
        if self.decision.why is not None:
            yield self.decision.why
        if self.site.generator is not None:
            yield f"the Xcode project of {self.site.target_name} is not in the repository: make it again from {self.site.project_file}"
        elif not self.project.is_own(self.site.project_file):
            yield f"git ignores {self.site.project_file}: what is written there is lost when it is made again"
        elif (description := join(self.site.folder, "project.yml")) in self.project:
            yield f"{description} may make {self.site.project_file} again: give it the same keys"
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
        after = self.project.overlay(
            {file.path: file.content for file in made.files} | {edit.path: edit.after for edit in made.edits}
        )
        unused = unused_launch_files(after, self.site, self.names, self.project)
        if not unused:
            return made
        path = self.site.project_file
        if self.site.generator is not None:
            return replace(made, unused=unused)
        target = app_target(after, path, self.site.target_name)
        assert target is not None
        edit = XcodeEdit(target.pbx)
        for file in unused:
            reference = target.reference_of(file)
            if reference is not None:
                edit.remove(reference)
        before, data = self.project.read(path), edit.result()
        prune = EditFile(path, before, data, "without the files that nothing uses")
        return replace(made, unused=unused, prune_edits=(prune,) if data != before else ())
