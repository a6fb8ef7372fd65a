"""What a Windows app shows at launch, worked out from the package's files alone."""

from __future__ import annotations

from rivelt.errors import RiveltError
from rivelt.platforms.windows.native.images import best, variants
from rivelt.platforms.windows.native.manifest import Launch, parsed_colour, read_manifest
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.project import Project
from rivelt.project.snapshot import parent
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Look, Size, centred

_PERCENT = 100


def scene(project: Project, site: WindowsSite, screen: Screen, look: Look) -> Scene:
    """Return what an app's window shows while it starts; the same in both looks."""
    try:
        manifest = read_manifest(project, site.manifest)
    except RiveltError as error:
        return Scene.unknown(screen, look, str(error))
    launch = manifest.launches[0]
    if not launch.image:
        return Scene(screen, look, (_ground(launch, site, screen),), "no launch image: a flat colour")
    layers = (_ground(launch, site, screen), _image(project, launch.image, site, screen, look))
    optional = ", which the system may leave out" if launch.is_optional else ""
    return Scene(screen, look, layers, f"launch image {launch.image}{optional}")


def _ground(launch: Launch, site: WindowsSite, screen: Screen) -> Layer:
    text = launch.background
    if screen.variant:
        return Unknown(screen.frame, f"the ground in high contrast {screen.variant} is the system's choice")
    if text is None or text.lower() == "transparent":
        return Unknown(screen.frame, "no background colour is set: the system takes its accent colour")
    colour = parsed_colour(text)
    if colour is None:
        return Unknown(screen.frame, f"{text} is not a colour that a package manifest may hold")
    return Fill(screen.frame, colour, site.manifest)


def _image(project: Project, name: str, site: WindowsSite, screen: Screen, look: Look) -> Layer:
    """The image at its own size in effective pixels, in the middle of the window."""
    found = variants(project, parent(site.manifest), name)
    variant = best(found, round(screen.scale * _PERCENT), screen.variant, look)
    if variant is None and found:
        return Unknown(screen.frame, f"the image {name} has files for some languages or themes alone")
    if variant is None:
        return Unknown(screen.frame, f"the image {name} has no file in the package")
    size = project.image(variant.path).size
    if size is None:
        return Unknown(screen.frame, f"{variant.path} is not an image")
    shown = centred(Size(*size).scaled(_PERCENT / variant.scale), screen.frame)
    return Picture(shown, project.image(variant.path), variant.path, clip=screen.frame)
