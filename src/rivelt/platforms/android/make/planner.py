"""What would be done to an Android app module, in either way."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from rivelt.edit.source.language import FirstLines
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.layout.context import PlanContext
from rivelt.plan.model import EditFile, ManualStep, Plan, Plate, WriteFile
from rivelt.plan.names import RESOURCE, renamed
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.code import (
    install_lines,
    refuse_bad_condition,
    theme_call,
    theme_lines,
    with_first_lines,
)
from rivelt.platforms.android.make.frameworks import (
    gap_steps,
    generated_steps,
    is_of_library,
    is_switched_by_meta,
    refuse_waiting,
    subclass_step,
    with_meta,
)
from rivelt.platforms.android.make.launch_theme import Theme
from rivelt.platforms.android.make.library import library_edits
from rivelt.platforms.android.make.manifest import main_manifest, source_set_manifest
from rivelt.platforms.android.make.mark import Marks, marks, moving_mark
from rivelt.platforms.android.make.method import choose_way
from rivelt.platforms.android.make.motion import Motion, read_motion
from rivelt.platforms.android.make.moving_mark import LENGTH_MS
from rivelt.platforms.android.make.notes import plan_notes
from rivelt.platforms.android.make.plates import backdrop_plates, drawable_folder, imprint_plates
from rivelt.platforms.android.make.second import Replaced, second_screen_steps, without_second_screen
from rivelt.platforms.android.make.stand_in import stand_in
from rivelt.platforms.android.make.styles import into_style, own_styles
from rivelt.platforms.android.make.waiting import show_step, waiting
from rivelt.platforms.android.make.window import window
from rivelt.platforms.android.names import Names, is_generated
from rivelt.platforms.android.native.activity import ActivitySource
from rivelt.platforms.android.native.build import read_build
from rivelt.platforms.android.native.effective import manifest_of
from rivelt.platforms.android.native.leftovers import launch_items, reachable, unused_launch_images
from rivelt.platforms.android.native.resources import resources_of
from rivelt.platforms.android.native.theme import NO_WINDOW, boolean, devices, theme_items
from rivelt.platforms.android.native.variants import MAIN
from rivelt.platforms.android.options import MANNERS, AndroidTable
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.units import LOOKS, Look
from rivelt.values import replace

_KINDS = (
    ("drawable", ("mark", "imprint", "window", "disc", "backdrop", "motion")),
    ("color", ("ground", "disc", "status_bar", "navigation_bar")),
    ("style", ("launch", "app")),
    ("layout", ("waiting",)),
)


def plan(context: PlanContext, project: Project, site: AndroidSite) -> Plan:
    """Return all that would be done to an app module.

    Raises:
        BadInput: a name that would be generated is taken by the app, or the brief asks for what the module does not allow.
    """
    options = context.brief.table("android", AndroidTable)
    if options.second_screen == "keep" or site.source is None or site.source.second is None:
        return _Planner(context, project, site).plan()
    replaced = without_second_screen(project, site)
    if isinstance(replaced, str):
        made = _Planner(context, project, site).plan()
        return replace(made, notes=(*made.notes, f"the second launch screen is left as it is: {replaced}"))
    return _merged(project, replaced, _Planner(context, replaced.project, replaced.site).plan())


def _merged(project: Project, replaced: Replaced, made: Plan) -> Plan:
    """A plan for a project without its second launch screen as one for the project as it is."""
    edits = {edit.path: edit for edit in made.edits}
    for path, content in replaced.edits.items():
        before = project.read(path)
        known = edits.get(path)
        summary = "the app begins without a second launch screen"
        edits[path] = (
            replace(known, before=before, summary=f"{known.summary}; {summary}")
            if known is not None
            else EditFile(path, before, content, summary)
        )
    unused = tuple(sorted({*made.unused, *replaced.unused}))
    pruned = tuple(
        EditFile(path, project.read(path), content, "the theme of the second launch screen goes")
        for path, content in replaced.pruned.items()
        if path not in edits
    )
    return replace(made, edits=tuple(edits.values()), unused=unused, prune_edits=(*made.prune_edits, *pruned))


def _with_current_builds(project: Project, site: AndroidSite) -> AndroidSite:
    """The site with its builds as they are now: an earlier plan may have given them the library."""
    build = read_build(project, site.module) if site.build is not None else None
    if build is not None and site.build is not None:
        build = replace(build, min_sdk=site.build.min_sdk, compile_sdk=site.build.compile_sdk)
    code = read_build(project, site.code_build.module) if site.code_build is not None else None
    return replace(site, build=build, code_build=code)


class _Planner(Struct, dict=True):
    """One module."""

    context: PlanContext
    project: Project
    site: AndroidSite

    def __post_init__(self) -> None:
        self.options = self.context.brief.table("android", AndroidTable)
        self.site = _with_current_builds(self.project, self.site)
        if self.site.device == "watch":
            self.context = self.context.without("imprint")
        self.names = Names.of(self.options.prefix)
        self.resources = resources_of(self.project, self.site.all_res)
        self.min_sdk = self.site.min_sdk or android_facts().levels.lowest
        if self.site.app_theme_problem is not None and self.site.launch_style is None:
            raise self.site.app_theme_problem
        self._refuse_bad_condition()
        self.way, self.reason = choose_way(self.project, self.site, self.options, self._place("way"))
        if self.way == "compat":  # the library's launch theme is one of our own, whatever a framework does after it
            self.site = replace(self.site, launch_style=None)

    def _place(self, key: str) -> Place | None:
        return self.context.brief.place(f"android.{key}")

    def plan(self) -> Plan:
        """Return the whole plan."""
        self._refuse_what_the_way_cannot()
        theme, motions = self._theme_and_motion()
        mark = marks(
            self.context, self.options, self.names, self.min_sdk, in_window=theme.has_window, device=self.site.device
        )
        files, plates = self._images(theme, mark, motions)
        edits, values = self._styles(theme)
        entry_edits, entry_files = self._entry(theme)
        res = self.site.res
        made = Plan(
            "android",
            self.site.name,
            plates=tuple(replace(plate, path=join(res, plate.path)) for plate in plates),
            files=(*(replace(file, path=join(res, file.path)) for file in files), *values, *entry_files),
            edits=(*edits, *entry_edits, *self._build_edits()),
        )
        self._refuse_taken_names(set(made.generated_paths()))
        code, manual_steps = self._code(theme)
        if self.options.waiting:
            manual_steps = (*manual_steps, show_step(self.site, self.names))
        steps = generated_steps(self.project, self.site, self.context.brief, self.names, made.generated_paths())
        gap = gap_steps(self.project, self.site, self.context.brief, self.names)
        manual_steps = (*manual_steps, *steps, *gap)
        manual_steps = (*manual_steps, *second_screen_steps(self.project, self.site, self.names))
        made = replace(
            made,
            edits=(*made.edits, *code),
            manual_steps=manual_steps,
            notes=(*self._way_notes(), *plan_notes(self.context, self.project, self.site, theme, mark)),
        )
        return replace(made, unused=self._unused(made))

    # What is written

    def _theme_and_motion(self) -> tuple[Theme, list[WriteFile]]:
        motions, lengths = self._motions()
        has_imprint = self.context.has("imprint")
        theme = Theme(
            brief=self.context.brief,
            way=self.way,
            names=self.names,
            app_theme=self.site.app_theme,
            has_imprint=has_imprint,
            has_window=self.way == "platform" or has_imprint or bool(self.context.backdrops),
            motion_ms=lengths,
            min_sdk=self.min_sdk,
            compile_sdk=self.site.compile_sdk,
            needs_app_style=self._needs_app_style,
            hidden=self._hidden(),
        )
        return theme, motions

    def _motions(self) -> tuple[list[WriteFile], dict[Look, int]]:
        """The moving icons, and how long each look's runs (ms): the light one's too where the dark look has none of its own."""
        files: list[WriteFile] = []
        lengths: dict[Look, int] = {}
        level = android_facts().levels.system_launch_screen
        for look in LOOKS:
            found = self._motion(look)
            if found is not None:
                folder = drawable_folder(look, f"anydpi-v{level}")
                summary = f"the moving {look} icon, {found.length_ms} ms"
                files.append(WriteFile(f"{folder}/{self.names.motion}.xml", found.data, summary))
                lengths[look] = found.length_ms
        if "light" in lengths:
            lengths.setdefault("dark", lengths["light"])
        return files, lengths

    def _motion(self, look: Look) -> Motion | None:
        """The moving icon of a look; None where nothing moves, or in the dark as in the light."""
        key, value = self.options.motion_of(look)
        if value is None or (look == "dark" and key == "motion" and value not in MANNERS):
            return None
        if value not in MANNERS:
            data = self.context.files[f"android.{key}"]
            return read_motion(data, value, self.project, self.resources, self.options.motion_ms)
        if look == "dark" and key == "motion" and look not in self.context.looks("mark"):
            return None
        length = self.options.motion_ms or LENGTH_MS
        place = self._place(key)
        return Motion(moving_mark(self.context, look, value, self.site.device, length, place), length)

    def _hidden(self) -> tuple[str, ...]:
        """The flags of the style that a launch theme begins from with which no launch screen would be shown."""
        if self.way == "compat":
            return ()
        launch = self.site.launch_style
        theme = f"@style/{launch}" if launch is not None else self.site.app_theme
        found: set[str] = set()
        for device in devices():
            items = theme_items(self.resources, theme, device, self.site.versions).items
            present = (flag for flag in NO_WINDOW if f"android:{flag}" in items)
            # One whose value is unknown is set to false as well.
            found |= {
                flag for flag in present if boolean(self.resources, device, items[f"android:{flag}"][0]) is not False
            }
        return tuple(flag for flag in NO_WINDOW if flag in found)

    @property
    def _needs_app_style(self) -> bool:
        """Whether code is to name a style that the module's own `R` has no constant for, as R classes are not transitive."""
        kind, _, name = self.site.app_theme.removeprefix("@").partition("/")
        if self.way == "compat" or self.site.launch_style is not None or kind != "style":
            return False
        if self.site.source is not None and self.site.source.sets_theme:
            return False
        module = f"{self.site.module}/" if self.site.module else ""
        entries = self.resources.defined("style", name)
        return not any(
            entry.path.startswith(module) and not is_generated(self.project.read(entry.path)) for entry in entries
        )

    def _images(self, theme: Theme, mark: Marks, motions: list[WriteFile]) -> tuple[list[WriteFile], list[Plate]]:
        """Files and plates, their paths relative to the resources' folder."""
        files = [*mark.files, *motions]
        plates = [*mark.plates, *imprint_plates(self.context, self.options, self.names)]
        if theme.has_window:
            layers, discs = window(self.context, self.options, self.names, self.min_sdk, has_vector=mark.has_vector)
            files += layers
            plates += [*discs, *backdrop_plates(self.context, self.options, self.names)]
        if self.options.waiting:
            files += waiting(self.context, self.names)
        return files, plates

    def _styles(self, theme: Theme) -> tuple[list[EditFile], list[WriteFile]]:
        if self.site.launch_style is None:
            return [], own_styles(theme, self.site.res)
        return into_style(theme, self.project, self.resources, self.site.launch_style, self.site.res)

    def _entry(self, theme: Theme) -> tuple[list[EditFile], list[WriteFile]]:
        if self.site.launch_style is not None:
            return [], []
        if self.site.source_set == MAIN:
            edits = main_manifest(self.project, self.site, self.names)
            wanted = self._wanted_meta(theme)
            return [with_meta(self.project, self.site, edit, wanted) for edit in edits] if wanted else edits, []
        edits, files = stand_in(self.project, self.site, theme, self.way, self.context.made_by_others)
        after = self.project.overlay({edit.path: edit.after for edit in edits})
        if manifest_of(after, self.site).theme == f"@style/{self.names.launch}" and self.site.manifests[0] not in after:
            return edits, files  # the main manifest says so already, and this source set's style of that name wins
        own_edits, own_files = source_set_manifest(self.project, self.site, self.names)
        return [*edits, *own_edits], [*files, *own_files]

    def _build_edits(self) -> list[EditFile]:
        builds = self.site.builds if self.way == "compat" else ()
        edits = {edit.path: edit for build in builds for edit in library_edits(self.project, build)}
        for build in builds:
            for path in (build.path, build.catalog.path if build.catalog else None):
                if path is not None and path not in edits:
                    data = self.project.read(path)
                    edits[path] = EditFile(path, data, data, "", is_shared=True)
        return [replace(edit, is_shared=True) for edit in edits.values()]

    def _code(self, theme: Theme) -> tuple[list[EditFile], tuple[ManualStep, ...]]:
        """The activity's own lines: the edits, or what is left to the person."""
        if self.site.launch_style is not None:
            return [], ()
        if is_switched_by_meta(self.site, self.way):
            return [], ()
        if is_of_library(self.site):
            return [], (subclass_step(self.project, self.site, theme.app_theme_in_code),)
        if self.site.source is None:
            return [], (self._theme_step(theme, None, ""),)
        edits: list[EditFile] = []
        steps: list[ManualStep] = []
        for source in self.site.source.everywhere:
            if self.way == "compat" and source.installs_itself is None:
                edits += self._begins(
                    source, install_lines(self.project, source, self.options), "installs the launch screen"
                )
            elif self.way == "compat":
                edits += self._begins(source, None, "the install call is the app's own")
                steps += self._hold_step(source)
            else:
                try:
                    edits += self._theme_edit(theme, source)
                except RiveltError as problem:
                    steps.append(self._theme_step(theme, source, f" ({problem.message})"))
        return edits, tuple(steps)

    def _begins(self, source: ActivitySource, first: FirstLines | None, summary: str) -> list[EditFile]:
        data = self.project.read(source.path)
        made = with_first_lines(self.project, source, first, summary) or [EditFile(source.path, data, data, summary)]
        return [replace(edit, is_shared=True) for edit in made]

    def _theme_edit(self, theme: Theme, source: ActivitySource) -> list[EditFile]:
        if source.problem is not None:
            raise source.problem
        if source.sets_theme:
            return self._begins(source, None, "the app sets its theme itself")
        lines = theme_lines(self.project, source, theme.app_theme_in_code, self._r_package)
        return self._begins(source, lines, "gives the app its own theme back")

    def _wanted_meta(self, theme: Theme) -> dict[str, str]:
        """The `<meta-data>` by which the framework's activity learns of the launch screen: name -> resource."""
        framework = self.site.framework
        found: dict[str, str] = {}
        if framework is not None and is_switched_by_meta(self.site, self.way):
            found[framework.theme_meta] = theme.app_theme
        if framework is not None and framework.picture_meta and theme.has_window:
            found[framework.picture_meta] = f"@drawable/{self.names.window}"
        return found

    @property
    def _r_package(self) -> str | None:
        return self.site.build.namespace if self.site.build else None

    def _theme_step(self, theme: Theme, source: ActivitySource | None, why: str) -> ManualStep:
        title = f"In {self.site.activity}, give the app its own theme back: the first statement of onCreate{why}"
        call = theme_call(self.project, source, theme.app_theme_in_code, self._r_package)
        return ManualStep(title, source.path if source else None, (call,))

    def _hold_step(self, source: ActivitySource) -> tuple[ManualStep, ...]:
        if self.options.hold_while is None:
            return ()
        lines = install_lines(self.project, source, self.options)
        title = "The app makes the install call itself: replace it, so that the launch screen stays while it has to"
        members = tuple(line for line, _ in lines.members)
        return (ManualStep(title, source.installs_itself, (*lines.statements, "", *members)),)

    # What is refused, and what is reported

    def _refuse_bad_condition(self) -> None:
        source, condition = self.site.source, self.options.hold_while
        if condition is not None and source is not None and source.problem is None:
            refuse_bad_condition(self.project, source, condition, self._place("hold_while"))

    def _refuse_what_the_way_cannot(self) -> None:
        if self.options.waiting:
            refuse_waiting(self.site.framework, self._place("waiting"))
        if self.options.image_form != "png" and self.min_sdk < (level := android_facts().levels.webp):
            message = f"WebP with transparency needs API {level}, and the app runs from API {self.min_sdk} on"
            hint = 'Use image_form = "png" under [android], or raise the minSdk.'
            raise BadInput(message, place=self._place("image_form"), hint=hint)
        if self.options.hold_while is None:
            return
        if self.way == "platform":
            hint = 'Leave it out, or use way = "compat" under [android].'
            message = f"`android.hold_while` needs the compatibility library, which is not used here: {self.reason}"
            raise BadInput(message, place=self._place("hold_while"), hint=hint)

    def _refuse_taken_names(self, own: set[str]) -> None:
        for kind, stems in _KINDS:
            for name in (f"{self.names.prefix}{stem}" for stem in stems):
                for entry in self.resources.defined(kind, name):
                    if entry.path not in own and not self._is_ours(entry.path):
                        at = Place(entry.path, entry.node.line if entry.node else None)
                        hint = f'Rename the app\'s own, or give another prefix under [android]; now it is "{self.names.prefix}".'
                        raise BadInput(f"the name {kind}/{name} is taken by the app", place=at, hint=hint)

    def _is_ours(self, path: str) -> bool:
        """Whether an earlier brief made the file: it says so itself, or it is an image in the lock file."""
        return is_generated(self.project.read(path)) or path in self.context.generated

    def _way_notes(self) -> Iterator[str]:
        yield f"{self.site.name}: the {self.way} way ({self.reason})"
        if note := renamed(self.options.prefix, RESOURCE, "android.prefix"):
            yield note

    def _unused(self, made: Plan) -> tuple[str, ...]:
        """Launch images that nothing uses once the plan is carried out."""
        after = self.project.overlay(
            {file.path: file.content for file in made.files} | {edit.path: edit.after for edit in made.edits}
        )
        style = self.site.launch_style
        entries = self.resources.defined("style", style) if style else []
        replaced = reachable(self.project, self.resources, launch_items(entries))
        return unused_launch_images(after, resources_of(after, self.site.all_res), self.names, replaced)
