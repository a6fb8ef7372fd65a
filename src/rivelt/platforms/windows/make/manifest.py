"""Package manifests, edited: image and colour set in every launch element, whatever its namespace."""

from __future__ import annotations

from rivelt.colour import Colour
from rivelt.edit.splice import Splice, spliced
from rivelt.edit.xml import Document, Node
from rivelt.patterns import regex
from rivelt.platforms.windows.native.manifest import Manifest, parsed_colour
from rivelt.xmltext import quoted

_PREFIX = regex(rb"<(?:([^\s:/>]+):)?")
_SIBLINGS = ("DefaultTile", "LockScreen")


def with_launch(manifest: Manifest, image: str, ground: Colour, ground_text: str) -> bytes:
    """Return the manifest with image and colour in every launch element; an element that is missing is added.

    A colour that is there already, under any name, stays as it is written.
    """
    document = manifest.document
    splices: list[Splice] = []
    for launch in manifest.launches:
        element = launch.element
        if element is None:
            splices.append(_added(document, launch.visual, image, ground_text))
            continue
        if launch.image != image:
            splices.append(document.set_attribute(element, "Image", image))
        colour = element.get("BackgroundColor")
        if colour is None or parsed_colour(colour) != ground:
            splices.append(document.set_attribute(element, "BackgroundColor", ground_text))
    return spliced(document.data, splices)


def _added(document: Document, visual: Node, image: str, ground_text: str) -> Splice:
    found = _PREFIX.match(document.data, visual.start)
    prefix = f"{found[1].decode()}:" if found is not None and found[1] else ""
    close = " />" if b" />" in document.data else "/>"
    line = f"<{prefix}SplashScreen Image={quoted(image)} BackgroundColor={quoted(ground_text)}{close}"
    after = next((node for name in reversed(_SIBLINGS) if (node := visual.first(name)) is not None), None)
    if after is not None:
        return document.insert_after(after, [line])
    return document.append_child(visual, [line], document.indent_unit())
