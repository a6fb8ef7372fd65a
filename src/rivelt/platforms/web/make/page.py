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
_COMMENTS = 2  # lines: the comments round ours


def edited(
    page: Page,
    startups: Sequence[Startup],
    base: str,
    grounds: Mapping[Look, Colour],
    *,
    is_installable: bool,
    theme: bool | None,
) -> bytes:
    """Return the page with our lines in its head.

    Startup links of others go, since two that match contradict each other. There is never a second theme colour: those of others stay,
    and ours are left out, unless `theme` asks for ours in their place.

    Args:
        page: the page.
        startups: the startup images.
        base: what links to them begin with.
        grounds: the ground of each look.
        is_installable: whether the manifest makes it an app of its own; only then is it said for older systems too.
        theme: whether our theme colours are wanted; None: where there are none.
    """
    tags = foreign_tags(page)
    own = own_lines(page)
    splices = [_removed(page, tag) for tag in tags if startups and tag.name == "link" and STARTUP in tag.rel]
    themes = [tag for tag in tags if _is_meta(tag, "theme-color")]
    has_theme = theme is True or (theme is None and not themes)
    if theme is True:
        splices += [_removed(page, tag) for tag in themes]
    looks = [(look if len(set(grounds.values())) > 1 else None, ground.hex) for look, ground in grounds.items()]
    manifest = next((tag for tag in tags if tag.name == "link" and "manifest" in tag.rel), None)
    text = _TEMPLATES.render(
        "links.html.j2",
        opening=OPENING,
        closing=CLOSING,
        grounds=(looks if looks[0][0] else looks[:1]) if has_theme else [],
        needs_capable=is_installable and not any(_is_meta(tag, _CAPABLE) for tag in tags),
        # A template's placeholder in the base stays as it is written.
        startups=[
            (found.media, base.replace('"', "&quot;") + quote(found.plate.path, safe="/@")) for found in startups
        ],
        close=_close(page, manifest),
    )
    lines = text.strip().split("\n")
    if len(lines) == _COMMENTS:  # nothing stands between them
        return spliced(page.data, [*splices, *([_removed_lines(page, own)] if own is not None else [])])
    if own is not None:
        indent, newline = indent_at(page.data, own[0]), newline_at(page.data, own[0])
        splices.append(Splice(*own, (newline + indent).join(line.encode() for line in lines)))
    else:
        splices.append(_inserted(page, manifest, lines))
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


def _removed_lines(page: Page, own: tuple[int, int]) -> Splice:
    """Our lines taken out, with the line that they begin on."""
    return _removed(page, Tag("!--", own[0], own[1], {}))


def _inserted(page: Page, manifest: Tag | None, lines: list[str]) -> Splice:
    """Our lines: after the manifest's link, else at the end of the head."""
    data = page.data
    body = [line.encode() for line in lines]
    head_end = next((tag for tag in page.tags if tag.name == "/head"), None)
    if manifest is not None:
        lead = newline_at(data, manifest.start) + indent_at(data, manifest.start)
        return Splice(manifest.end, manifest.end, lead + lead.join(body))
    if head_end is None:
        raise BadInput("the page has no end of a head", place=Place(page.path), hint="Write </head> where it ends.")
    newline, indent = newline_at(data, head_end.start), indent_at(data, head_end.start)
    inner = newline + indent + b"  "
    start = b"  " if begins_line(data, head_end.start) else newline + indent + b"  "
    return Splice(head_end.start, head_end.start, start + inner.join(body) + newline + indent)
