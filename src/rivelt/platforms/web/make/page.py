"""The head of a page: the lines between two comments that are Rivelt's, and the lines of others that would contradict them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from urllib.parse import quote

from rivelt.colour import Colour
from rivelt.edit.html import Page, Tag
from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at, spliced
from rivelt.errors import BadInput, Place
from rivelt.platforms.web.make.plates import Startup
from rivelt.platforms.web.native.links import STARTUP
from rivelt.platforms.web.native.page import CLOSING, OPENING, foreign_tags, own_lines
from rivelt.templating import Templates
from rivelt.units import Look

_CAPABLE = "apple-mobile-web-app-capable"
_TEMPLATES = Templates("rivelt.platforms.web")


def edited(
    page: Page, startups: Sequence[Startup], base: str, grounds: Mapping[Look, Colour], *, is_installable: bool
) -> bytes:
    """The page with our lines in its head.

    Startup links of others go, since two that match contradict each other; theme colours of others are set to the grounds.

    Args:
        page: the page.
        startups: the startup images.
        base: what links to them begin with.
        grounds: the ground of each look.
        is_installable: whether the manifest makes it an app of its own; only then is it said for older systems too.
    """
    tags = foreign_tags(page)
    own = own_lines(page)
    splices = [_removed(page, tag) for tag in tags if tag.name == "link" and STARTUP in tag.rel]
    themes = [tag for tag in tags if _is_meta(tag, "theme-color")]
    for tag in themes:
        ground = grounds["dark" if "dark" in tag.get("media") else "light"]
        if tag.get("content").upper() != ground.hex:
            splices.append(page.set_attribute(tag, "content", ground.hex))
    looks = [(look if len(set(grounds.values())) > 1 else None, ground.hex) for look, ground in grounds.items()]
    manifest = next((tag for tag in tags if tag.name == "link" and "manifest" in tag.rel), None)
    text = _TEMPLATES.render(
        "links.html.j2",
        opening=OPENING,
        closing=CLOSING,
        grounds=looks if looks[0][0] else looks[:1],
        needs_capable=is_installable and not any(_is_meta(tag, _CAPABLE) for tag in tags),
        # A template's placeholder in the base stays as it is written.
        startups=[
            (found.media, base.replace('"', "&quot;") + quote(found.plate.path, safe="/@")) for found in startups
        ],
        close=_close(page, manifest),
    )
    lines = text.strip().split("\n")
    if own is not None:
        indent, newline = indent_at(page.data, own[0]), newline_at(page.data, own[0])
        splices.append(Splice(*own, (newline + indent).join(line.encode() for line in lines)))
    else:
        splices.append(_inserted(page, manifest, themes[0] if themes else None, lines))
    return spliced(page.data, splices)


def _is_meta(tag: Tag, name: str) -> bool:
    return tag.name == "meta" and tag.get("name").lower() == name


def _close(page: Page, example: Tag | None) -> str:
    """How void elements end in this page."""
    text = page.data[example.start : example.end] if example is not None else b">"
    return " />" if text.endswith(b" />") else "/>" if text.endswith(b"/>") else ">"


def _removed(page: Page, tag: Tag) -> Splice:
    """A tag taken out, with the line that it alone stands on."""
    line_end = page.data.find(b"\n", tag.end)
    if begins_line(page.data, tag.start) and line_end >= 0 and not page.data[tag.end : line_end].strip():
        return Splice(page.data.rfind(b"\n", 0, tag.start) + 1, line_end + 1, b"")
    return Splice(tag.start, tag.end, b"")


def _inserted(page: Page, manifest: Tag | None, theme: Tag | None, lines: list[str]) -> Splice:
    """Our lines: before the first theme colour of others, since the first that fits counts; else after the manifest's link."""
    data = page.data
    body = [line.encode() for line in lines]
    head_end = next((tag for tag in page.tags if tag.name == "/head"), None)
    if theme is not None and (manifest is None or theme.start < manifest.start):
        lead = newline_at(data, theme.start) + indent_at(data, theme.start)
        return Splice(theme.start, theme.start, lead.join([*body, b""]))
    if manifest is not None:
        lead = newline_at(data, manifest.start) + indent_at(data, manifest.start)
        return Splice(manifest.end, manifest.end, lead + lead.join(body))
    if head_end is None:
        raise BadInput("the page has no end of a head", place=Place(page.path), hint="Write </head> where it ends.")
    newline, indent = newline_at(data, head_end.start), indent_at(data, head_end.start)
    inner = newline + indent + b"  "
    start = b"  " if begins_line(data, head_end.start) else newline + indent + b"  "
    return Splice(head_end.start, head_end.start, start + inner.join(body) + newline + indent)
