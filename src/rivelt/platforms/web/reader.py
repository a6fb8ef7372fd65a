"""What an installed web app shows at launch, worked out from its manifest and its page alone."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.edit.html import Page, parse_html
from rivelt.errors import RiveltError
from rivelt.pixels.header import bitmap_size, corner_colour
from rivelt.platforms.site import Site
from rivelt.platforms.web.facts import HOME_SCREEN, web_facts
from rivelt.platforms.web.links import STARTUP, resolve
from rivelt.platforms.web.manifest import INSTALLED, read_manifest
from rivelt.platforms.web.media import matches
from rivelt.platforms.web.site import WebSite
from rivelt.project.snapshot import Snapshot
from rivelt.scene.model import Fill, Ground, Layer, Picture, Scene, Screen, TextBox, Unknown
from rivelt.units import Look, Rect, Size, centred, contain

_WHITE = Colour(255, 255, 255)
_SIZES = re.compile(r"(\d+)x(\d+)")
_NAME_GAP = 16.0  # dp between icon and name


def scene(snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
    """What `screen` shows in `look` while the app starts."""
    assert isinstance(site, WebSite)
    try:
        manifest = read_manifest(snapshot.read(site.manifest), site.manifest).root.value
        if screen.variant == HOME_SCREEN:
            pages = [parse_html(snapshot.read(page.path), page.path) for page in site.pages]
            return (
                _home_screen(snapshot, manifest, pages[0], screen, look) if pages else _blank(screen, look, "no page")
            )
        return _window(snapshot, site, manifest, screen, look)
    except RiveltError as error:
        return Scene(screen, look, (Unknown(screen.frame, str(error)),), f"cannot tell: {error}")


def after_launch(_snapshot: Snapshot, _site: Site, _screen: Screen, _look: Look) -> tuple[Ground, ...]:
    """Nothing: the launch screen gives way to the app's first page at once."""
    return ()


# On the home screen of an iPhone or iPad


def _home_screen(snapshot: Snapshot, manifest: Mapping[str, Any], page: Page, screen: Screen, look: Look) -> Scene:
    """The one startup image that matches, if it has exactly the size of the screen."""
    capable = any(
        tag.name == "meta" and tag.get("name").lower() == "apple-mobile-web-app-capable" and tag.get("content") == "yes"
        for tag in page.tags
    )
    if manifest.get("display") not in INSTALLED and not capable:
        return _blank(screen, look, "it opens in the browser")
    links = [tag for tag in page.tags if tag.name == "link" and STARTUP in tag.rel]
    verdicts = [(matches(tag.get("media"), screen, look) if tag.get("media") else True, tag) for tag in links]
    found = [tag for verdict, tag in verdicts if verdict]
    unclear = next((tag for verdict, tag in verdicts if verdict is None), None)
    if len(found) > 1 or (unclear is not None and not found):
        reason = (
            f"{len(found)} startup images match this screen"
            if found
            else f"the media query {unclear.get('media') if unclear else ''} cannot be told"
        )
        return Scene(screen, look, (Unknown(screen.frame, reason),), f"cannot tell: {reason}")
    if not found:
        return _blank(screen, look, "no startup image matches")
    href = found[0].get("href")
    path = resolve(snapshot, page.path, href)
    size = bitmap_size(snapshot.read(path)) if path else None
    if path is None or size is None:
        return _blank(screen, look, f"{href} is no image of the project")
    wanted = screen.frame.size.pixels(screen.scale)
    if size != wanted:
        return _blank(
            screen, look, f"{href} is {size.width} x {size.height}, the screen {wanted.width} x {wanted.height}"
        )
    data = snapshot.read(path)
    ground = corner_colour(data)
    behind: tuple[Layer, ...] = (Fill(screen.frame, ground, path),) if ground else ()
    shown = (*behind, Picture(screen.frame, data, path))
    return Scene(screen, look, shown, f"startup image {path.rpartition('/')[2]}")


def _blank(screen: Screen, look: Look, reason: str) -> Scene:
    return Scene(screen, look, (Fill(screen.frame, _WHITE, reason),), f"a white screen: {reason}")


# In a window of Chromium's


def _window(snapshot: Snapshot, site: WebSite, manifest: Mapping[str, Any], screen: Screen, look: Look) -> Scene:
    """The manifest's colour; on a phone its icon and name as well."""
    text = manifest.get("background_color")
    colour = _colour(text)
    if text is not None and colour is None:
        ground: Layer = Unknown(screen.frame, f"background_color {text!r} is no CSS colour")
    else:
        ground = Fill(screen.frame, colour or _WHITE, site.manifest)
    title = f"background_color {text}" if text is not None else "no background_color: a white screen"
    if screen.variant == "window":
        return Scene(screen, look, (ground,), title)
    return Scene(screen, look, (ground, *_icon_and_name(snapshot, site, manifest, screen, colour or _WHITE)), title)


def _colour(text: object) -> Colour | None:
    try:
        return Colour.parse(text).over(_WHITE) if isinstance(text, str) else None
    except ValueError:
        return None


def _icon_and_name(
    snapshot: Snapshot, site: WebSite, manifest: Mapping[str, Any], screen: Screen, ground: Colour
) -> tuple[Layer, ...]:
    facts = web_facts()
    side = facts.shown_icon
    box = centred(Size(side, side), screen.frame)
    path = _best_icon(snapshot, site, manifest)
    icon: Layer = Unknown(box, "the manifest names no icon that can be shown")
    if path is not None:
        data = snapshot.read(path)
        size = Size(*found) if (found := bitmap_size(data)) else read_art(data, path.rpartition("/")[2]).size
        icon = Picture(centred(contain(size, box.size), box), data, path)
    name = str(manifest.get("name") or manifest.get("short_name") or "")
    ink = Colour(0, 0, 0) if ground.contrast(Colour(0, 0, 0)) > ground.contrast(_WHITE) else _WHITE
    frame = Rect(screen.width * 0.1, box.bottom + _NAME_GAP, screen.width * 0.8, facts.shown_name * 1.4)
    return (icon, TextBox(frame, name, facts.shown_name, ink, site.manifest)) if name else (icon,)


def _best_icon(snapshot: Snapshot, site: WebSite, manifest: Mapping[str, Any]) -> str | None:
    """The largest icon for any purpose; where there is none, the largest maskable one."""
    found: list[tuple[bool, int, str]] = []
    icons = manifest.get("icons")
    for icon in icons if isinstance(icons, list) else []:
        if isinstance(icon, dict) and isinstance(icon.get("src"), str):
            path = resolve(snapshot, site.manifest, icon["src"])
            purposes = str(icon.get("purpose") or "any").split()
            sizes = [int(match[1]) for match in _SIZES.finditer(str(icon.get("sizes", "")))] or [0]
            if path is not None and set(purposes) & {"any", "maskable"}:
                found.append(("any" in purposes, max(sizes), path))
    return max(found)[2] if found else None
