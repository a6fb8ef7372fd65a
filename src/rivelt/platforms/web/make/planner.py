"""What would be done to a web app: its images, its manifest, and the head of the pages that link it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import unquote

from msgspec import Struct

from rivelt.edit.html import Page, parse_html
from rivelt.edit.jsontext import JsonDocument
from rivelt.layout.context import PlanContext
from rivelt.patterns import regex
from rivelt.plan.model import EditFile, ManualStep, Plan, Plate, WriteFile
from rivelt.plan.names import FILE, renamed
from rivelt.platforms.web.facts import web_facts
from rivelt.platforms.web.make.in_code import metadata_lines, with_launch_in_code
from rivelt.platforms.web.make.manifest import replaced_icons, with_launch
from rivelt.platforms.web.make.page import edited
from rivelt.platforms.web.make.placing import placing
from rivelt.platforms.web.make.plates import Icon, Startup, folder_of, icons, startups
from rivelt.platforms.web.native.head import head_of
from rivelt.platforms.web.native.in_code import CODE, CodeManifest
from rivelt.platforms.web.native.links import STARTUP, is_built, resolve
from rivelt.platforms.web.native.manifest import icon_sizes, is_installable
from rivelt.platforms.web.native.page import foreign_tags, href_of
from rivelt.platforms.web.native.source import manifest_of
from rivelt.platforms.web.options import WebTable
from rivelt.platforms.web.site import WebSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.values import replace

_NAMING = (
    ".html",
    ".htm",
    ".js",
    ".mjs",
    ".ts",
    ".tsx",
    ".jsx",
    ".css",
    ".json",
    ".webmanifest",
    ".vue",
    ".svelte",
    ".php",
    ".xml",
)
_LAUNCH_WORDS = regex(r"(?:splash|launch|startup|start-?screen).*\.(?:png|jpe?g|webp)$", re.IGNORECASE)
_ICON_WORDS = regex(r"icon|launcher|touch|maskable|tile|badge|shortcut", re.IGNORECASE)
_DOCUMENT = (
    '<!doctype html>\n<html lang="en">\n<head>\n<title>Lines for the head of the start page</title>\n</head>\n</html>\n'
)


def plan(context: PlanContext, project: Project, site: WebSite) -> Plan:
    """Return all that would be done to a web app.

    Raises:
        BadInput: its manifest or a page cannot be edited, or the brief asks for screens that do not exist.
    """
    return _Planner(context, project, site).plan()


def _is_launch_image(name: str) -> bool:
    """Whether a file is called like a launch image, and not like an icon of the app."""
    return _LAUNCH_WORDS.search(name) is not None and _ICON_WORDS.search(name) is None


class _Planner(Struct, dict=True):
    """One web app."""

    context: PlanContext
    project: Project
    site: WebSite

    def __post_init__(self) -> None:
        self.options = self.context.brief.table("web", WebTable)
        self.manifest = manifest_of(self.project, self.site.manifest)
        self.pages = [page for page in self.site.pages if not page.path.endswith(CODE)]
        self.in_code = [page.path for page in self.site.pages if page.path.endswith(CODE)]
        self.home = parent(self.site.manifest)
        self.placing = placing(self.project, self.site.manifest, folder_of(self.options))
        wants_startups = self.options.startup
        if wants_startups is None:
            wants_startups = bool(self.pages) or any(self._links_ours(path) for path in self.in_code)
        self.startups: tuple[Startup, ...] = startups(self.context) if wants_startups else ()
        self.icons = icons(self.context)
        if self.options.icons is None:
            sizes, fits_all = icon_sizes(self._manifest_icons(ours=False))
            missing = {side for side in web_facts().icons if not fits_all and not any(size >= side for size in sizes)}
            self.icons = tuple(icon for icon in self.icons if icon.side in missing)
        self.grounds = {look: shown.ground for look, shown in self.context.brief.looks.items()}

    def plan(self) -> Plan:
        """Return the whole plan."""
        made = [*(icon.plate for icon in self.icons), *(found.plate for found in self.startups)]
        colour = self.grounds[self.options.look].hex
        before = self.manifest.data
        after, lines = self._with_launch(colour)
        edits = [EditFile(self.site.manifest, before, after, "background_color, and what is missing beside it")]
        edits += self.placing.edits if made else []
        pages = [self.project.html(page.path) for page in self.pages]
        for page, linked in zip(pages, self.pages, strict=True):
            summary = f"{len(self.startups)} startup images" if self.startups else "the head of the page"
            edits.append(EditFile(page.path, page.data, self._edited(page, linked.base), summary))
        planned = Plan(
            "web",
            self.site.name,
            plates=tuple(replace(plate, path=join(self.placing.folder, plate.path)) for plate in made),
            files=(self._lines_alone(),) if self.startups and not self.site.pages else (),
            edits=tuple(edit for edit in edits if edit.before != edit.after),
            manual_steps=tuple(self._steps(lines)),
            notes=tuple(self._notes()),
        )
        return replace(planned, unused=tuple(self._unused(planned, pages)))

    def _edited(self, page: Page, base: str) -> bytes:
        installable = is_installable(self.manifest.value)
        return edited(
            page, self._addressed_startups, base, self.grounds, is_installable=installable, theme=self.options.theme
        )

    def _with_launch(self, colour: str) -> tuple[bytes, list[str]]:
        """The manifest's file as it is to be, and the lines that have to be written by hand."""
        if isinstance(self.manifest, CodeManifest):
            return with_launch_in_code(self.manifest, colour, self._addressed_icons, theme=self._theme)
        after = with_launch(
            self.manifest,
            colour,
            self._addressed_icons,
            self._ours,
            replaces_icons=self.options.icons is True,
            theme=self._theme,
        )
        return after, []

    def _links_ours(self, path: str) -> bool:
        """Whether the metadata of a layout names startup images of Rivelt's."""
        folder = f"{folder_of(self.options)}/start-"
        return any(folder in link.href for link in head_of(self.project, path).startups)

    def _steps(self, lines: list[str]) -> Iterator[ManualStep]:
        if lines:
            title = "Write these into the manifest, whose values code works out"
            yield ManualStep(title, self.site.manifest, tuple(lines))
        if self.startups and not self.site.pages:
            yield self._by_hand()
        wanted = {(f"/{one.plate.path}", one.media) for one in self._addressed_startups}
        for path in self.in_code if self.startups else ():
            if {(link.href, link.media) for link in head_of(self.project, path).startups} != wanted:
                title = "Name the startup images in the metadata"
                yield ManualStep(title, path, metadata_lines(self._addressed_startups))

    # Without a page

    def _lines_alone(self) -> WriteFile:
        page = parse_html(_DOCUMENT.encode(), "lines")
        path = join(self.home, folder_of(self.options), "head.html")
        return WriteFile(path, self._edited(page, ""), "lines for the head of the start page")

    def _by_hand(self) -> ManualStep:
        path = join(self.home, folder_of(self.options), "head.html")
        return ManualStep("No page links the manifest: copy these lines into the head of the one that starts", path)

    def _manifest_icons(self, *, ours: bool) -> list[dict[str, object]]:
        """The icons that the manifest names: those of Rivelt, or all others."""
        array, folder = self.manifest.value.get("icons"), self._ours
        usable = [icon for icon in array if isinstance(icon, dict)] if isinstance(array, list) else []
        return [icon for icon in usable if str(icon.get("src", "")).startswith(f"{folder}/icon-") == ours]

    @property
    def _ours(self) -> str:
        """The folder of the images, as the manifest names it."""
        return f"{self.placing.prefix}{folder_of(self.options)}"

    @property
    def _addressed_icons(self) -> tuple[Icon, ...]:
        """The icons by their addresses, as seen from the manifest."""
        return tuple(replace(one, plate=self._addressed(one.plate)) for one in self.icons)

    @property
    def _addressed_startups(self) -> tuple[Startup, ...]:
        return tuple(replace(one, plate=self._addressed(one.plate)) for one in self.startups)

    def _addressed(self, plate: Plate) -> Plate:
        return replace(plate, path=f"{self.placing.prefix}{plate.path}")

    @property
    def _theme(self) -> bool | None:
        """Whether `theme_color` is set; where the brief leaves it out, also one that an earlier apply set to the ground."""
        values = self.manifest.value
        home = f"{join(self.placing.folder, folder_of(self.options))}/"
        is_made = any(path.startswith(home) for path in self.context.generated)
        is_ours = is_made and values.get("theme_color") == values.get("background_color")
        return True if self.options.theme is None and is_ours else self.options.theme

    # What is reported

    def _replaced(self) -> Iterator[str]:
        """What of the person's gives way, and what is left as it is."""
        gone = []
        if self.options.icons is True and isinstance(self.manifest, JsonDocument):
            gone = replaced_icons(self.manifest, self._addressed_icons, self._ours)
        if gone:
            yield f"{self.site.manifest}: {', '.join(gone)} {'gives' if len(gone) == 1 else 'give'} way to the brief's icons"
        theme = self.manifest.value.get("theme_color")
        colour = self.grounds[self.options.look].hex
        if isinstance(theme, str) and theme.upper() != colour:
            if self._theme is True:
                yield f"{self.site.manifest}: theme_color {theme} becomes {colour}"
            elif self._theme is None:
                yield f"{self.site.manifest} keeps its theme_color {theme}; theme = true under [web] makes it the ground"
        if not self.startups and self.options.startup is None:
            yield f"no page links {self.site.manifest}: no startup images are made; startup = true under [web] asks for them"

    def _notes(self) -> Iterator[str]:
        note = renamed(self.options.folder, FILE, "web.folder")
        if note:
            yield note
        if self.grounds["light"] != self.grounds["dark"]:
            yield (
                f"a web app manifest has one background_color: {self.site.manifest} gets the {self.options.look} ground; "
                "startup images and theme colours have both looks"
            )
        yield from self._replaced()
        if templates := self.site.facts.get("templates of pages"):
            yield f"{', '.join(templates.split(chr(10)))}: templates of pages are left alone; copy the lines that a page of HTML gets"
        if self.placing.note and (self.icons or self.startups):
            yield self.placing.note
        if self.options.icons is not False and not self.context.has("mark"):
            yield f"{self.site.manifest} keeps its icons: the brief has no mark"
        if not is_installable(self.manifest.value):
            yield f'{self.site.manifest} has no display such as "standalone": the app opens in the browser, without a launch screen'

    def _unused(self, planned: Plan, pages: list[Page]) -> Iterator[str]:
        """Images that the startup links of before named, or that are called like launch images, and that no source names any more."""
        old: dict[str, None] = {}
        for page in pages:
            for tag in foreign_tags(page):
                if tag.name == "link" and STARTUP in tag.rel:
                    path = resolve(self.project, page.path, href_of(page, tag))
                    old |= {path: None} if path else {}
        old |= {path: None for path in self.project.below(self.home) if _is_launch_image(path.rpartition("/")[2])}
        after = self.project.overlay({edit.path: edit.after for edit in planned.edits})
        ours = {*planned.generated_paths(), *self.context.generated}
        yield from (path for path in old if path not in ours and not self._is_named(after, path))

    def _is_named(self, after: Project, path: str) -> bool:
        name = path.rpartition("/")[2]
        names = {name, unquote(name)}
        found = {other for one in names for other in after.naming(one)}
        sources = (other for other in sorted(found) if other.endswith(_NAMING) and not is_built(other))
        return any(one.encode() in after.read(other) for other in sources for one in names)
