"""The head of a page, in HTML or in code: its startup images, and whether it is an app of its own on older systems."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from rivelt.edit.html import Page
from rivelt.errors import Place
from rivelt.platforms.web.native.in_code import CODE, metadata
from rivelt.platforms.web.native.links import STARTUP
from rivelt.platforms.web.native.page import href_of
from rivelt.project.project import Project, remembered

_CAPABLE = ("apple-mobile-web-app-capable", "mobile-web-app-capable")


class StartupLink(Struct, frozen=True):
    """A startup image: its address, its media query ("": for all), and where it is written."""

    href: str
    media: str
    place: Place


class Head(Struct, frozen=True):
    """The head of a page."""

    path: str
    startups: tuple[StartupLink, ...]
    is_capable: bool


@remembered
def head_of(project: Project, path: str) -> Head:
    """Return the head of a page.

    Raises:
        BadInput: the page cannot be read.
    """
    if path.endswith(CODE):
        return _in_code(project, path)
    page = project.html(path)
    return project.derived("head", (path, page.data), lambda _: _of_page(page))


def _of_page(page: Page) -> Head:
    tags = page.live
    links = tuple(
        StartupLink(href_of(page, tag), tag.get("media"), page.place(tag))
        for tag in tags
        if tag.name == "link" and STARTUP in tag.rel
    )
    names = {tag.get("name").lower() for tag in tags if tag.name == "meta" and tag.get("content") == "yes"}
    return Head(page.path, links, not names.isdisjoint(_CAPABLE))


def _in_code(project: Project, path: str) -> Head:
    app = metadata(project, path).get("appleWebApp")
    values: Mapping[str, Any] = app if isinstance(app, dict) else {}
    images = values.get("startupImage")
    place = Place(path)
    found = []
    for image in images if isinstance(images, list) else [images]:
        if isinstance(image, str):
            found.append(StartupLink(image, "", place))
        elif isinstance(image, dict) and isinstance(image.get("url"), str):
            found.append(StartupLink(image["url"], str(image.get("media") or ""), place))
    return Head(path, tuple(found), values.get("capable") is True)
