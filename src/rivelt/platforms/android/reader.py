"""What an Android device shows at launch, worked out from the native files alone."""

from __future__ import annotations

from dataclasses import replace

from rivelt.edit.xml import Node, parse_xml
from rivelt.errors import RiveltError
from rivelt.pixels.header import bitmap_size
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.manifest import attribute, read_manifest
from rivelt.platforms.android.resources import Device, Entry, Resources, split_reference
from rivelt.platforms.android.site import AndroidSite
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot, join, parent
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Circle, Look, Rect, Size, centred

_ENDLESS = 1e6  # dp: no screen is larger
_BITMAPS = (".png", ".webp", ".jpg", ".jpeg")


def scene(snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
    """What `screen` shows in `look` while the launcher activity of the site's manifest starts."""
    assert isinstance(site, AndroidSite)
    path = site.manifest
    try:
        manifest = read_manifest(snapshot.read(path), path)
        resources = Resources.of_folder(snapshot, join(parent(path), "res"))
        return _Reader(snapshot, resources, screen, look).read(manifest.theme, attribute(manifest.application, "icon"))
    except (RiveltError, KeyError) as error:
        reason = str(error) if isinstance(error, RiveltError) else f"{path} is missing"
        return Scene(screen, look, (Unknown(screen.frame, reason),), f"cannot tell: {reason}")


class _Reader:
    """One screen in one look."""

    def __init__(self, snapshot: Snapshot, resources: Resources, screen: Screen, look: Look) -> None:
        self._snapshot = snapshot
        self._resources = resources
        self._screen = screen
        self._look: Look = look
        self._device = Device(
            version=screen.version,
            is_night=look == "dark",
            density=round(screen.scale * 160),
            width=screen.width,
            height=screen.height,
        )
        self._theme: dict[str, tuple[str, str]] = {}
        self._missing_parent: str | None = None

    def read(self, theme: str | None, app_icon: str | None) -> Scene:
        reference = split_reference(theme or "")
        if reference and reference[0] == "style":
            style = self._resources.style(reference[1], self._device)
            self._theme = dict(style.items) if style else {}
            self._missing_parent = style.missing_parent if style else reference[1]
        else:
            self._missing_parent = theme or "the system's default theme"
        if self._device.version >= android_facts().levels.system_launch_screen:
            return self._system_screen(app_icon)
        return self._window_background()

    def _unknown_item(self, item: str) -> str:
        return f"{item} is not set by the app; {self._missing_parent}, which may set it, is not in the project"

    def _scene(self, layers: list[Layer], title: str, mask: Circle | None = None) -> Scene:
        return Scene(self._screen, self._look, tuple(layers), title, mask)

    # Before API 31: the window background of the theme.

    def _window_background(self) -> Scene:
        frame = self._screen.frame
        item = self._theme.get("android:windowBackground")
        if item is None:
            reason = self._unknown_item("android:windowBackground")
            return self._scene([Unknown(frame, reason)], "the app theme's own window background")
        layers = self._drawable(item[0], frame, item[1])
        pictures = [layer for layer in layers if isinstance(layer, Picture)]
        unknown = next((layer.reason for layer in layers if isinstance(layer, Unknown)), None)
        drawn = (
            f"window background with {len(pictures)} image{'s' * (len(pictures) != 1)}"
            if pictures
            else "flat window background"
        )
        return self._scene(layers, f"cannot tell: {unknown}" if unknown else drawn)

    def _drawable(self, value: str, frame: Rect, source: str) -> list[Layer]:
        """A drawable or colour reference, drawn to fill a frame as Android would."""
        colour = self._resources.colour(value, self._device)
        if colour is not None:
            return [Fill(frame, colour[0], colour[1] or source)]
        reference = split_reference(value)
        entry = self._resources.best(*reference, self._device) if reference else None
        if entry is None or entry.node is not None:
            return [Unknown(frame, f"{value} is not in the project")]
        if entry.path.endswith(_BITMAPS):
            return self._bitmap(entry, frame, "fill")
        document = parse_xml(self._snapshot.read(entry.path), entry.path)
        match document.root.local:
            case "layer-list":
                return [layer for item in document.root.all("item") for layer in self._item(item, frame, entry.path)]
            case "bitmap":
                return self._bitmap_node(document.root, frame, entry.path)
            case other:
                return [Unknown(frame, f"<{other}> in {entry.path} is not drawn yet")]

    def _item(self, item: Node, frame: Rect, source: str) -> list[Layer]:
        insets = [self._length(attribute(item, side)) for side in ("left", "top", "right", "bottom")]
        if None in insets or attribute(item, "width") or attribute(item, "height") or attribute(item, "gravity"):
            return [Unknown(frame, f"a sized layer in {source} is not drawn yet")]
        left, top, right, bottom = (inset or 0.0 for inset in insets)
        inner = Rect(frame.x + left, frame.y + top, frame.width - left - right, frame.height - top - bottom)
        value = attribute(item, "drawable")
        if value:
            return self._drawable(value, inner, source)
        child = item.children[0] if item.children else None
        if child is not None and child.local == "bitmap":
            return self._bitmap_node(child, inner, source)
        return [Unknown(inner, f"a layer in {source} is not drawn yet")]

    def _bitmap_node(self, node: Node, frame: Rect, source: str) -> list[Layer]:
        reference = split_reference(attribute(node, "src") or "")
        entry = self._resources.best(*reference, self._device) if reference else None
        if entry is None or not entry.path.endswith(_BITMAPS):
            return [Unknown(frame, f"the bitmap of {source} is not in the project")]
        return self._bitmap(entry, frame, attribute(node, "gravity") or "fill")

    def _bitmap(self, entry: Entry, frame: Rect, gravity: str) -> list[Layer]:
        data = self._snapshot.read(entry.path)
        pixels = bitmap_size(data)
        if pixels is None:
            return [Unknown(frame, f"{entry.path} is no readable bitmap")]
        density = entry.density or self._device.density
        size = Size(pixels.width * 160 / density, pixels.height * 160 / density)
        return [Picture(_by_gravity(size, frame, gravity), data, entry.path, clip=frame)]

    def _length(self, value: str | None) -> float | None:
        """A dimension in dp: 0 when absent, None when it cannot be told."""
        if value is None:
            return 0.0
        number = value.removesuffix("dip").removesuffix("dp")
        try:
            length = float(number) if number != value else float(value.removesuffix("px")) / self._screen.scale
        except ValueError:
            return None
        return length if abs(length) < _ENDLESS else None

    # From API 31: the screen that the system draws for every app.

    def _system_screen(self, app_icon: str | None) -> Scene:
        facts = android_facts()
        frame = self._screen.frame
        layers: list[Layer] = [self._system_ground(frame)]
        mask = Circle(frame.centre, facts.icon.mask / 2)
        icon = self._theme.get("android:windowSplashScreenAnimatedIcon")
        square = centred(Size(facts.icon.side, facts.icon.side), frame)
        around_mask = Rect(mask.centre.x - mask.radius, mask.centre.y - mask.radius, 2 * mask.radius, 2 * mask.radius)
        if icon is None:
            shown = f"the launcher icon ({app_icon})" if app_icon else "the system's default icon"
            layers.append(Unknown(around_mask, f"{shown} is not drawn yet", is_round=True))
            return self._scene(layers, "system screen with the launcher icon", mask)
        for layer in self._drawable(icon[0], square, icon[1]):
            if isinstance(layer, Picture):
                layers.append(replace(layer, rect=square, clip=mask))
            elif isinstance(layer, Unknown):
                layers.append(Unknown(around_mask, layer.reason, is_round=True))
        self._add_imprint(layers)
        return self._scene(layers, "system screen with an icon of its own", mask)

    def _system_ground(self, frame: Rect) -> Layer:
        for item in ("android:windowSplashScreenBackground", "android:windowBackground"):
            if item in self._theme:
                value, source = self._theme[item]
                colour = self._resources.colour(value, self._device)
                return (
                    Fill(frame, colour[0], colour[1] or source)
                    if colour
                    else Unknown(frame, f"{value} is no plain colour")
                )
        return Unknown(frame, self._unknown_item("android:windowBackground"))

    def _add_imprint(self, layers: list[Layer]) -> None:
        item = self._theme.get("android:windowSplashScreenBrandingImage")
        if item is None:
            return
        facts, frame = android_facts().imprint, self._screen.frame
        box = Rect(
            frame.centre.x - facts.width / 2, frame.height - facts.foot - facts.height, facts.width, facts.height
        )
        drawn = self._drawable(item[0], box, item[1])
        layers += [replace(layer, rect=box) if isinstance(layer, Picture) else layer for layer in drawn]


def _by_gravity(size: Size, frame: Rect, gravity: str) -> Rect:
    """Where a bitmap of `size` lies in a frame (https://developer.android.com/reference/android/view/Gravity)."""
    words = set(gravity.split("|"))
    if "fill" in words:
        return frame
    x, y, width, height = centred(size, frame)
    if words & {"left", "start"}:
        x = frame.x
    if words & {"right", "end"}:
        x = frame.right - size.width
    if "top" in words:
        y = frame.y
    if "bottom" in words:
        y = frame.bottom - size.height
    if "fill_horizontal" in words:
        x, width = frame.x, frame.width
    if "fill_vertical" in words:
        y, height = frame.y, frame.height
    return Rect(x, y, width, height)
