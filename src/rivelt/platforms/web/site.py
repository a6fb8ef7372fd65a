"""A web app: its manifest, and the pages that link it."""

from __future__ import annotations

from msgspec import Struct

from rivelt.scene.site import Site


class LinkedPage(Struct, frozen=True):
    """A page, and what its links to files beside the manifest begin with: "", "/", "%PUBLIC_URL%/"."""

    path: str
    base: str


class WebSite(Site, frozen=True):
    """A web app. Paths are relative to the project's root. `manifest`: its web app manifest. `pages`: those that link it."""

    manifest: str = ""
    pages: tuple[LinkedPage, ...] = ()
