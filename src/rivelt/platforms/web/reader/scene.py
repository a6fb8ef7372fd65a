"""What an installed web app shows at launch, worked out from its manifest and its page alone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.edit.source.script import Computed
from rivelt.errors import RiveltError
from rivelt.patterns import regex
from rivelt.platforms.web.facts import HOME_SCREEN, screens, web_facts
from rivelt.platforms.web.native.head import head_of
from rivelt.platforms.web.native.links import resolve
from rivelt.platforms.web.native.manifest import INSTALLED, display_of
from rivelt.platforms.web.native.media import startups_that_fit
from rivelt.platforms.web.native.source import manifest_of
from rivelt.platforms.web.site import WebSite
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen, TextBox, Unknown
from rivelt.units import Look, Rect, Size, centred, contain

_WHITE = Colour(255, 255, 255)
_IN_BROWSER = "no launch screen: it opens in the browser"
_SIZES = regex(r"(\d+)x(\d+)")
_NAME_GAP = 16.0  # dp between icon and name


def today(project: Project, site: WebSite) -> str:
    """Return what the first screen shows in the light look, in words; no image is decoded for it."""
    screen = screens()[0]
    try:
        found = _startup(project, site, manifest_of(project, site.manifest).value, screen, "light")
    except RiveltError as error:
        found = Scene.unknown(screen, "light", str(error))
    return found.title if isinstance(found, Scene) else _named(found)


def scene(project: Project, site: WebSite, screen: Screen, look: Look) -> Scene:
    """Return what `screen` shows in `look` while the app starts."""
    try:
        manifest = manifest_of(project, site.manifest).value
        if screen.variant == HOME_SCREEN:
            found = _startup(project, site, manifest, screen, look)
            return found if isinstance(found, Scene) else _home_screen(project, found, screen, look)
        if display_of(manifest) not in INSTALLED:
            return Scene(screen, look, (), _IN_BROWSER)
        return _window(project, site, manifest, screen, look)
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))


# On the home screen of an iPhone or iPad


def _startup(project: Project, site: WebSite, manifest: Mapping[str, Any], screen: Screen, look: Look) -> str | Scene:
    """The path of the one startup image that matches, if it has exactly the size of the screen; else what is shown without one."""
    if not site.pages:
        return _blank(screen, look, "no page")
    head = head_of(project, site.pages[0].path)
    if display_of(manifest) not in INSTALLED and not head.is_capable:
        return Scene(screen, look, (), _IN_BROWSER)
    verdicts = list(zip(startups_that_fit(project, head, screen, look), head.startups, strict=True))
    found = [link for verdict, link in verdicts if verdict]
    unclear = next((link for verdict, link in verdicts if verdict is None), None)
    if len(found) > 1 or (unclear is not None and not found):
        reason = (
            f"{len(found)} startup images match this screen"
            if found
            else f"the media query {unclear.media if unclear else ''} is unknown"
        )
        return Scene.unknown(screen, look, reason)
    if not found:
        return _blank(screen, look, "no startup image matches")
    href = found[0].href
    path = resolve(project, head.path, href)
    size = project.image(path).size if path else None
    if path is None or size is None:
        return _blank(screen, look, f"{href} is not an image of the project")
    wanted = screen.frame.size.pixels(screen.scale)
    if size != wanted:
        return _blank(
            screen, look, f"{href} is {size.width} x {size.height}, the screen {wanted.width} x {wanted.height}"
        )
    return path


def _home_screen(project: Project, path: str, screen: Screen, look: Look) -> Scene:
    """A startup image that has the size of the screen."""
    image = project.image(path)
    behind: tuple[Layer, ...] = (Fill(screen.frame, image.corner, path),) if image.corner else ()
    return Scene(screen, look, (*behind, Picture(screen.frame, image, path)), _named(path))


def _named(path: str) -> str:
    return f"startup image {path.rpartition('/')[2]}"


def _blank(screen: Screen, look: Look, reason: str) -> Scene:
    return Scene(screen, look, (Fill(screen.frame, _WHITE, reason),), f"a white screen: {reason}")


# In a window of Chromium's


def _window(project: Project, site: WebSite, manifest: Mapping[str, Any], screen: Screen, look: Look) -> Scene:
    """The manifest's colour; on a phone its icon and name as well."""
    text = manifest.get("background_color")
    colour = _colour(text)
    if text is not None and colour is None:
        ground: Layer = Unknown(
            screen.frame, f"background_color {text if isinstance(text, Computed) else repr(text)} is not a CSS colour"
        )
    else:
        ground = Fill(screen.frame, colour or _WHITE, site.manifest)
    title = f"background_color {text}" if text is not None else "no background_color: a white screen"
    if screen.variant == "window":
        return Scene(screen, look, (ground,), title)
    return Scene(screen, look, (ground, *_icon_and_name(project, site, manifest, screen, colour or _WHITE)), title)


def _colour(text: object) -> Colour | None:
    try:
        return Colour.parse(text).over(_WHITE) if isinstance(text, str) else None
    except ValueError:
        return None


def _icon_and_name(
    project: Project, site: WebSite, manifest: Mapping[str, Any], screen: Screen, ground: Colour
) -> tuple[Layer, ...]:
    facts = web_facts()
    side = facts.shown_icon
    box = centred(Size(side, side), screen.frame)
    path = _best_icon(project, site, manifest)
    icon: Layer = Unknown(box, "the manifest names no icon that can be shown")
    if path is not None:
        image = project.image(path)
        size = Size(*image.size) if image.size else read_art(image.data, path.rpartition("/")[2]).size
        icon = Picture(centred(contain(size, box.size), box), image, path)
    name = str(manifest.get("name") or manifest.get("short_name") or "")
    ink = Colour(0, 0, 0) if ground.contrast(Colour(0, 0, 0)) > ground.contrast(_WHITE) else _WHITE
    frame = Rect(screen.width * 0.1, box.bottom + _NAME_GAP, screen.width * 0.8, facts.shown_name * 1.4)
    return (icon, TextBox(frame, name, facts.shown_name, ink, site.manifest)) if name else (icon,)


def _best_icon(project: Project, site: WebSite, manifest: Mapping[str, Any]) -> str | None:
    """The largest icon for any purpose; where there is none, the largest maskable one."""
    found: list[tuple[bool, int, str]] = []
    icons = manifest.get("icons")
    for icon in icons if isinstance(icons, list) else []:
        if isinstance(icon, dict) and isinstance(icon.get("src"), str):
            path = resolve(project, site.manifest, icon["src"])
            purposes = str(icon.get("purpose") or "any").split()
            sizes = [int(match[1]) for match in _SIZES.finditer(str(icon.get("sizes", "")))] or [0]
            if path is not None and set(purposes) & {"any", "maskable"}:
                found.append(("any" in purposes, max(sizes), path))
    return max(found)[2] if found else None
