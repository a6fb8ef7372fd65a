"""What a Windows app shows at launch, worked out from the package's files alone."""

from __future__ import annotations

from rivelt.errors import RiveltError
from rivelt.pixels.header import bitmap_size
from rivelt.platforms.site import Site
from rivelt.platforms.windows.images import best, variants
from rivelt.platforms.windows.manifest import Launch, parsed_colour, read_manifest
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.snapshot import Snapshot, parent
from rivelt.scene.model import Fill, Ground, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Look, Size, centred

_PERCENT = 100


def scene(snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
    """What an app's window shows while it starts; the same in both looks."""
    assert isinstance(site, WindowsSite)
    try:
        manifest = read_manifest(snapshot.read(site.manifest), site.manifest)
    except RiveltError as error:
        return Scene(screen, look, (Unknown(screen.frame, str(error)),), f"cannot tell: {error}")
    launch = manifest.launches[0]
    if not launch.image:
        return Scene(screen, look, (_ground(launch, site, screen),), "no launch image: a flat colour")
    layers = (_ground(launch, site, screen), _image(snapshot, launch.image, site, screen))
    return Scene(screen, look, layers, f"launch image {launch.image}")


def after_launch(_snapshot: Snapshot, _site: Site, _screen: Screen, _look: Look) -> tuple[Ground, ...]:
    """Nothing: the launch screen gives way to the app's first page at once."""
    return ()


def _ground(launch: Launch, site: WindowsSite, screen: Screen) -> Layer:
    text = launch.background
    if screen.variant:
        return Unknown(screen.frame, f"the ground in high contrast {screen.variant} is the system's choice")
    if text is None or text.lower() == "transparent":
        return Unknown(screen.frame, "no background colour is set: the system takes its accent colour")
    colour = parsed_colour(text)
    if colour is None:
        return Unknown(screen.frame, f"{text} is no colour that a package manifest may hold")
    return Fill(screen.frame, colour, site.manifest)


def _image(snapshot: Snapshot, name: str, site: WindowsSite, screen: Screen) -> Layer:
    """The image at its own size in effective pixels, in the middle of the window."""
    variant = best(variants(snapshot, parent(site.manifest), name), round(screen.scale * _PERCENT), screen.variant)
    if variant is None:
        return Unknown(screen.frame, f"the image {name} has no file in the package")
    size = bitmap_size(snapshot.read(variant.path))
    if size is None:
        return Unknown(screen.frame, f"{variant.path} is no image")
    shown = centred(Size(*size).scaled(_PERCENT / variant.scale), screen.frame)
    return Picture(shown, snapshot.read(variant.path), variant.path, clip=screen.frame)
