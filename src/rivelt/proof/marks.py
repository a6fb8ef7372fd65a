"""Where findings lie on the screens, for a proof to mark them there."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from rivelt.findings import Finding
from rivelt.proof.model import Mark
from rivelt.rules.books import SITES
from rivelt.rules.rulebook import Evidence, Subject
from rivelt.rules.runner import Choice, judge
from rivelt.scene.model import Picture, Scene, TextBox
from rivelt.scene.site import Site
from rivelt.units import Rect

_ON_TEXT = frozenset({"IOS04"})


def marks_on(
    scenes: Sequence[tuple[Site, Scene]], findings: Iterable[Finding], evidence: Evidence, choice: Choice
) -> Mapping[int, tuple[Mark, ...]]:
    """Return the marks of each scene, by its `id`; scenes without any are left out.

    Args:
        scenes: what is shown.
        findings: what the rules of the platforms say of the sites of the scenes.
        evidence: the state of the project that the scenes are of.
        choice: the rules that are wanted.
    """
    codes: dict[tuple[str, str], dict[str, None]] = {}
    for finding in findings:
        if finding.verdict == "broken" and finding.path is not None:
            codes.setdefault((finding.site, finding.path), {})[finding.code] = None
    found = {id(scene): tuple(_marks(site, scene, codes, evidence, choice)) for site, scene in scenes}
    return {key: marks for key, marks in found.items() if marks}


def _marks(
    site: Site, scene: Scene, codes: Mapping[tuple[str, str], Iterable[str]], evidence: Evidence, choice: Choice
) -> Iterator[Mark]:
    """One mark for each place, with the codes of all that is wrong there."""
    on_pictures: dict[str, dict[str, None]] = {}
    for finding in judge(SITES, Subject(evidence, site, (scene,)), choice, site=site.label):
        if finding.verdict == "broken" and finding.path is not None:
            on_pictures.setdefault(finding.path, {})[finding.code] = None
    places: dict[Rect, dict[str, None]] = {}
    for layer in scene.layers:
        if not isinstance(layer, Picture | TextBox):
            continue
        seen = layer.seen if isinstance(layer, Picture) else layer.rect
        if isinstance(layer, Picture):
            for code in on_pictures.get(layer.source, ()):
                places.setdefault(seen, {})[code] = None
        for code in codes.get((site.label, layer.source), ()):
            if (code in _ON_TEXT) == isinstance(layer, TextBox):
                places.setdefault(seen, {})[code] = None
    for rect, its in places.items():
        yield Mark(rect, tuple(its))
