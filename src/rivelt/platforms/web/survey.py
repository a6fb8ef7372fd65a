"""What web apps a project holds, and what each shows at launch today."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from rivelt.brief.model import Brief
from rivelt.edit.html import Tag
from rivelt.errors import RiveltError
from rivelt.platforms.web.native.head import Head, head_of
from rivelt.platforms.web.native.in_code import layout_of, manifests_in_code, page_of
from rivelt.platforms.web.native.links import base_of, is_built, resolve
from rivelt.platforms.web.native.manifest import display_of, looks_like_manifest
from rivelt.platforms.web.native.page import href_of
from rivelt.platforms.web.native.source import manifest_of
from rivelt.platforms.web.reader.scene import today
from rivelt.platforms.web.site import LinkedPage, WebSite
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.values import replace

_PAGES = (".html", ".htm")
_PLAIN_NAME, _TYPE = "manifest.json", ".webmanifest"
_TEMPLATES = (".ejs", ".hbs", ".handlebars", ".pug", ".njk", ".liquid", ".erb", ".twig", ".mustache", ".cshtml")
_LARGEST_PAGE = 2_000_000  # bytes


def survey(project: Project, _brief: Brief | None = None) -> list[WebSite]:
    """Return the web apps: one for each web app manifest, with the pages that link it."""
    return _surveyed(project)


@remembered
def _surveyed(project: Project) -> list[WebSite]:
    pages: dict[str, list[LinkedPage]] = {}
    for path, tag in _manifest_links(project):
        manifest = resolve(project, path, href_of(project.html(path), tag))
        if manifest is not None:
            pages.setdefault(manifest, []).append(LinkedPage(path, base_of(tag.get("href"))))
    for path in project.paths:
        if path not in pages and not is_built(path) and _may_be_manifest(project, path):
            pages[path] = [LinkedPage(page, "") for page in (join(parent(path), "index.html"),) if page in project]
    for path in manifests_in_code(project):
        linked = layout_of(project, path) or page_of(project, path)
        pages[path] = [LinkedPage(linked, "")] if linked is not None else []
    return [_site(project, manifest, tuple(linked)) for manifest, linked in sorted(pages.items())]


def _manifest_links(project: Project) -> Iterator[tuple[str, Tag]]:
    """The first link to a manifest of each page."""
    for path in project.paths:
        if not path.lower().endswith(_PAGES) or is_built(path):
            continue
        try:
            data = project.read(path)
            if len(data) > _LARGEST_PAGE or b"manifest" not in data or b"<link" not in data.lower():
                continue
            page = project.html(path)
        except RiveltError:
            continue
        link = next((tag for tag in page.live if tag.name == "link" and "manifest" in tag.rel), None)
        if link is not None and link.get("href"):
            yield path, link


def _may_be_manifest(project: Project, path: str) -> bool:
    name = path.rpartition("/")[2]
    if name != _PLAIN_NAME and not name.endswith(_TYPE):
        return False
    try:
        value = project.json(path).value
        return name.endswith(_TYPE) or looks_like_manifest(value)
    except RiveltError:
        return name.endswith(_TYPE)  # such a file is one, and should be mentioned


def _site(project: Project, path: str, pages: tuple[LinkedPage, ...]) -> WebSite:
    site = WebSite("web", path, manifest=path, pages=pages, path=path, names=(path, parent(path) or "."))
    try:
        manifest = manifest_of(project, path)
        heads = [head_of(project, page.path) for page in pages]
        touches = (path, *(page.path for page in pages))
        return replace(
            site,
            shows=lambda: today(project, site),
            facts=_facts(manifest.value, heads, _templates(project, path)),
            touches=touches,
        )
    except RiveltError as error:
        return replace(site, blocked=error)


def _templates(project: Project, path: str) -> list[str]:
    """The templates of pages in other languages that link a manifest of this name: they are named, and left alone."""
    name = path.rpartition("/")[2].encode()
    found = (one for one in project.paths if one.endswith(_TEMPLATES) and project.is_own(one) and not is_built(one))
    return [one for one in found if name in (data := project.read(one)) and b"manifest" in data]


def _facts(value: Mapping[str, Any], heads: list[Head], templates: list[str]) -> dict[str, str]:
    icons = value.get("icons")
    shown = [
        f"{icon.get('sizes', 'no size')} {icon.get('purpose', 'any')}"
        for icon in (icons if isinstance(icons, list) else [])
        if isinstance(icon, dict)
    ]
    links = sum(len(head.startups) for head in heads)
    facts = {
        "display": str(display_of(value) or "none: it opens in the browser"),
        "background_color": str(value.get("background_color", "none")),
        "theme_color": str(value.get("theme_color", "none")),
        "icons": ", ".join(shown) or "none",
        "pages that link it": "\n".join(head.path for head in heads) or "none",
        "templates of pages": "\n".join(templates),
        "startup images": f"{links} linked" if links else "none",
    }
    return {key: value for key, value in facts.items() if value}
