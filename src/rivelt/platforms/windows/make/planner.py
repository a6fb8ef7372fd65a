"""What would be done to a Windows package: its images, the launch element of its manifest, and the lists of its project files."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.errors import BadInput, RiveltError
from rivelt.layout.context import PlanContext
from rivelt.patterns import regex
from rivelt.plan.model import EditFile, ManualStep, Plan, Plate
from rivelt.plan.names import FILE, renamed
from rivelt.platforms.windows.facts import windows_facts
from rivelt.platforms.windows.make.listing import relisted
from rivelt.platforms.windows.make.manifest import with_launch
from rivelt.platforms.windows.make.plates import image_name, plates
from rivelt.platforms.windows.native.images import image_path, launch_sized, variants
from rivelt.platforms.windows.native.manifest import Manifest, read_manifest
from rivelt.platforms.windows.options import WindowsTable
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.values import replace

_OWN = regex(r"Launch\.scale-\d+(?:_contrast-\w+)?\.png$")
_NAMING = (".appxmanifest", ".xaml", ".cs", ".vb", ".cpp", ".h", ".js", ".html", ".css", ".xml", ".resw", ".json")


def plan(context: PlanContext, project: Project, site: WindowsSite) -> Plan:
    """Return all that would be done to a package.

    Raises:
        BadInput: its manifest cannot be read any more.
    """
    return _Planner(context, project, site).plan()


class _Planner(Struct, dict=True):
    """One package."""

    context: PlanContext
    project: Project
    site: WindowsSite

    def __post_init__(self) -> None:
        self.options = self.context.brief.table("windows", WindowsTable)
        self.manifest = read_manifest(self.project, self.site.manifest)
        self.home = parent(self.site.manifest)

    def plan(self) -> Plan:
        """Return the whole plan."""
        if not self.context.has("mark"):
            hint = "Give [light] a mark, or leave windows out of app.targets."
            place = self.context.brief.place("light.ground")
            raise BadInput(
                "a Windows package cannot do without a mark: its manifest must name an image", place=place, hint=hint
            )
        folder, name = self._named()
        made = [
            replace(plate, path=join(self.home, *folder, plate.path))
            for plate in plates(self.context, self.manifest.kind)
        ]
        fitting = [plate for plate in made if plate.recipe not in self.context.too_large]
        new = [plate.path for plate in fitting]
        before = self.manifest.document.data
        after = with_launch(self.manifest, name, self._ground(), self._ground_text())
        edits = [EditFile(self.site.manifest, before, after, f"the launch image {name} and its ground")]
        stale = [path for path in self.context.generated if path not in new and self._is_ours(path)]
        lists, manual_steps = self._lists(new, stale)
        edits += lists
        planned = Plan(
            "windows",
            self.site.name,
            plates=tuple(fitting),
            edits=tuple(edit for edit in edits if edit.before != edit.after),
            manual_steps=manual_steps,
            notes=tuple(self._notes(made)),
        )
        return self._with_unused(planned, after, new)

    def _named(self) -> tuple[tuple[str, ...], str]:
        """The folder of the images below the manifest's, and the image as the manifest names it: where the old one was."""
        wanted = image_name(self.options)
        shown = [launch.image for launch in self.manifest.launches if launch.image]
        shown += [
            value
            for launch in self.manifest.launches
            for key, value in launch.visual.attributes.items()
            if key.rpartition("}")[2].endswith("Logo")
        ]
        for text in shown:
            path = image_path("", text)
            if path is not None:
                folder = tuple(part for part in parent(path).split("/") if part)
                separator = "/" if "/" in text and "\\" not in text else "\\"
                return folder, separator.join((*folder, wanted))
        folder = (windows_facts().folder,)
        return folder, "\\".join((*folder, wanted))

    def _ground(self) -> Colour:
        return self.context.brief.looks[self.options.look].ground

    def _ground_text(self) -> str:
        """The ground as the manifest writes it: a CSS name where the brief has one that the schema knows, else hex."""
        name = self.context.brief.looks[self.options.look].ground_name
        return name if name in windows_facts().plain_names else self._ground().hex

    def _is_ours(self, path: str) -> bool:
        return _OWN.search(path) is not None and (not self.home or path.startswith(f"{self.home}/"))

    # The project files

    def _lists(self, new: list[str], gone: Iterable[str]) -> tuple[list[EditFile], tuple[ManualStep, ...]]:
        edits: list[EditFile] = []
        steps: list[ManualStep] = []
        siblings = self._old_images(self.manifest)
        for path in self._own_lists:
            try:
                before = self.project.read(path)
                after = relisted(self.project, path, new, gone, siblings)
                edits.append(EditFile(path, before, after, "the launch images in the package"))
            except RiveltError as error:
                steps.append(ManualStep(f"List the launch images as content ({error.message})", path, tuple(new)))
        if not self._own_lists:
            inside = [path.removeprefix(f"{self.home}/") if self.home else path for path in new]
            lines = tuple(f'<Content Include="{path.replace("/", chr(92))}" />' for path in inside)
            steps.append(
                ManualStep("List the launch images in the project file, which is not beside the manifest", None, lines)
            )
        return edits, tuple(steps)

    @property
    def _own_lists(self) -> list[str]:
        """The project files beside the manifest: those of shared projects stay as they are."""
        return [path for path in self.site.project_files if parent(path) == self.home]

    def _old_images(self, manifest: Manifest) -> list[str]:
        names = dict.fromkeys(launch.image for launch in manifest.launches if launch.image)
        return [variant.path for name in names for variant in variants(self.project, self.home, name)]

    # What is reported

    def _notes(self, made: list[Plate]) -> Iterator[str]:
        brief = self.context.brief
        note = renamed(self.options.prefix, FILE, "windows.prefix")
        if note:
            yield note
        if len(brief.shown_looks) > 1:
            other = "dark" if self.options.look == "light" else "light"
            yield (
                f"Windows knows no looks: {self.site.name} shows the {self.options.look} one; "
                f'look = "{other}" under [windows] chooses the other'
            )
        lost = [
            part
            for part, is_there in (("imprint", self.context.has("imprint")), ("backdrop", bool(self.context.backdrops)))
            if is_there
        ]
        if lost:
            yield f"Windows shows the ground and one small image: the {' and the '.join(lost)} cannot be shown there"
        limit = windows_facts().most_bytes / 1000
        for plate in made:
            weight = self.context.too_large.get(plate.recipe)
            if weight is not None:
                yield (
                    f"{plate.path} is left out: it weighs {weight / 1000:.0f} kB, and more than {limit:.0f} kB are refused; "
                    "Windows takes the next scale in its place. A simpler mark, best an SVG, would fit"
                )

    def _with_unused(self, planned: Plan, manifest: bytes, new: list[str]) -> Plan:
        """With the old launch images that nothing names any more."""
        ours = {*new, *self.context.generated}
        old = dict.fromkeys(
            [*self._old_images(self.manifest), *launch_sized(self.project, self.home, self.manifest.kind)]
        )
        old = {path: None for path in old if path not in ours and not self._is_named(path, manifest)}
        if not old:
            return planned
        lists, _ = self._lists(new, old)
        pruned = tuple(edit for edit in lists if edit.before != edit.after)
        return replace(planned, unused=tuple(old), prune_edits=pruned)

    def _is_named(self, path: str, manifest: bytes) -> bool:
        """Whether a source of the package names an image: by its file's name, with or without qualifiers."""
        file = path.rpartition("/")[2]
        plain = f"{file.partition('.')[0]}.{file.rpartition('.')[2]}"
        names = {name.encode().lower() for name in (plain, file)}
        if any(name in manifest.lower() for name in names):
            return True
        found = {other for name in (plain, file) for other in self.project.naming(name)}
        home = f"{self.home}/" if self.home else ""
        others = (other for other in sorted(found) if other.startswith(home) and other.lower().endswith(_NAMING))
        return any(
            name in self.project.read(other).lower()
            for other in others
            if other != self.site.manifest
            for name in names
        )
