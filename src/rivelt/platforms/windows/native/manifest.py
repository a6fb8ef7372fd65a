"""Package manifests: the launch element of each application in them, whatever its namespace."""

from __future__ import annotations

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.edit.xml import Document, Node
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.platforms.windows.facts import Kind, kind_of, windows_facts
from rivelt.project.project import Project, remembered

_PLACEHOLDER = regex(r"\$\w+\$|\$\(\w+\)|\{\{.*\}\}|@\w+@|%\w+%")


class Launch(Struct, frozen=True):
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
    def kind(self) -> Kind:
        """The kind of Windows that it is for, by its namespace."""
        return kind_of((self.element or self.visual).tag.rpartition("}")[0].removeprefix("{"))

    @property
    def is_optional(self) -> bool:
        """Whether the system may leave the launch screen out (`uap5:Optional`)."""
        names = self.element.attributes.items() if self.element is not None else ()
        return any(key.rpartition("}")[2] == "Optional" and value.lower() in {"true", "1"} for key, value in names)

    @property
    def schema(self) -> str:
        """The namespace of the launch element (or of where it would be), in words."""
        uri = (self.element or self.visual).tag.rpartition("}")[0].removeprefix("{")
        return windows_facts().schemas.get(uri, uri)


class Manifest(Struct, frozen=True):
    """A package manifest and the launch screens in it."""

    document: Document
    launches: tuple[Launch, ...]

    @property
    def kind(self) -> Kind:
        """The kind of Windows that it is for."""
        return self.launches[0].kind

    @property
    def placeholder(self) -> str | None:
        """A placeholder that a build fills in, such as `$placeholder$.png`, where its launch element holds one."""
        values = (value for launch in self.launches for value in (launch.image, launch.background) if value)
        return next((value for value in values if _PLACEHOLDER.search(value)), None)


@remembered
def read_manifest(project: Project, path: str) -> Manifest:
    """Return a package manifest.

    Raises:
        BadInput: it is not well-formed, or no application in it has visual elements.
    """
    document = project.xml(path)
    visuals = [node for node in document.root.walk() if node.local == "VisualElements"]
    if not visuals:
        hint = "Only an app that opens a window has a launch screen."
        raise BadInput("no application in it has visual elements", place=Place(path, document.root.line), hint=hint)
    return Manifest(document, tuple(Launch(visual, visual.first("SplashScreen")) for visual in visuals))


def parsed_colour(text: str) -> Colour | None:
    """Return a colour of a manifest: `#RRGGBB` or a CSS name; None when it is neither, or transparent."""
    try:
        colour = Colour.parse(text.lower())
    except ValueError:
        return None
    return colour if colour.is_opaque else None
