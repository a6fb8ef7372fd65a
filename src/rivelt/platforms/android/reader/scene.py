"""What an Android device shows at launch, worked out from the native files alone."""

from __future__ import annotations

from collections.abc import Mapping

from rivelt.errors import RiveltError
from rivelt.platforms.android.facts import BASE_DPI, android_facts, device_of, screens
from rivelt.platforms.android.native.effective import manifest_of
from rivelt.platforms.android.native.motion import moment_of
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources, resources_of
from rivelt.platforms.android.native.theme import (
    CONTENT,
    DISC,
    GROUND,
    ICON,
    ICON_SIZE,
    IMPRINT,
    WINDOW_BACKGROUND,
    ThemeItems,
    theme_items,
    without_window,
)
from rivelt.platforms.android.reader.drawables import Drawables, cut
from rivelt.platforms.android.reader.launcher_icon import icon_look
from rivelt.platforms.android.reader.layouts import Layouts
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.scene.model import Fill, Ground, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Circle, Look, Rect, Size, centred
from rivelt.values import replace

_WINDOW = f"android:{WINDOW_BACKGROUND}"


def today(project: Project, site: AndroidSite) -> str:
    """Return what the screen of each system shows in the light look, in words."""
    return "; ".join(f"{screen.system}: {scene(project, site, screen, 'light').title}" for screen in screens())


def scene(project: Project, site: AndroidSite, screen: Screen, look: Look) -> Scene:
    """Return what `screen` shows in `look` while the launcher activity of the site's manifest starts."""
    path = site.manifest
    try:
        manifest = manifest_of(project, site)
        folders = site.all_res or (join(parent(path), "res"),)
        resources = resources_of(project, folders)
        return _Reader(project, resources, screen, look, site.versions).read(manifest.theme, manifest.icon)
    except (RiveltError, KeyError) as error:
        reason = str(error) if isinstance(error, RiveltError) else f"{path} is missing"
        return Scene.unknown(screen, look, reason)


def waiting(project: Project, site: AndroidSite, screen: Screen, look: Look) -> Scene | None:
    """Return what the layout of the app's own first moment shows, in a window that reaches behind the system's bars; None without one."""
    resources = resources_of(project, site.all_res)
    name = next(
        (name for kind, name in sorted(resources.entries) if kind == "layout" and name.endswith("_waiting")), ""
    )
    device = _device(screen, look)
    found = resources.best("layout", name, device)
    if found is None:
        return None
    title = "the app's first moment"
    try:
        layers = Layouts(Drawables(project, resources, device)).layers(found.path, screen.frame)
    except RiveltError as error:
        layers, title = [Unknown(screen.frame, str(error))], f"unknown: {error}"
    return Scene(screen, look, tuple(layers), title)


def _device(screen: Screen, look: Look) -> Device:
    density = round(screen.scale * BASE_DPI)
    mode, is_round = device_of(screen), screen.variant.endswith(" round")
    return Device(screen.version, look == "dark", density, screen.width, screen.height, mode=mode, is_round=is_round)


def after_launch(project: Project, site: AndroidSite, screen: Screen, look: Look) -> tuple[Ground, ...]:
    """Return the window's background of the theme that the app uses after launch: what is seen until the first screen is drawn."""
    moment = f"window of {site.app_theme.rpartition('/')[2] or 'the app'}"
    if site.app_theme_problem is not None:
        return (Ground(moment, None, str(site.app_theme_problem)),)
    try:
        reader = _Reader(project, resources_of(project, site.all_res), screen, look, site.versions)
        window = reader.window_of(site.app_theme, moment)
    except RiveltError as error:
        window = Ground(moment, None, str(error))
    second = site.source.second if site.source is not None else None
    if second is None:
        return (window,)
    reason = f"what {second.name} draws is unknown; its code is at {second.place}"
    return (window, Ground(f"second launch screen, {second.name}, {second.duration}", None, reason))


class _Reader:
    """One screen in one look."""

    def __init__(
        self, project: Project, resources: Resources, screen: Screen, look: Look, versions: Mapping[str, str]
    ) -> None:
        self._resources = resources
        self._versions = versions
        self._screen = screen
        self._look: Look = look
        self._device = _device(screen, look)
        self._drawables = Drawables(project, resources, self._device, moment=moment_of(screen))
        self._set = ThemeItems({}, None, is_known=True)

    def read(self, theme: str | None, app_icon: str | None) -> Scene:
        self._use(theme)
        hidden = without_window(self._theme, lambda value: self._drawables.values.flag(value, default=False))
        if hidden is not None and hidden.is_certain:
            return self._scene([], f"no launch screen: android:{hidden.flag} is true in {hidden.source}")
        if hidden is not None:
            reason = f"android:{hidden.flag} in {hidden.source}, which may hide the launch screen, has an unknown value"
            return Scene.unknown(self._screen, self._look, reason)
        if self._is_systems:
            return self._system_screen(app_icon)
        if self._set.is_of_library and _WINDOW not in self._theme:
            return self._library_screen()
        return self._window_background()

    def window_of(self, theme: str, moment: str) -> Ground:
        """Return the colour of a theme's window background."""
        self._use(theme)
        item = self._theme.get(_WINDOW)
        if item is None:
            return Ground(moment, None, self._unknown_item(_WINDOW))
        frame = self._screen.frame
        fills = [layer for layer in self._drawables.layers(item[0], frame, item[1]) if isinstance(layer, Fill)]
        full = next((fill for fill in reversed(fills) if fill.rect == frame and not fill.is_round), None)
        if full is None:
            return Ground(moment, None, f"{item[0]} is not a flat colour")
        return Ground(moment, full.colour, full.source)

    def _use(self, theme: str | None) -> None:
        """Work with a theme's items from here on."""
        self._set = theme_items(self._resources, theme or "", self._device, self._versions)
        self._drawables = replace(self._drawables, theme=dict(self._theme))

    @property
    def _theme(self) -> Mapping[str, tuple[str, str]]:
        return self._set.items

    def _item(self, name: str) -> tuple[str, str] | None:
        """An item of the launch screen: the system's, or the library's where that draws it."""
        return self._set.item(f"android:{name}" if self._is_systems else name)

    @property
    def _is_systems(self) -> bool:
        """Whether the system draws the launch screen by itself."""
        return self._device.version >= android_facts().levels.system_launch_screen

    def _unknown_item(self, item: str) -> str:
        return f"{item} is not set by the app; {self._set.parent}, which may set it, is not in the project"

    def _scene(self, layers: list[Layer], title: str, mask: Circle | None = None) -> Scene:
        return Scene(self._screen, self._look, tuple(layers), title, mask)

    # Before API 31: the window background of the theme.

    def _window_background(self) -> Scene:
        frame = self._screen.frame
        item = self._theme.get(_WINDOW)
        if item is None:
            reason = self._unknown_item(_WINDOW)
            return self._scene([Unknown(frame, reason)], "the app theme's own window background")
        layers = [
            *self._drawables.layers(item[0], frame, item[1]),
            *self._content(),
            *self._bars(),
            *self._not_worked_out(),
        ]
        pictures = [layer for layer in layers if isinstance(layer, Picture)]
        unknown = next((layer.reason for layer in layers if isinstance(layer, Unknown)), None)
        drawn = (
            f"window background with {len(pictures)} image{'s' * (len(pictures) != 1)}"
            if pictures
            else "flat window background"
        )
        return self._scene(layers, f"unknown: {unknown}" if unknown else drawn)

    def _content(self) -> list[Layer]:
        """What the theme shows on the background, between the system's bars (API 26 to 30: android:windowSplashscreenContent)."""
        item = self._theme.get(f"android:{CONTENT}")
        since = android_facts().attributes[CONTENT]
        if item is None or not since <= self._device.version < android_facts().levels.system_launch_screen:
            return []
        top = 0.0 if self._is_set("windowFullscreen") else self._screen.top
        frame = Rect(0, top, self._screen.width, self._screen.height - top - self._screen.bottom)
        return self._drawables.layers(item[0], frame, item[1])

    def _not_worked_out(self) -> list[Layer]:
        """What the theme lays over the whole window, or changes in it, and what is not worked out here."""
        found: list[Layer] = []
        frame = self._screen.frame
        drawn_over = self._theme.get("android:windowFrame", ("@null", ""))
        if drawn_over[0] not in {"@null", "@empty"}:
            found.append(Unknown(frame, f"android:windowFrame in {drawn_over[1]} is not worked out"))
        if self._device.is_night and self._is_set("forceDarkAllowed"):
            source = self._theme["android:forceDarkAllowed"][1]
            found.append(Unknown(frame, f"the system may darken the colours: android:forceDarkAllowed in {source}"))
        return found

    def _is_set(self, flag: str) -> bool:
        item = self._theme.get(f"android:{flag}")
        return item is not None and self._drawables.values.flag(item[0], default=False) is True

    def _bars(self) -> list[Layer]:
        """The system's bars, where the theme gives them a colour, and neither hides them nor makes them translucent."""
        screen, found = self._screen, []
        if self._is_set("windowFullscreen"):
            return []
        bars = (
            ("statusBarColor", "windowTranslucentStatus", Rect(0, 0, screen.width, screen.top)),
            (
                "navigationBarColor",
                "windowTranslucentNavigation",
                Rect(0, screen.height - screen.bottom, screen.width, screen.bottom),
            ),
        )
        for name, translucent, rect in bars:
            item = self._theme.get(f"android:{name}") if not self._is_set(translucent) else None
            colour = self._drawables.colour(item[0]) if item else None
            if item and colour and colour[0].alpha and rect.height:
                found.append(Fill(rect, colour[0], colour[1] or item[1]))
        return list(found)

    def _library_screen(self) -> Scene:
        """What androidx.core:core-splashscreen puts together before API 31."""
        layers, mask = self._icon_on_ground()
        return self._scene(layers, "screen of the compatibility library", mask)

    # From API 31: the screen that the system draws for every app.

    def _system_screen(self, app_icon: str | None) -> Scene:
        if self._item(ICON) is None:
            layers = [self._ground(self._screen.frame)]
            mask = Circle(self._screen.frame.centre, android_facts().icon_on_disc.mask / 2)
            if not self._set.is_known:
                reason = self._unknown_item(f"android:{ICON}")
                layers += [Unknown(mask.box, reason, is_round=True), Unknown(self._foot, reason)]
            elif app_icon is None:
                layers.append(Unknown(mask.box, "the app names no icon: the system shows its own", is_round=True))
            else:
                layers += self._launcher_icon(app_icon, layers[0])
            return self._scene(layers, "system screen with the launcher icon")
        layers, mask = self._icon_on_ground()
        self._add_imprint(layers)
        return self._scene(layers, "system screen with an icon of its own", mask)

    def _adaptive_icon(self, icon: str, ground: Layer) -> list[Layer]:
        """Its layers, seen through the circle; without its background where that is like the ground."""
        facts, frame = android_facts(), self._screen.frame
        outer = centred(Size(facts.icon_on_disc.side, facts.icon_on_disc.side), frame)
        background, foreground = self._drawables.layers_of_adaptive(icon, outer)
        mask = Circle(frame.centre, facts.icon_on_disc.mask / 2)
        if isinstance(ground, Fill) and self._item(DISC) is None:
            enlarged = facts.icon.side / facts.icon_on_disc.side
            look = icon_look(background, foreground, outer, ground.colour, enlarged)
            if not look.has_background:
                side = outer.width * look.scale
                _, foreground = self._drawables.layers_of_adaptive(icon, centred(Size(side, side), frame))
                background, mask = [], Circle(frame.centre, mask.radius * look.scale)
        return [cut(layer, mask) for layer in (*background, *foreground)]

    def _launcher_icon(self, icon: str, ground: Layer) -> list[Layer]:
        """The launcher icon: an adaptive one fills the disc with its layers, any other is in the disc's square as it is.

        frameworks/base, SplashscreenContentDrawer: the layers are 108/72 as large as the circle they are seen through.
        """
        facts = android_facts().icon_on_disc
        frame = self._screen.frame
        mask = Circle(frame.centre, facts.mask / 2)
        square = centred(Size(facts.mask, facts.mask), frame)
        if self._drawables.is_adaptive(icon):
            return self._adaptive_icon(icon, ground)
        drawn = self._drawables.layers(icon, square, icon)
        return [layer if isinstance(layer, Picture) else cut(layer, mask) for layer in drawn]

    def _icon_on_ground(self) -> tuple[list[Layer], Circle]:
        """Ground, disc and icon, the icon cut by its circle."""
        frame = self._screen.frame
        ground = self._ground(frame)
        disc = self._disc(ground)
        facts = android_facts().geometry(has_disc=disc is not None if self._is_systems else self._is_on_disc)
        mask = Circle(frame.centre, facts.mask / 2)
        icon = self._item(ICON)
        if icon is None:
            return [ground, *([disc] if disc else [])], mask
        if self._drawables.is_adaptive(icon[0]):  # as large as the circle, with its own background for a disc
            drawn = self._drawables.layers(icon[0], centred(Size(facts.mask, facts.mask), frame), icon[1])
            return [ground, *drawn], mask
        # An icon that is one image is stretched to the square; the layers of a list keep their places in it.
        drawn = self._drawables.layers(icon[0], centred(Size(facts.side, facts.side), frame), icon[1])
        return [ground, *([disc] if disc else []), *(cut(layer, mask) for layer in drawn)], mask

    @property
    def _is_on_disc(self) -> bool:
        """Whether the library's theme is the one for icons with a disc, which has a size of its own whatever the disc's colour."""
        return self._theme.get(ICON_SIZE, ("",))[0] == f"{android_facts().icon_on_disc.side:g}dp"

    def _disc(self, ground: Layer) -> Layer | None:
        """The disc; the system draws none in the ground's own colour (com.android.wm.shell.startingsurface)."""
        item = self._item(DISC)
        if item is None or not (self._is_systems or self._is_on_disc):
            return None
        rect = centred(Size(android_facts().icon_on_disc.mask, android_facts().icon_on_disc.mask), self._screen.frame)
        colour = self._drawables.colour(item[0])
        if colour is None:
            return Unknown(rect, f"{item[0]} is not a plain colour", is_round=True)
        if not colour[0].alpha or (self._is_systems and isinstance(ground, Fill) and ground.colour == colour[0]):
            return None
        return Fill(rect, colour[0], colour[1] or item[1], is_round=True)

    def _ground(self, frame: Rect) -> Layer:
        for name in (GROUND, WINDOW_BACKGROUND):
            item = self._item(name)
            if item is not None:
                value, source = item
                colour = self._drawables.colour(value)
                return (
                    Fill(frame, colour[0], colour[1] or source)
                    if colour
                    else Unknown(frame, f"{value} is not a plain colour")
                )
        return Unknown(frame, self._unknown_item(_WINDOW))

    def _add_imprint(self, layers: list[Layer]) -> None:
        item = self._theme.get(f"android:{IMPRINT}")
        if item is not None:
            box = self._foot
            drawn = self._drawables.layers(item[0], box, item[1])
            layers += [replace(layer, rect=box) if isinstance(layer, Picture) else layer for layer in drawn]
        elif not self._set.is_known:
            layers.append(Unknown(self._foot, self._unknown_item(f"android:{IMPRINT}")))

    @property
    def _foot(self) -> Rect:
        """Where the image at the foot of the system's screen is."""
        facts, frame = android_facts().imprint, self._screen.frame
        x, y = frame.centre.x - facts.width / 2, frame.height - facts.foot - facts.height
        return Rect(x, y, facts.width, facts.height)
