"""What would be done to a web app: its images, its manifest, and the head of the pages that link it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from urllib.parse import unquote

from rivelt.edit.html import Page, parse_html
from rivelt.layout.context import PlanContext
from rivelt.plan.model import EditFile, ManualStep, Plan, WriteFile
from rivelt.plan.names import FILE, renamed
from rivelt.platforms.web.make.manifest import with_launch
from rivelt.platforms.web.make.page import edited
from rivelt.platforms.web.make.plates import Startup, folder_of, icons, startups
from rivelt.platforms.web.native.links import STARTUP, is_built, resolve
from rivelt.platforms.web.native.manifest import is_installable
from rivelt.platforms.web.native.page import foreign_tags
from rivelt.platforms.web.options import WebTable
from rivelt.platforms.web.site import WebSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent

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
_LAUNCH_WORDS = re.compile(r"(?:splash|launch|startup|start-?screen).*\.(?:png|jpe?g|webp)$", re.IGNORECASE)
_DOCUMENT = (
    '<!doctype html>\n<html lang="en">\n<head>\n<title>Lines for the head of the start page</title>\n</head>\n</html>\n'
)


def plan(context: PlanContext, project: Project, site: WebSite) -> Plan:
    """All that would be done to a web app.

    Raises:
        BadInput: its manifest or a page cannot be edited, or the brief asks for screens that do not exist.
    """
    return _Planner(context, project, site).plan()


@dataclass
class _Planner:
    """One web app."""

    context: PlanContext
    project: Project
    site: WebSite

    def __post_init__(self) -> None:
        self.options = self.context.brief.table("web", WebTable)
        self.manifest = self.project.json(self.site.manifest)
        self.home = parent(self.site.manifest)
        self.startups: tuple[Startup, ...] = startups(self.context)
        self.icons = icons(self.context)
        self.grounds = {look: shown.ground for look, shown in self.context.brief.looks.items()}

    def plan(self) -> Plan:
        """The whole plan."""
        made = [*(icon.plate for icon in self.icons), *(found.plate for found in self.startups)]
        colour = self.grounds[self.options.look].hex
        before = self.manifest.data
        after = with_launch(self.manifest, colour, self.icons, folder_of(self.options))
        edits = [EditFile(self.site.manifest, before, after, "background_color, theme_color and icons")]
        pages = [self.project.html(page.path) for page in self.site.pages]
        for page, linked in zip(pages, self.site.pages, strict=True):
            summary = f"theme colours and {len(self.startups)} startup images"
            edits.append(EditFile(page.path, page.data, self._edited(page, linked.base), summary))
        planned = Plan(
            "web",
            self.site.name,
            plates=tuple(replace(plate, path=join(self.home, plate.path)) for plate in made),
            files=() if pages else (self._lines_alone(),),
            edits=tuple(edit for edit in edits if edit.before != edit.after),
            manual_steps=() if pages else (self._by_hand(),),
            notes=tuple(self._notes()),
        )
        return replace(planned, unused=tuple(self._unused(planned, pages)))

    def _edited(self, page: Page, base: str) -> bytes:
        return edited(page, self.startups, base, self.grounds, is_installable=is_installable(self.manifest))

    # Without a page

    def _lines_alone(self) -> WriteFile:
        page = parse_html(_DOCUMENT.encode(), "lines")
        path = join(self.home, folder_of(self.options), "head.html")
        return WriteFile(path, self._edited(page, ""), "lines for the head of the start page")

    def _by_hand(self) -> ManualStep:
        path = join(self.home, folder_of(self.options), "head.html")
        return ManualStep("No page links the manifest: copy these lines into the head of the one that starts", path)

    # What is said

    def _notes(self) -> Iterator[str]:
        note = renamed(self.options.folder, FILE, "web.folder")
        if note:
            yield note
        if self.grounds["light"] != self.grounds["dark"]:
            yield (
                f"a web app manifest has one background_color: {self.site.manifest} gets the {self.options.look} ground; "
                "startup images and theme colours have both looks"
            )
        if self.options.icons and not self.context.has("mark"):
            yield f"{self.site.manifest} keeps its icons: the brief has no mark"
        if not is_installable(self.manifest):
            yield f'{self.site.manifest} has no display such as "standalone": the app opens in the browser, without a launch screen'

    def _unused(self, planned: Plan, pages: list[Page]) -> Iterator[str]:
        """Images that the links and icons of before named, or that are called like launch images, and that no source names any more."""
        old: dict[str, None] = {}
        for page in pages:
            for tag in foreign_tags(page):
                if tag.name == "link" and STARTUP in tag.rel:
                    path = resolve(self.project, page.path, tag.get("href"))
                    old |= {path: None} if path else {}
        array = self.manifest.value.get("icons")
        for icon in array if isinstance(array, list) else []:
            if isinstance(icon, dict) and isinstance(icon.get("src"), str):
                path = resolve(self.project, self.site.manifest, icon["src"])
                old |= {path: None} if path else {}
        old |= {path: None for path in self.project.below(self.home) if _LAUNCH_WORDS.search(path.rpartition("/")[2])}
        after = self.project.overlay({edit.path: edit.after for edit in planned.edits})
        ours = {*planned.generated_paths(), *self.context.generated}
        yield from (path for path in old if path not in ours and not self._is_named(after, path))

    def _is_named(self, after: Project, path: str) -> bool:
        name = path.rpartition("/")[2]
        names = {name, unquote(name)}
        found = {other for one in names for other in after.naming(one)}
        sources = (other for other in sorted(found) if other.endswith(_NAMING) and not is_built(other))
        return any(one.encode() in after.read(other) for other in sources for one in names)
