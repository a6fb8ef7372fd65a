"""Where findings are on the screens, for a proof to mark them there."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from rivelt.evidence import Evidence
from rivelt.findings import Finding
from rivelt.proof.model import Mark
from rivelt.rules.books import SITES
from rivelt.rules.runner import Choice
from rivelt.scene.model import Picture, Scene, TextBox
from rivelt.scene.site import Site
from rivelt.units import Rect
from rivelt.values import replace

_ON_TEXT = frozenset({"IOS04"})


def marks_on(
    scenes: Sequence[tuple[Site, Scene]], findings: Iterable[Finding], evidence: Evidence, choice: Choice
) -> tuple[Mapping[int, tuple[Mark, ...]], tuple[Finding, ...]]:
    """Return the marks of each scene, by its `id` (scenes without any are left out), and the findings that they are about.

    Args:
        scenes: what is shown.
        findings: what the rules of the platforms say of the sites of the scenes.
        evidence: the state of the project that the scenes are of.
        choice: the rules that are wanted.
    """
    codes: dict[tuple[str, str], dict[str, None]] = {}
    about: dict[Finding, None] = {}
    for finding in findings:
        if finding.verdict == "broken" and finding.path is not None:
            codes.setdefault((finding.site, finding.path), {})[finding.code] = None
            about[finding] = None
    marks: dict[int, tuple[Mark, ...]] = {}
    shown_of: dict[Site, list[Scene]] = {}
    for site, scene in scenes:
        shown_of.setdefault(site, []).append(scene)
    # What is wrong on a screen is wrong on all of them together: only rules that say so there are asked of each screen.
    suspect = {
        site: replace(choice, codes=frozenset(one.code for one in _broken(evidence, site, choice, its)))
        for site, its in shown_of.items()
    }
    for site, scene in scenes:
        seen = _broken(evidence, site, suspect[site], (scene,))
        about |= dict.fromkeys(seen)
        if its := tuple(_marks(site, scene, codes, seen)):
            marks[id(scene)] = its
    shown = {code for its in marks.values() for mark in its for code in mark.codes}
    return marks, tuple(finding for finding in about if finding.code in shown)


def _broken(evidence: Evidence, site: Site, choice: Choice, scenes: Sequence[Scene]) -> list[Finding]:
    """What the rules on all sites find wrong on some scenes of one, and name a file for."""
    found = evidence.judge_by(SITES, site, choice, tuple(scenes))
    return [finding for finding in found if finding.verdict == "broken" and finding.path is not None]


def _marks(
    site: Site, scene: Scene, codes: Mapping[tuple[str, str], Iterable[str]], seen: Iterable[Finding]
) -> Iterator[Mark]:
    """One mark for each place, with the codes of all that is wrong there."""
    on_pictures: dict[str, dict[str, None]] = {}
    for finding in seen:
        on_pictures.setdefault(finding.path or "", {})[finding.code] = None
    places: dict[Rect, dict[str, None]] = {}
    for layer in scene.layers:
        if not isinstance(layer, Picture | TextBox):
            continue
        place = layer.seen if isinstance(layer, Picture) else layer.rect
        if isinstance(layer, Picture):
            for code in on_pictures.get(layer.source, ()):
                places.setdefault(place, {})[code] = None
        for code in codes.get((site.label, layer.source), ()):
            if (code in _ON_TEXT) == isinstance(layer, TextBox):
                places.setdefault(place, {})[code] = None
    for rect, its in places.items():
        yield Mark(rect, tuple(its))
