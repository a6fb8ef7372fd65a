"""What an iPhone or iPad shows at launch, worked out from the native files alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rivelt.colour import Colour
from rivelt.edit.plist import Value
from rivelt.edit.xml import Document, Node
from rivelt.errors import RiveltError
from rivelt.platforms.ios.native.catalog import find_colour, find_image, image_size
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.native.targets import AppTarget, app_target
from rivelt.platforms.ios.reader.layout import VIEW_TAGS, solve
from rivelt.platforms.ios.site import Declaration, IosSite
from rivelt.project.project import Project
from rivelt.scene.model import Cause, Fill, Layer, Picture, Scene, Screen, TextBox, Unknown
from rivelt.units import Look, Rect, Size, centred, contain

_DEFAULT_FONT_SIZE, _LARGEST_FONT_SIZE = 17.0, 1000.0  # points; 17 is what UIKit gives a label

# UIColor's own names in storyboards, light and dark (Apple: "UI element colors").
_SYSTEM_COLOURS: dict[str, tuple[Colour, Colour]] = {
    "systemBackgroundColor": (Colour(255, 255, 255), Colour(0, 0, 0)),
    "labelColor": (Colour(0, 0, 0), Colour(255, 255, 255)),
    "whiteColor": (Colour(255, 255, 255), Colour(255, 255, 255)),
    "blackColor": (Colour(0, 0, 0), Colour(0, 0, 0)),
    "darkTextColor": (Colour(0, 0, 0), Colour(0, 0, 0)),
}


def scene(project: Project, site: IosSite, screen: Screen, look: Look) -> Scene:
    """What `screen` shows in `look` while the site's app target starts."""
    try:
        target = app_target(project, site.project_file, site.target_name)
        if target is None:
            return Scene.unknown(screen, look, f"target {site.target_name} is not in {site.project_file}")
        wanted = {found.name for found in site.declarations}
        declarations = [found for found in target.declarations() if not wanted or found.name in wanted]
        return _of_target(project, target, declarations, screen, look)
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))


def waiting(project: Project, site: IosSite, screen: Screen, look: Look) -> Scene | None:
    """What the storyboard of the app's own first moment shows; None where there is none."""
    path = next(
        (path for path in sorted(site.members) if path.endswith("Waiting.storyboard") and path in project), None
    )
    if path is None:
        return None
    try:
        return _Storyboard(project, project.xml(path), list(site.catalogs), screen, look).read()
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))


def _of_target(
    project: Project, target: AppTarget, declarations: Sequence[Declaration], screen: Screen, look: Look
) -> Scene:
    """What a target shows in the first of some configurations, which all show the same."""
    members = target.members()
    catalogs = list(target.catalogs)
    if not declarations:
        return Scene.unknown(screen, look, f"target {target.name} has no build configurations")
    first = declared(project, declarations[:1], target.pbx.path)[0]
    name, dictionary, source = first.storyboard, first.dictionary, first.place.path
    if name is not None and dictionary is not None:
        reason = f"two kinds of launch screen are declared in {source}: {name} and UILaunchScreen"
        return Scene.unknown(screen, look, reason)
    if name is None and dictionary is not None:
        return _of_dictionary(project, dictionary, catalogs, screen, look, source)
    if name is None:
        black = Fill(screen.frame, Colour(0, 0, 0), source)
        return Scene(screen, look, (black,), "no launch screen: the app runs letterboxed")
    files = (f"{name}.storyboard", f"{name}.xib")
    path = next((path for path in sorted(members) if path.rpartition("/")[2] in files and path in project), None)
    if path is None:
        return Scene.unknown(screen, look, f"{files[0]} is named by {source}, but is not in target {target.name}")
    return _Storyboard(project, project.xml(path), catalogs, screen, look).read()


def _of_dictionary(
    project: Project, dictionary: Mapping[str, Value], catalogs: list[str], screen: Screen, look: Look, source: str
) -> Scene:
    """The `UILaunchScreen` dictionary: a colour, and an image at its own size in the middle."""
    frame = screen.frame
    colour_name, image_name = dictionary.get("UIColorName"), dictionary.get("UIImageName")
    colour = (_SYSTEM_COLOURS["systemBackgroundColor"][look == "dark"], source)
    layers: list[Layer] = []
    if isinstance(colour_name, str) and colour_name:
        found = find_colour(project, catalogs, colour_name, screen, look)
        layers.append(
            Fill(frame, *found)
            if found
            else Unknown(frame, f"colour {colour_name} is in no asset catalog of the target")
        )
    else:
        layers.append(Fill(frame, *colour))
    if isinstance(image_name, str) and image_name:
        image = find_image(project, catalogs, image_name, screen, look)
        size = image_size(project, image) if image else None
        if image is None or size is None:
            layers.append(Unknown(frame, f"image {image_name} is in no asset catalog of the target"))
        else:
            area = screen.safe_area if dictionary.get("UIImageRespectsSafeAreaInsets") is True else frame
            layers.append(Picture(centred(size, area), project.image(image.path), image.path, clip=frame))
    return Scene(screen, look, tuple(layers), "UILaunchScreen dictionary")


class _Storyboard:
    """A launch storyboard on one screen in one look."""

    def __init__(self, project: Project, document: Document, catalogs: list[str], screen: Screen, look: Look) -> None:
        self._project = project
        self._document = document
        self._catalogs = catalogs
        self._screen = screen
        self._look: Look = look

    def read(self) -> Scene:
        views = [node for node in self._document.root.walk() if node.local in VIEW_TAGS]
        # In a nib the view stands among the objects by itself.
        root = next((node for node in views if node.get("key") == "view"), next(iter(views), None))
        name = self._document.path.rpartition("/")[2]
        if root is None:
            return Scene.unknown(self._screen, self._look, f"{name} has no view")
        intrinsic = {node.get("id") or "": size for node in root.walk() if (size := self._intrinsic(node))}
        self._layout = solve(root, self._screen, intrinsic)
        layers = [
            layer
            for node in root.walk()
            if node.local in VIEW_TAGS
            for layer in self._layers(node, is_root=node is root)
        ]
        kind = "nib" if name.endswith(".xib") else "storyboard"
        return Scene(self._screen, self._look, tuple(layers), f"{kind} {name}")

    def _layers(self, node: Node, *, is_root: bool) -> list[Layer]:
        view_id = node.get("id") or ""
        frame = self._screen.frame if is_root else self._layout.frames[view_id]
        if view_id in self._layout.unknown:
            reason = f"<{node.local}>: {self._layout.unknown[view_id]}"
            return [Unknown(self._screen.safe_area, reason, cause=Cause.UNDECIDED)]
        if (kind := node.get("customClass")) is not None:
            return [Unknown(frame, f"a view of the app's own class {kind}: launch screens run no code")]
        layers: list[Layer] = []
        background = next((child for child in node.all("color") if child.get("key") == "backgroundColor"), None)
        if background is not None:
            layers.append(self._fill(background, frame))
        elif is_root:
            layers.append(
                Fill(frame, Colour(0, 0, 0), self._document.path)
            )  # a view without a background shows the window: black
        if node.local == "imageView":
            layers.append(self._image(node, frame))
        elif node.local == "label":
            layers.append(self._label(node, frame))
        return layers

    def _fill(self, colour: Node, frame: Rect) -> Layer:
        known = self._colour(colour)
        return Fill(frame, *known) if known else Unknown(frame, f"a colour in {self._document.path} is unknown")

    def _colour(self, node: Node) -> tuple[Colour, str] | None:
        name = node.get("name")
        if name:
            return find_colour(self._project, self._catalogs, name, self._screen, self._look)
        system = node.get("systemColor") or node.get("cocoaTouchSystemColor")
        if system:
            pair = _SYSTEM_COLOURS.get(system)
            return (pair[self._look == "dark"], self._document.path) if pair else None
        try:
            alpha = round(float(node.get("alpha") or 1) * 255)
            named = ["white"] * 3 if node.get("white") is not None else ["red", "green", "blue"]
            red, green, blue = (round(min(max(float(node.get(key) or ""), 0), 1) * 255) for key in named)
        except (ValueError, OverflowError):
            return None
        return Colour(red, green, blue, alpha), self._document.path

    def _image(self, node: Node, frame: Rect) -> Layer:
        name = node.get("image") or ""
        image = find_image(self._project, self._catalogs, name, self._screen, self._look)
        size = self._intrinsic(node)
        if image is None or size is None or image.path not in self._project:
            return Unknown(frame, f"image {name or '(none)'} is in no asset catalog of the target")
        shown = self._project.image(image.path)
        match node.get("contentMode"):
            case "scaleAspectFit":
                rect = centred(contain(size, frame.size), frame)
            case "scaleAspectFill":
                rect = centred(size.scaled(max(frame.width / size.width, frame.height / size.height)), frame)
            case "center":
                rect = centred(size, frame)
            case None | "scaleToFill":
                rect = frame
            case other:
                return Unknown(frame, f"content mode {other} is not drawn")
        return Picture(rect, shown, image.path, clip=frame if node.get("clipsSubviews") == "YES" else None)

    def _label(self, node: Node, frame: Rect) -> Layer:
        colour_node = next((child for child in node.all("color") if child.get("key") == "textColor"), None)
        known = self._colour(colour_node) if colour_node is not None else None
        colour = known[0] if known else _SYSTEM_COLOURS["labelColor"][self._look == "dark"]
        return TextBox(frame, node.get("text") or "", _font_size(node), colour, self._document.path)

    def _intrinsic(self, node: Node) -> Size | None:
        """The size in points that a view has by its content."""
        if node.local == "label":
            size = _font_size(node)
            # The system font is not here: an average advance of half the font size stands in, which is why labels show their box.
            return Size(len(node.get("text") or "") * size * 0.5, size * 1.2)
        if node.local != "imageView" or not node.get("image"):
            return None
        image = find_image(self._project, self._catalogs, node.get("image") or "", self._screen, self._look)
        return image_size(self._project, image) if image else None


def _font_size(label: Node) -> float:
    description = label.first("fontDescription")
    try:
        size = float((description.get("pointSize") if description is not None else None) or _DEFAULT_FONT_SIZE)
    except ValueError:
        return _DEFAULT_FONT_SIZE
    return size if 0 < size <= _LARGEST_FONT_SIZE else _DEFAULT_FONT_SIZE
