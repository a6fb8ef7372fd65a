"""The proof as a sheet: a press proof of every screen, light and dark side by side.

All lengths here are in sheet units; the PNG has `PIXELS_PER_UNIT` pixels for each, so that it stays sharp when zoomed.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import groupby

from msgspec import Struct

from rivelt import __version__
from rivelt.colour import Colour
from rivelt.pixels.compose import Block, Sheet
from rivelt.pixels.pictures import Pictures
from rivelt.pixels.type import shortened, text_width
from rivelt.platforms import platform
from rivelt.progress import Progress, no_progress
from rivelt.proof.alike import grouped
from rivelt.proof.drawn import common_windows, drawn_at
from rivelt.proof.frames import framed, guide_lines, mark_lines
from rivelt.proof.model import Proof
from rivelt.proof.moving import drawn_moment, moving_height, moving_shots, moving_words, strip_area
from rivelt.proof.shelves import Box, shelved
from rivelt.proof.strips import strips, strips_height
from rivelt.proof.style import ACCENT, HAIRLINE, INK, MARGIN, PAPER, PIXELS_PER_UNIT, SOFT_INK, block, line, text
from rivelt.proof.style import SHEET_WIDTH as WIDTH
from rivelt.scene.draw import HATCH_INK, HATCH_PAPER
from rivelt.scene.model import Picture, Scene, Screen, Unknown
from rivelt.scene.site import Site
from rivelt.units import Look, Rect, Size, round_half_up
from rivelt.values import replace

UNITS_PER_POINT = 0.26
"""How large a dp or pt is drawn: one scale for all screens of devices, so that they compare."""

_TALLEST = 210.0
_WIDEST = 280.0
_TOP = 104
_PAIR_GAP = 12
_GAP = 26
_CAPTION, _NAMES, _LINE = 76, 33, 16  # what is below a screen, the upper part of it, and the line after that
_HEADING = 26
_LEAST = 118.0  # the width that a caption needs


class _Pair(Struct, frozen=True):
    """One screen in its looks; `alike`: the screens that look the same. `x`, `y`: its top left corner on the sheet."""

    heading: str
    scenes: tuple[Scene, ...]
    labels: tuple[str, ...]
    alike: tuple[Screen, ...] = ()
    x: float = 0.0
    y: float = 0.0

    @property
    def scale(self) -> float:
        """Sheet units for each dp or pt. What is no screen of a device, such as an image for a store, is made to fit."""
        screen = self.scenes[0].screen
        if screen.is_device:
            return UNITS_PER_POINT
        return min(UNITS_PER_POINT, _TALLEST / screen.height, _WIDEST / screen.width)

    @property
    def width(self) -> float:
        """The screens and the gaps between them, but never narrower than the captions need."""
        return sum(max(_LEAST, self._wide(scene)) for scene in self.scenes) + _PAIR_GAP * (len(self.scenes) - 1)

    def _wide(self, scene: Scene) -> float:
        return scene.screen.width * self.scale

    @property
    def height(self) -> float:
        return self.scenes[0].screen.height * self.scale

    def frames(self) -> Iterator[tuple[Scene, str, Rect]]:
        """Yield each scene with its label and where its screen is on the sheet."""
        x = self.x
        for scene, label in zip(self.scenes, self.labels, strict=True):
            yield scene, label, Rect(x, self.y, self._wide(scene), self.height)
            x += max(_LEAST, self._wide(scene)) + _PAIR_GAP


def draw_sheet(proof: Proof, *, guides: bool = False, on_progress: Progress = no_progress) -> bytes:
    """Return the sheet as a PNG. The same proof gives the same bytes. Screens of one family that look the same are drawn once, with their number.

    Args:
        proof: what is shown.
        guides: draw safe areas, masks and what all screens show of a backdrop.
        on_progress: called with how many screens are drawn.
    """
    pictures = proof.pictures or Pictures()
    pairs, bottom = _laid_out(_pairs(proof, None if proof.is_all else pictures))
    reasons = _reasons(proof)
    motion = bottom + 44
    first_strip = motion + moving_height(proof)
    after = first_strip + strips_height(proof)
    height = after + 18 * len(reasons) + MARGIN
    size = Size(WIDTH, height).pixels(PIXELS_PER_UNIT)
    frames = [(scene, rect, pair.scale) for pair in pairs for scene, _, rect in pair.frames()]
    sheet = Sheet(size, Colour.parse(PAPER), pictures)
    scales = [(scene, scale * PIXELS_PER_UNIT) for scene, _, scale in frames]
    for index, image in drawn_at(scales, pictures, on_progress):
        rect = frames[index][1]
        sheet.lay(image, round_half_up(rect.x * PIXELS_PER_UNIT), round_half_up(rect.y * PIXELS_PER_UNIT))
    for shot in moving_shots(proof, motion):
        image = drawn_moment(shot.scene, round_half_up(shot.rect.width * PIXELS_PER_UNIT), pictures)
        sheet.lay(image, round_half_up(shot.rect.x * PIXELS_PER_UNIT), round_half_up(shot.rect.y * PIXELS_PER_UNIT))
    windows = common_windows([scene for scene, _, _ in frames]) if guides else None
    sheet.ink([block(_header(proof), Rect(0, 0, WIDTH, _TOP))])
    for pair in pairs:
        sheet.ink(_drawn_over(pair, proof, windows))
    if proof.motions:
        sheet.ink([block(moving_words(proof, motion), strip_area(proof, motion))])
    sheet.ink(strips(proof, first_strip))
    sheet.ink([block(_footer(proof, reasons, after, height), Rect(0, after - 20, WIDTH, height - after + 20))])
    return sheet.png()


def _drawn_over(pair: _Pair, proof: Proof, windows: Mapping[int, Rect] | None) -> Iterator[Block]:
    """What is drawn over a pair and around it. `windows`: where guides are wanted, what every screen shows of the backdrops."""
    if pair.heading:
        words = shortened(pair.heading, WIDTH - MARGIN - pair.x, 11, "bold")
        yield block([text(words, pair.x, pair.y - 15, 11, face="bold")], Rect(pair.x, pair.y - 28, WIDTH - pair.x, 18))
    bottom = pair.y + pair.height
    yield block(_names(pair), Rect(pair.x - 2, bottom + 8, pair.width + _GAP, _NAMES))
    for scene, label, rect in pair.frames():
        yield from _look_caption(scene, label, rect, bottom + 8 + _NAMES)
        inside = [part for mark in proof.marks_of(scene) for part in mark_lines(mark, scene, rect)]
        inside += guide_lines(scene, rect, proof.clearance, windows.get(id(scene))) if windows is not None else ()
        yield from framed(scene, rect, inside)


def _pairs(proof: Proof, pictures: Pictures | None) -> list[_Pair]:
    """The scenes, those of one site and screen together. With `pictures`, those that look the same are one."""
    pairs: list[_Pair] = []
    now = {(site.label, scene.screen, scene.look): scene for site, scene in proof.before}
    for site, of_site in groupby(proof.scenes, key=lambda shown: shown[0]):
        made = [
            _pair(site, [scene for _, scene in its], now)
            for _, its in groupby(of_site, key=lambda shown: shown[1].screen)
        ]
        groups = [[index] for index in range(len(made))]
        if pictures is not None:
            groups = grouped(proof, [pair.scenes for pair in made], pictures)
        for first, *others in groups:
            pairs.append(replace(made[first], alike=tuple(made[other].scenes[0].screen for other in others)))
    return pairs


def _pair(site: Site, scenes: list[Scene], now: Mapping[tuple[str, Screen, Look], Scene]) -> _Pair:
    shown: list[tuple[Scene, str]] = []
    for scene in scenes:
        before = now.get((site.label, scene.screen, scene.look))
        look = scene.look if len(scene.screen.looks) > 1 else "always"
        shown += [(before, f"{look}, now")] if before is not None else []
        shown.append((scene, look if before is None else f"{look}, after"))
    heading = f"{platform(site.target).title}  ·  {site.heading}"
    return _Pair(heading, tuple(scene for scene, _ in shown), tuple(label for _, label in shown))


def _laid_out(pairs: list[_Pair]) -> tuple[list[_Pair], float]:
    """The pairs on shelves, with the name of the site where a shelf begins to show it; and where the last shelf ends."""
    boxes = [Box(pair.heading, pair.width, pair.height + _CAPTION) for pair in pairs]
    spots, height = shelved(boxes, WIDTH - 2 * MARGIN, _GAP, _HEADING)
    placed = [
        replace(
            pairs[spot.index],
            heading=shortened(pairs[spot.index].heading, spot.room, 11, "bold") if spot.room else "",
            x=MARGIN + spot.x,
            y=_TOP + spot.y,
        )
        for spot in spots
    ]
    return placed, _TOP + height


def _header(proof: Proof) -> list[str]:
    state = "as apply would leave it" if proof.is_planned else "as the project is now"
    state = "now, and as apply would leave it" if proof.before else state
    return [
        text(shortened(proof.name, 800, 32, "serif"), MARGIN, 62, 32, face="serif"),
        text("Launch screens", WIDTH - MARGIN, 50, 12, face="bold", anchor="end"),
        text(state, WIDTH - MARGIN, 66, 11, ACCENT, anchor="end"),
        line(MARGIN, 78, WIDTH - MARGIN, 78, INK, 1),
    ]


def _names(pair: _Pair) -> Iterator[str]:
    """Under a pair, its system and the screen."""
    bottom = pair.y + pair.height
    screen = pair.scenes[0].screen
    yield text(shortened(screen.system, pair.width, 11, "bold"), pair.x, bottom + 23, 11, face="bold")
    name = screen.name
    if pair.alike:
        same = ", ".join(dict.fromkeys(_short(other, screen) for other in pair.alike))
        count = f"and {len(pair.alike)} that look the same: {same}"
        yield text(shortened(count, pair.width, 9.5), pair.x, bottom + 37, 9.5, ACCENT)
    else:
        yield text(shortened(name, pair.width, 9.5), pair.x, bottom + 37, 9.5, SOFT_INK)


def _short(screen: Screen, beside: Screen) -> str:
    """What a screen is called beside another one: its system, or its name where the systems are the same."""
    return screen.name if screen.system == beside.system else screen.system


def _look_caption(scene: Scene, label: str, rect: Rect, top: float) -> Iterator[Block]:
    """Under a screen its look, the colour bar of its ground with its value, then what is drawn: where one changes, the others are not drawn again."""
    room, y = max(_LEAST, rect.width), top + 3
    ground = scene.ground
    fill = ground.hex if ground else HATCH_PAPER
    after_look = 25 + text_width(label, 9.5)
    value = shortened(scene.ground_in_words, room - after_look, 9, "mono")
    upper = [
        f'<rect x="{rect.x}" y="{y}" width="14" height="10" fill="{fill}" stroke="{HAIRLINE}" stroke-width="0.75"/>',
        text(label, rect.x + 19, y + 8.8, 9.5, INK),
        text(value, rect.x + after_look, y + 8.8, 9, SOFT_INK, "mono"),
    ]
    yield block(upper, Rect(rect.x - 2, top, room + _PAIR_GAP, _LINE))
    lower = text(shortened(_source(scene), room, 8.5), rect.x, y + 22, 8.5, SOFT_INK)
    yield block([lower], Rect(rect.x - 2, top + _LINE, room + _PAIR_GAP, _CAPTION - _NAMES - _LINE))


def _source(scene: Scene) -> str:
    """What is drawn from which file: the folder and the name of the mark, else what kind of screen it is."""
    source = next((layer.source for layer in scene.layers if isinstance(layer, Picture)), "")
    return "/".join(source.split("/")[-2:]) if source else scene.title


def _reasons(proof: Proof) -> list[str]:
    """What is unknown, and why: each reason once."""
    told = {layer.reason: None for _, scene in proof.scenes for layer in scene.layers if isinstance(layer, Unknown)}
    blocked = [f"{site.target} {site.name} is not shown: {error.message}" for site, error in proof.blocked.items()]
    return [*told, *blocked]


def _footer(proof: Proof, reasons: list[str], top: float, height: float) -> Iterator[str]:
    for index, reason in enumerate(reasons):
        y = top + 18 * index
        yield f'<rect x="{MARGIN}" y="{y - 8}" width="18" height="10" fill="{HATCH_PAPER}" stroke="{HATCH_INK}" stroke-width="0.75"/>'
        yield text(shortened(f"unknown: {reason}", WIDTH - 2 * MARGIN - 28, 10), MARGIN + 26, y, 10, INK)
    foot = height - 30
    yield line(MARGIN, foot - 18, WIDTH - MARGIN, foot - 18)
    parts = ("rivelt", proof.name, proof.brief, "looks: light, dark", f"rules of rivelt {__version__}")
    slug = "  ·  ".join((*parts, "screens at one scale, in dp and pt"))
    yield text(shortened(slug, WIDTH - 2 * MARGIN - 210, 9), MARGIN, foot, 9, SOFT_INK)
    if any(scene.mask for _, scene in proof.scenes):
        yield line(WIDTH - MARGIN - 196, foot - 3, WIDTH - MARGIN - 172, foot - 3, ACCENT, 0.9)
        yield text("the circle the system masks with", WIDTH - MARGIN, foot, 9, SOFT_INK, anchor="end")
