"""Rules on the art of a brief, or on art alone."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.brief.model import DERIVE
from rivelt.errors import Place
from rivelt.layout.report import ArtReport
from rivelt.layout.sharpness import BLURRED, SHARP
from rivelt.rules.books import ART
from rivelt.rules.rulebook import ArtSubject, Said, broken

READABLE_SHARE = 0.9
"""The share of the outline that must reach 3:1 for a mark to count as readable on its ground."""

HEAVY = 5_000_000
"""Bytes above which a source file holds more than a launch screen needs."""

THINNEST = 1.0
"""Dp or points: one pixel of the coarsest screens."""

_TRANSPARENT = "Export it again as an SVG, or as a PNG file with a transparent background."
NO_CONTRAST_FIX = "Give another ground."


@ART.rule("ART01")
def no_text(subject: ArtSubject) -> Iterator[Said]:
    """Text is drawn with the fonts of the machine."""
    art = subject.art
    if art is not None and art.art.svg is not None and "text" in art.art.svg.tags:
        from rivelt.art.fonts import missing_fonts

        message = f"{art.art.name} holds text: fonts differ between machines, and so would the mark"
        if lacking := missing_fonts(art.art.svg.fonts):
            verb = "is" if len(lacking) == 1 else "are"
            message += f"; {' and '.join(lacking)} {verb} not installed here, so that other letters are drawn"
        yield broken(message, "Convert the text to outlines in the drawing program.", art.place)


@ART.rule("ART02")
def enough_pixels(subject: ArtSubject) -> Iterator[Said]:
    """A bitmap is not enlarged; an error above `BLURRED`, unless the brief allows it."""
    art, backdrop = subject.art, subject.backdrop
    if backdrop is not None and backdrop.art.svg is None and backdrop.coverage.enlarged > SHARP:
        found = backdrop.coverage
        message = (
            f"{backdrop.art.name} has too few pixels: on the largest screen it is enlarged {found.enlarged:.1f} times"
        )
        fix = f"Ask for {found.wanted.width:.0f} x {found.wanted.height:.0f} pixels."
        yield broken(message, fix, backdrop.place)
    if art is not None and art.sharpness is not None and art.sharpness.enlarged:
        yield blurred(art, may_enlarge=subject.brief is not None and subject.brief.layout.enlarge)


def blurred(art: ArtReport, *, may_enlarge: bool) -> Said:
    """Yield findings on a bitmap that is enlarged."""
    sharpness = art.sharpness
    assert sharpness is not None
    is_error = sharpness.largest > BLURRED and not may_enlarge
    worst = max(sharpness.enlarged, key=lambda path: sharpness.enlarged[path])
    message = (
        f"{art.art.name} has too few pixels: it is enlarged {sharpness.largest:.1f} times in {worst}, "
        f"and in {len(sharpness.enlarged) - 1} more plates"
    )
    fix = f"Ask for {sharpness.wanted.width} x {sharpness.wanted.height} pixels, or better an SVG."
    if is_error:
        fix += " To have it all the same: enlarge = true under [layout]."
    return broken(message, fix, art.place, severity="error" if is_error else "warning")


@ART.rule("ART03")
def readable_on_its_ground(subject: ArtSubject) -> Iterator[Said]:
    """The outline of the mark reaches 3:1 against what it stands on, in each look."""
    art = subject.art
    for look, contrast in art.contrast.items() if art is not None else ():
        if art is not None and contrast.share < READABLE_SHARE:
            x, y = contrast.weakest.centre
            message = (
                f"{art.art.name} is hard to see on {art.behind[look]} ({look}): {contrast.share:.0%} of its outline "
                f"reaches 3:1; weakest near {x:.0f}, {y:.0f} with {contrast.weakest_ratio:.1f}:1"
            )
            fix = 'Set mark = "derive" under [dark], or give another ground.' if look == "dark" else NO_CONTRAST_FIX
            yield broken(message, fix, art.place, look=look)


@ART.rule("ART04")
def no_baked_background(subject: ArtSubject) -> Iterator[Said]:
    """The file is not a full rectangle with the drawing on it."""
    art = subject.art
    if art is not None and art.is_baked:
        message = f"{art.art.name} is a full rectangle of one colour with the drawing on it: its background is baked in"
        yield broken(message, _TRANSPARENT, art.place)
    elif art is not None and art.art.kind == "JPEG":
        message = (
            f"{art.art.name} is a JPEG file, which has no transparency: as a mark it is an opaque box round the drawing"
        )
        yield broken(message, _TRANSPARENT, art.place)


@ART.rule("ART05")
def no_moving_picture(subject: ArtSubject) -> Iterator[Said]:
    """Of a moving picture only the first frame is shown; of an animated drawing, what stands still."""
    art = subject.art
    if art is not None and art.art.svg is not None and art.art.svg.is_animated:
        message = f"{art.art.name} is animated: it is shown as it is without its animations"
        yield broken(message, place=art.place)
    if art is not None and art.art.frames > 1:
        message = f"{art.art.name} is a moving picture of {art.art.frames} frames: the first is shown"
        yield broken(message, place=art.place)


@ART.rule("ART06")
def focus_is_seen(subject: ArtSubject) -> Iterator[Said]:
    """The focus of a backdrop is on every screen."""
    backdrop = subject.backdrop
    if backdrop is None or not backdrop.coverage.cut:
        return
    found, box = backdrop.coverage, backdrop.coverage.common
    message = (
        f"the focus of {backdrop.art.name} is cut off on {len(found.cut)} of {found.screens} screens, "
        f"{found.cut[0]} among them"
    )
    fix = (
        f"Every screen shows only {box.width:.0f} x {box.height:.0f} of its pixels, from {box.x:.0f}, {box.y:.0f}: "
        "place what matters there."
    )
    yield broken(message, fix, backdrop.place)


@ART.rule("ART07")
def derived_art_has_no_bitmap(subject: ArtSubject) -> Iterator[Said]:
    """A bitmap embedded in a drawing is not recoloured."""
    from rivelt.art.derive import DERIVED

    art = subject.art
    is_derived = art is not None and art.art.name.endswith(DERIVED)
    if art is not None and is_derived and art.art.svg is not None and "image" in art.art.svg.tags:
        message = f"{art.art.name}: a bitmap embedded in the drawing keeps its colours"
        yield broken(message, "Draw it as paths, or give the dark look a file of its own.", art.place)


@ART.rule("ART08")
def masks_allow_the_size(subject: ArtSubject) -> Iterator[Said]:
    """The mark is as large as the brief asks for under every mask of its targets."""
    place = subject.brief.place("layout.mark_size") if subject.brief is not None else None
    for note in subject.art.too_small if subject.art is not None else ():
        yield broken(note, 'Use mark_size = "fit".', place)


@ART.rule("ART12")
def strokes_are_thick_enough(subject: ArtSubject) -> Iterator[Said]:
    """The thinnest stroke of the mark is at least as wide as a pixel of the coarsest screens."""
    art = subject.art
    if art is not None and art.thinnest_shown is not None and art.thinnest_shown < THINNEST:
        message = f"{art.art.name} has strokes of {art.thinnest_shown:.1f} dp: they fade, or break up"
        yield broken(
            message, f"Draw them at least {THINNEST:g} dp wide at the size at which the mark is shown.", art.place
        )


@ART.rule("ART09")
def art_is_light(subject: ArtSubject) -> Iterator[Said]:
    """A source file is no larger than a launch screen needs."""
    art = subject.art
    weight = len(art.art.data) if art is not None else 0
    if art is not None and weight > HEAVY:
        message = f"{art.art.name} weighs {weight / 1e6:.1f} MB"
        yield broken(message, "Remove hidden content and export again.", art.place or Place(art.art.name))


@ART.rule("ART10")
def art_can_be_used(subject: ArtSubject) -> Iterator[Said]:
    """The files that the brief names are there, and are art."""
    if subject.problem is not None:
        yield subject.problem


@ART.rule("ART11")
def edition_has_its_own_dark_art(subject: ArtSubject) -> Iterator[Said]:
    """An edition with light art of its own does not show the brief's art in the dark look."""
    brief, art = subject.brief, subject.art
    if brief is None or not brief.edition or art is None or art.role is None or art.looks != ("dark",):
        return
    role = art.role
    if f"light.{role}" in brief.given and f"dark.{role}" not in brief.given and brief.looks["dark"].art(role) != DERIVE:
        message = (
            f"edition {brief.edition} has a {role} of its own, and in the dark look still the brief's: {art.art.name}"
        )
        fix = f'Give the edition dark.{role}: a file, or "derive".'
        yield broken(message, fix, brief.place(f"light.{role}"))
