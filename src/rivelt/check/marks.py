"""Where findings lie on the screens, for a proof to mark them there."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from rivelt.check.report import Verdict
from rivelt.check.scenes import PICTURE_RULES, seen_part, shown_pictures
from rivelt.platforms.site import Site
from rivelt.proof.model import Mark
from rivelt.scene.model import Picture, Scene, TextBox
from rivelt.units import Rect

_ON_TEXT = frozenset({"IOS04"})


def marks_on(
    scenes: Sequence[tuple[Site, Scene]], verdicts: Iterable[Verdict], wanted: frozenset[str]
) -> Mapping[int, tuple[Mark, ...]]:
    """The marks of each scene, by its `id`; scenes without any are left out.

    Args:
        scenes: what is shown.
        verdicts: what the platforms' rules say of the sites of the scenes.
        wanted: the codes of the rules that are wanted.
    """
    codes: dict[tuple[str, str], dict[str, None]] = {}
    for verdict in verdicts:
        for finding in verdict.findings:
            if finding.place is not None and finding.code in wanted:
                codes.setdefault((verdict.about, finding.place.path), {})[finding.code] = None
    found = {id(scene): tuple(_marks(site, scene, codes, wanted)) for site, scene in scenes}
    return {key: marks for key, marks in found.items() if marks}


def _marks(
    site: Site, scene: Scene, codes: Mapping[tuple[str, str], Iterable[str]], wanted: frozenset[str]
) -> Iterator[Mark]:
    """One mark for each place, with the codes of all that is wrong there."""
    places: dict[Rect, dict[str, None]] = {}
    if site.exists:
        for one in shown_pictures(scene):
            for code, rule in PICTURE_RULES.items():
                if code in wanted and any(rule(one)):
                    places.setdefault(seen_part(one.picture.rect, one.picture.clip), {})[code] = None
    for layer in scene.layers:
        if not isinstance(layer, Picture | TextBox):
            continue
        for code in codes.get((f"{site.target} {site.name}", layer.source), ()):
            if (code in _ON_TEXT) == isinstance(layer, TextBox):
                places.setdefault(seen_part(layer.rect, getattr(layer, "clip", None)), {})[code] = None
    for rect, its in places.items():
        yield Mark(rect, tuple(its))
