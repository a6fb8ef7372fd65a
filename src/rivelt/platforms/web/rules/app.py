"""The rules of web apps."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from rivelt.colour import Colour
from rivelt.edit.jsontext import JsonDocument
from rivelt.edit.source.script import Computed
from rivelt.errors import Place
from rivelt.patterns import regex
from rivelt.platforms.web.facts import HOME_SCREEN, both_ways, every_screen, wanted_screens, web_facts
from rivelt.platforms.web.native.head import Head, head_of
from rivelt.platforms.web.native.in_code import CodeManifest
from rivelt.platforms.web.native.links import resolve
from rivelt.platforms.web.native.manifest import INSTALLED, display_of
from rivelt.platforms.web.native.media import startups_that_fit
from rivelt.platforms.web.native.served import served
from rivelt.platforms.web.native.source import manifest_of
from rivelt.platforms.web.options import WebTable
from rivelt.platforms.web.rules import BOOK
from rivelt.platforms.web.site import WebSite
from rivelt.rules.rulebook import Said, Subject, broken, unknown
from rivelt.scene.model import Screen
from rivelt.units import LOOKS

_SIZE = regex(r"(\d+)x(\d+)", re.IGNORECASE)


def _manifest(subject: Subject[WebSite]) -> JsonDocument | CodeManifest:
    return manifest_of(subject.project, subject.site.manifest)


def _heads(subject: Subject[WebSite]) -> Iterator[Head]:
    """The heads of the pages that link the manifest."""
    for linked in subject.site.pages:
        yield head_of(subject.project, linked.path)


@BOOK.rule("WEB01")
def background_color_is_set(subject: Subject[WebSite]) -> Iterator[Said]:
    """Without it the app starts on white."""
    manifest = _manifest(subject)
    if "background_color" not in manifest.value:
        yield broken(
            "the manifest has no background_color: the app starts on white",
            "Set it to the ground.",
            manifest.place(),
        )


@BOOK.rule("WEB02")
def colours_are_valid(subject: Subject[WebSite]) -> Iterator[Said]:
    """Both colours are CSS colours."""
    manifest = _manifest(subject)
    for key in ("background_color", "theme_color"):
        text = manifest.value.get(key)
        if isinstance(text, Computed):
            yield unknown(f"{key} is {text}", manifest.place(key))
        elif text is not None and not _is_colour(text):
            yield broken(f"{key} is {text!r}, not a CSS colour", 'Write it as "#RRGGBB".', manifest.place(key))


def _is_colour(text: object) -> bool:
    try:
        Colour.parse(text if isinstance(text, str) else "")
    except ValueError:
        return False
    return True


@BOOK.rule("WEB03")
def icons_are_there(subject: Subject[WebSite]) -> Iterator[Said]:
    """Icons of both sizes, and of the sizes that they say."""
    manifest = _manifest(subject)
    icons = manifest.value.get("icons")
    usable = [icon for icon in icons if isinstance(icon, dict)] if isinstance(icons, list) else []
    sizes = {int(found[1]) for icon in usable for found in _SIZE.finditer(str(icon.get("sizes", "")))}
    is_any = any("any" in str(icon.get("sizes", "")).lower().split() for icon in usable)
    for side in () if is_any else web_facts().icons:
        if not any(size >= side for size in sizes):
            yield broken(
                f"the manifest has no icon of {side} x {side}",
                "Add one, or run `rivelt apply`.",
                manifest.place("icons"),
            )
    for icon in usable:
        yield from _icon(subject, manifest, icon)


def _icon(subject: Subject[WebSite], manifest: JsonDocument | CodeManifest, icon: Mapping[str, Any]) -> Iterator[Said]:
    said = _SIZE.findall(str(icon.get("sizes", "")))
    path = resolve(subject.project, manifest.path, str(icon.get("src", "")))
    if path is None:
        yield unknown(f"the icon {icon.get('src')} is not in the project")
        return
    size = subject.project.image(path).size
    if size is not None and len(said) == 1 and tuple(map(int, said[0])) != size:
        message = f"{icon.get('src')} is {size.width} x {size.height}, not {said[0][0]}x{said[0][1]}"
        yield broken(message, "Correct the entry, or the file.", manifest.place("icons"))


@BOOK.rule("WEB04")
def one_startup_image_matches(subject: Subject[WebSite]) -> Iterator[Said]:
    """On each iPhone and iPad, both ways up, in each look, one startup image matches: not none, not two."""
    for head in _heads(subject):
        if not head.startups:
            continue
        none, two = [], []
        for screen in _home_screens(subject):
            for look in LOOKS:
                verdicts = startups_that_fit(subject.project, head, screen, look)
                if None in verdicts:
                    yield unknown("the media query of a startup image is not understood")
                    return
                count = verdicts.count(True)
                none += [f"{screen.system} ({look})"] if count == 0 else []
                two += [f"{screen.system} ({look})"] if count > 1 else []
        place = head.startups[0].place
        if two:
            yield broken(
                f"several startup images match on {len(two)} screens, {two[0]} among them",
                "Tell them apart by their media queries.",
                place,
            )
        if none:
            yield broken(
                f"no startup image matches on {len(none)} screens, {none[0]} among them: they start on white",
                "Add them, or run `rivelt apply`.",
                place,
            )


def _home_screens(subject: Subject[WebSite]) -> Iterator[Screen]:
    """The screens that startup images are wanted for: those of the brief, else all."""
    options = subject.brief.table("web", WebTable) if subject.brief else WebTable()
    for facts in wanted_screens(options.screens):
        yield from both_ways(facts)


@BOOK.rule("WEB05")
def startup_images_have_their_sizes(subject: Subject[WebSite]) -> Iterator[Said]:
    """An image is shown only where its size is exactly that of the screen."""
    wanted = {
        tuple(screen.frame.size.pixels(screen.scale)) for screen in every_screen() if screen.variant == HOME_SCREEN
    }
    for head in _heads(subject):
        for link in head.startups:
            path = resolve(subject.project, head.path, link.href)
            size = subject.project.image(path).size if path else None
            if path is None:
                message = f"the startup image {link.href} is not there"
                yield broken(message, "Add the file, or take the link out.", link.place)
            elif size is None or tuple(size) not in wanted:
                shown = f"{size.width} x {size.height}" if size else "no image"
                message = f"{link.href} is {shown}: no iPhone or iPad has that size"
                yield broken(message, "Export it at a screen's exact size.", link.place)


@BOOK.rule("WEB06")
def it_is_an_app(subject: Subject[WebSite]) -> Iterator[Said]:
    """Only an app with a window of its own has a launch screen."""
    manifest = _manifest(subject)
    display = display_of(manifest.value)
    if display not in INSTALLED:
        shown = repr(display) if display is not None else "not set"
        yield broken(
            f"display is {shown}: the app opens in the browser, without a launch screen",
            'Set display to "standalone".',
            manifest.place("display"),
        )


@BOOK.rule("WEB07")
def what_is_linked_is_served(subject: Subject[WebSite]) -> Iterator[Said]:
    """The manifest, its icons and the startup images are in folders that the build serves."""
    manifest, project = _manifest(subject), subject.project
    found = served(project, manifest.path)
    if found.unknown:
        yield unknown(f"what is served is not known: {found.unknown}")
        return
    if found.is_plain:
        return
    if found.url_of(manifest.path) is None and not isinstance(manifest, CodeManifest):
        hint = f"Add it to the assets in {found.by}, or move it to a folder that is served."
        yield broken(f"{manifest.path} is not served: the app cannot be installed", hint, Place(manifest.path))
    icons = manifest.value.get("icons")
    named = [str(icon.get("src")) for icon in (icons if isinstance(icons, list) else []) if isinstance(icon, dict)]
    files = {resolve(project, manifest.path, src): manifest.place("icons") for src in named}
    for head in _heads(subject):
        files |= {resolve(project, head.path, link.href): link.place for link in head.startups}
    lost = [(path, place) for path, place in files.items() if path is not None and found.url_of(path) is None]
    if lost:
        path, place = lost[0]
        others = f", and {len(lost) - 1} more" if len(lost) > 1 else ""
        hint = f"Add its folder to the assets in {found.by}, or run `rivelt apply`."
        yield broken(f"{path} is in no folder that the build serves{others}", hint, place)
