"""Package manifests: the launch element of each application in them, whatever its namespace, read and set by splicing."""

from __future__ import annotations

import re
from dataclasses import dataclass

from rivelt.colour import Colour
from rivelt.edit.splice import Splice, spliced
from rivelt.edit.xml import Document, Node, parse_xml
from rivelt.errors import BadInput, Place
from rivelt.platforms.windows.facts import windows_facts
from rivelt.xmltext import quoted

_PREFIX = re.compile(rb"<(?:([^\s:/>]+):)?")
_SISTERS = ("DefaultTile", "LockScreen")


@dataclass(frozen=True)
class Launch:
    """What one application shows while it starts: its visual elements, and its launch element if it has one."""

    visual: Node
    element: Node | None

    @property
    def image(self) -> str | None:
        """The image it names, as written."""
        return self.element.get("Image") if self.element is not None else None

    @property
    def background(self) -> str | None:
        """The colour behind the image, as written: its own, else that of the tile."""
        own = self.element.get("BackgroundColor") if self.element is not None else None
        return own or self.visual.get("BackgroundColor")

    @property
    def schema(self) -> str:
        """The namespace of the launch element (or of where it would be), in words."""
        uri = (self.element or self.visual).tag.rpartition("}")[0].removeprefix("{")
        return windows_facts().schemas.get(uri, uri)


@dataclass(frozen=True)
class Manifest:
    """A package manifest and the launch screens in it."""

    document: Document
    launches: tuple[Launch, ...]

    def with_launch(self, image: str, ground: Colour, ground_text: str) -> bytes:
        """The manifest with image and colour in every launch element; an element that is missing is added.

        A colour that is there already, under any name, stays as it is written.
        """
        splices: list[Splice] = []
        for launch in self.launches:
            if launch.element is None:
                splices.append(self._added(launch.visual, image, ground_text))
                continue
            if launch.image != image:
                splices.append(self.document.set_attribute(launch.element, "Image", image))
            if _colour(launch.element.get("BackgroundColor")) != ground:
                splices.append(self.document.set_attribute(launch.element, "BackgroundColor", ground_text))
        return spliced(self.document.data, splices)

    def _added(self, visual: Node, image: str, ground_text: str) -> Splice:
        found = _PREFIX.match(self.document.data, visual.start)
        prefix = f"{found[1].decode()}:" if found is not None and found[1] else ""
        close = " />" if b" />" in self.document.data else "/>"
        line = f"<{prefix}SplashScreen Image={quoted(image)} BackgroundColor={quoted(ground_text)}{close}"
        after = next((node for name in reversed(_SISTERS) if (node := visual.first(name)) is not None), None)
        if after is not None:
            return self.document.insert_after(after, [line])
        return self.document.append_child(visual, [line], self.document.indent_unit())


def read_manifest(data: bytes, path: str) -> Manifest:
    """Read a package manifest.

    Raises:
        BadInput: it is not well-formed, or no application in it has visual elements.
    """
    document = parse_xml(data, path)
    visuals = [node for node in document.root.walk() if node.local == "VisualElements"]
    if not visuals:
        hint = "Only an app that opens a window has a launch screen."
        raise BadInput("no application in it has visual elements", place=Place(path, document.root.line), hint=hint)
    return Manifest(document, tuple(Launch(visual, visual.first("SplashScreen")) for visual in visuals))


def _colour(text: str | None) -> Colour | None:
    return parsed_colour(text) if text else None


def parsed_colour(text: str) -> Colour | None:
    """A colour of a manifest: `#RRGGBB` or a CSS name; None when it is neither, or transparent."""
    try:
        colour = Colour.parse(text.lower())
    except ValueError:
        return None
    return colour if colour.is_opaque else None
