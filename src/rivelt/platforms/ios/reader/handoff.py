"""What comes after the launch screen of an iPhone or iPad: a generated waiting screen, and the app's own first screen."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import RiveltError
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.native.find import target_of
from rivelt.platforms.ios.native.first_screen import FirstScreen, Written, first_screen, in_code
from rivelt.platforms.ios.native.written import written_colour
from rivelt.platforms.ios.reader.scene import scene
from rivelt.platforms.ios.site import IosSite
from rivelt.project.project import Project
from rivelt.project.snapshot import parent
from rivelt.scene.model import Fill, Ground, Scene, Screen
from rivelt.units import LOOKS, Look

_COLOUR_SET = ".colorset/Contents.json"


def after_launch(project: Project, site: IosSite, screen: Screen, look: Look) -> Iterator[Ground]:
    """Yield what fills the screen after the launch screen, as far as the sources say."""
    try:
        found, first = _first_screen(project, site)
    except RiveltError as error:
        yield Ground("first screen", None, str(error))
        return
    shown = first or look
    for moment in found:
        if moment.written is None:
            yield Ground(moment.moment, None, moment.reason)
            continue
        colour = written_colour(project, site.catalogs, moment.written, screen, shown)
        source = str(moment.written.place)
        if colour is None:
            yield Ground(moment.moment, None, f"{_short(moment.written.text)} in {source} is not a colour that is read")
            continue
        yield Ground(moment.moment, colour, source, moment.written.place, _fix(project, site, moment.written, screen))


def _fix(project: Project, site: IosSite, written: Written, screen: Screen) -> str:
    """The edit that gives an expression the launch screen's ground; "" where one expression cannot have it in both looks."""
    launches = [scene(project, site, screen, look) for look in LOOKS]
    grounds = {launch.ground for launch in launches}
    if None in grounds or (len(grounds) > 1 and _name_of(launches[0]) is None):
        return ""
    return f"Write {_same(written, launches[0])} in place of {_short(written.text)}."


def _name_of(launch: Scene) -> str | None:
    """The named colour that a launch screen has as its ground."""
    source = _ground_of(launch).source
    return parent(source).rpartition("/")[2].removesuffix(".colorset") if source.endswith(_COLOUR_SET) else None


def _ground_of(launch: Scene) -> Fill:
    return [layer for layer in launch.layers if isinstance(layer, Fill) and layer.rect == launch.screen.frame][-1]


def _first_screen(project: Project, site: IosSite) -> tuple[list[FirstScreen], Look | None]:
    """What comes after the launch screen, in order; and the one look that the app always has."""
    target = target_of(project, site.project_file, site.target_name)
    if target is None:
        return [], None
    names = {one.name for one in site.declarations}
    one = [found for found in target.declarations() if not names or found.name in names][:1]
    (values,) = declared(project, one, site.project_file)
    sources = target.members("Sources")
    waiting = next((path for path in sorted(sources) if path.endswith("Waiting.swift") and path in project), None)
    moments = [in_code(project, waiting, "waiting screen")] if waiting is not None else []
    return [*moments, first_screen(project, target.members(), sources, values)], values.look


def _same(written: Written, launch: Scene) -> str:
    """The launch screen's ground in the language of an expression: by its name in the catalog, else by its value."""
    ground, name = _ground_of(launch).colour, _name_of(launch)
    red, green, blue = (f"{channel / 255:.3g}" for channel in ground[:3])
    match written.syntax:
        case "uikit":
            return (
                f'UIColor(named: "{name}")' if name else f"UIColor(red: {red}, green: {green}, blue: {blue}, alpha: 1)"
            )
        case "objective-c":
            values = f"[UIColor colorWithRed:{red} green:{green} blue:{blue} alpha:1]"
            return f'[UIColor colorNamed:@"{name}"]' if name else values
        case "swiftui":
            return f'Color("{name}")' if name else f"Color(red: {red}, green: {green}, blue: {blue})"
        case "storyboard":
            return f"the named colour {name}" if name else f"the colour {ground.hex}"


def _short(text: str) -> str:
    plain = " ".join(text.split())
    return plain if len(plain) <= 80 else f"{plain[:77]}..."
