"""What one state of a project shows: its scenes, handoffs and waiting screens, each worked out once; and what the rules say of it."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, TypeVar

from rivelt.cores import threads
from rivelt.errors import RiveltError
from rivelt.findings import Finding
from rivelt.platforms import platform, screens_of, views_of
from rivelt.rules.books import SITES
from rivelt.rules.drift import Drift
from rivelt.rules.rulebook import Rule, Rulebook, Said, Subject, unknown
from rivelt.rules.runner import Choice, findings, said_by
from rivelt.scene.handoff import Handoff, handoff
from rivelt.scene.model import FIRST_SCREEN, Ground, Scene, Screen
from rivelt.scene.site import Site
from rivelt.units import Look

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.art.contrast import OutlineContrast
    from rivelt.brief.model import Brief
    from rivelt.colour import Colour
    from rivelt.picture import ImageFile
    from rivelt.pixels.pictures import Pictures
    from rivelt.plan.owner import Owner
    from rivelt.project.project import Project

T = TypeVar("T")

_IMAGES = (".png", ".jpg", ".webp", ".svg", ".zip")


def shown_moments(site: Site) -> tuple[Screen, ...]:
    """Return the last of a site's moments: what fades in is not to be judged on its way."""
    return site.moments[-1:]


class Evidence:
    """One state of a project: as it is, or as apply would leave it."""

    def __init__(
        self,
        project: Project,
        sites: Sequence[Site],
        brief_of: Callable[[Site], Brief | None] = lambda _: None,
        drift: Callable[[tuple[str, str]], Drift] = lambda _: Drift(),
        beside: Sequence[Site] | None = None,
        pictures: Callable[[], Pictures] | None = None,
        made: Callable[[Site], Iterable[str]] = lambda _: (),
    ) -> None:
        """Look at a project.

        Args:
            project: its files.
            sites: the sites that count; each is looked at in every variant of the app that shows something else.
            brief_of: gives the brief, or the edition of it, that a site is of.
            drift: how the project differs from what a brief (its path and edition) makes, asked for at most once each.
            beside: all sites that are planned for, where `sites` are only some of them.
            made: gives the paths of the files that Rivelt has made for a site, or would make.
            pictures: gives what decodes the bitmaps; without it, they are decoded for this state alone.
        """
        self.project = project
        self._planned = tuple(sites)
        self._beside = self._planned if beside is None else tuple(beside)
        self.brief_of = brief_of
        self._drift = drift
        self._drifts: dict[tuple[str, str], Drift] = {}
        self._scenes: dict[tuple[Site, Screen, Look], Scene] = {}
        self._handoffs: dict[Site, tuple[Handoff, ...]] = {}
        self._pictures = pictures
        self._made = made
        self._looked_at: set[ImageFile] = set()
        self._samples: dict[ImageFile, NDArray[np.uint8] | None] = {}
        self._kept: dict[Hashable, Any] = {}
        self._said: dict[tuple[str, Site, tuple[int, ...] | None], tuple[Said, ...]] = {}
        # The rules that, asked of a site, looked at its usual scenes alone; and how often one has asked for all.
        self._of_usual: set[tuple[str, Site]] = set()
        self._asked_for_all = 0

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what `make` gives for a key, such as what several rules ask for: it is called once for this state."""
        if key not in self._kept:
            self._kept[key] = make()
        found: T = self._kept[key]
        return found

    @cached_property
    def sites(self) -> tuple[Site, ...]:
        """The sites as each variant of the app sees them; those that show the same are one."""
        return views_of(self.project, self._planned, self._beside)

    def judge_owner(self, owner: Owner, choice: Choice) -> Iterator[Finding]:
        """Yield what the wanted rules say of the site of an owner, in all its variants."""
        for site in self.sites:
            if site.owner == owner:
                yield from self.judge_site(site, choice)

    # What is shown

    def scene(self, site: Site, screen: Screen, look: Look) -> Scene:
        """Return what a screen of a site shows in one look."""
        key = (site, screen, look)
        if key not in self._scenes:
            self._scenes[key] = platform(site.target).scene(self.project, site, screen, look)
        return self._scenes[key]

    def _shown_on(self, site: Site, screens: Iterable[Screen]) -> tuple[Scene, ...]:
        return tuple(self.scene(site, screen, look) for screen in screens for look in screen.looks)

    def scenes(self, site: Site) -> tuple[Scene, ...]:
        """Return what the usual screens of a site show, each in its looks."""
        return self._shown_on(site, (*screens_of(site), *shown_moments(site)))

    def every_scene(self, site: Site, counts: Callable[[Screen], bool] = lambda _: True) -> tuple[Scene, ...]:
        """Return what all known screens of a site show, each in its looks; `counts`: those that are wanted of them."""
        self._asked_for_all += 1
        return self._shown_on(site, filter(counts, (*screens_of(site, is_all=True), *site.moments)))

    def handoffs(self, site: Site) -> tuple[Handoff, ...]:
        """Return what comes after the launch screen on the last of the usual screens, in each look where something is known of it."""
        if site not in self._handoffs:
            self._handoffs[site] = tuple(self._handoffs_of(site))
        return self._handoffs[site]

    def _handoffs_of(self, site: Site) -> Iterator[Handoff]:
        last = {scene.look: scene for scene in self.scenes(site)}
        found = (handoff(site, scene, self._after(site, scene)) for scene in last.values())
        return (one for one in found if len(one.steps) > 1)

    def _after(self, site: Site, scene: Scene) -> Iterator[Ground]:
        """What comes after a launch screen: read from the native files; the first screen as the brief says it where they do not."""
        found = list(platform(site.target).after_launch(self.project, site, scene.screen, scene.look))
        waiting = platform(site.target).waiting(self.project, site, scene.screen, scene.look)
        own = [ground for ground in found if ground.moment == FIRST_SCREEN]
        yield from (ground for ground in found if ground.moment != FIRST_SCREEN)
        if waiting is not None:
            yield Ground("waiting screen", waiting.ground, waiting.title)
        brief = self.brief_of(site)
        first = brief.first_grounds.get(scene.look) if brief is not None else None
        if brief is not None and first is not None and not any(ground.colour for ground in own):
            own = [Ground(FIRST_SCREEN, first, brief.path.name)]
        yield from own

    def waiting(self, site: Site) -> tuple[tuple[Scene, Scene], ...]:
        """Return each launch screen of a site with the generated waiting screen that follows it, where there is one."""
        shown = (
            (scene, platform(site.target).waiting(self.project, site, scene.screen, scene.look))
            for scene in self.scenes(site)
        )
        return tuple((scene, waiting) for scene, waiting in shown if waiting is not None)

    def unit(self, site: Site) -> str:
        """Return the unit in which the site's screens are measured."""
        return platform(site.target).unit

    @cached_property
    def pictures(self) -> Pictures:
        """What decodes the bitmaps that are shown."""
        from rivelt.pixels.pictures import Pictures

        return Pictures() if self._pictures is None else self._pictures()

    def sample(self, image: ImageFile) -> NDArray[np.uint8] | None:
        """Return an image drawn small (height x width x 4, sRGB with straight alpha); None when it cannot be read."""
        if image not in self._samples:
            from rivelt.art.sample import sampled_image

            try:
                self._samples[image] = self.pictures.found("sample", image, lambda: sampled_image(image, self.pictures))
            except RiveltError:
                self._samples[image] = None
        return self._samples[image]

    def found(self, image: ImageFile, find: Callable[[NDArray[np.uint8]], T]) -> T | None:
        """Return what a function of a module says of an image drawn small, asked once for all states of the project; None when it cannot be read."""

        def find_in_sample() -> T | None:
            pixels = self.sample(image)
            return None if pixels is None else find(pixels)

        return self.pictures.found(find, image, find_in_sample)

    def contrast(self, image: ImageFile, ground: Colour) -> OutlineContrast | None:
        """Return the contrast of an image to a ground along its outline; None when it cannot be read, or has none."""
        from rivelt.art.contrast import contrast_along, outline_of

        def along_outline() -> OutlineContrast | None:
            outline = self.found(image, outline_of)
            return None if outline is None else contrast_along(outline, ground, 1.0)

        return self.pictures.found(("contrast", ground), image, along_outline)

    def look_at(self, images: Mapping[ImageFile, bool]) -> None:
        """Decode images on all cores, and those marked True draw small, so that `shows` and `sample` need not later."""
        from concurrent.futures import ThreadPoolExecutor

        unknown_ones = [image for image in images if image not in self._looked_at]
        self._looked_at.update(unknown_ones)
        if len(unknown_ones) > 1:
            with ThreadPoolExecutor(threads()) as pool:
                list(pool.map(lambda image: (self.sample if images[image] else self.shows)(image), unknown_ones))

    def shows(self, image: ImageFile) -> bool | None:
        """Return whether anything of an image is visible; None when it cannot be read. A file is only decoded for it."""
        from rivelt.art.source import read_picture
        from rivelt.pixels.planned import PlannedImage

        if image.is_vector or isinstance(image, PlannedImage):
            pixels = self.sample(image)
            return None if pixels is None else bool(pixels[..., 3].any())
        try:
            if not image.is_png:  # others may be of a kind that is not to be read
                read_picture(image.data, "picture")
            return self.pictures.shows(image)
        except RiveltError:
            return None

    def made_images(self, site: Site) -> Mapping[str, int]:
        """Return the images that Rivelt has made for a site, or would make, with what each weighs in bytes; none where that is not known."""
        paths = sorted({path for path in self._made(site) if path.lower().endswith(_IMAGES)})
        return {path: len(self.project.read(path)) for path in paths if path in self.project}

    def drift(self, key: tuple[str, str]) -> Drift:
        """Return how the project differs from what a brief (its path and edition) makes."""
        if key not in self._drifts:
            self._drifts[key] = self._drift(key)
        return self._drifts[key]

    # What the rules say

    def judge(self, sites: Iterable[Site], choice: Choice) -> Iterator[Finding]:
        """Yield what the wanted rules say of some sites; of a site that cannot be handled, that they cannot be judged."""
        for site in sites:
            if site.exists or site.blocked is not None:
                yield from self.judge_site(site, choice)

    def judge_site(self, site: Site, choice: Choice) -> Iterator[Finding]:
        """Yield what the wanted rules say of one site."""
        for book in (SITES, platform(site.target).rules):
            if site.blocked is None:
                yield from self.judge_by(book, site, choice)
            else:
                yield from _of_blocked(book, Subject(self, site), choice, site.blocked)

    def judge_by(
        self, book: Rulebook[Subject[Site]], site: Site, choice: Choice, shown: tuple[Scene, ...] | None = None
    ) -> Iterator[Finding]:
        """Yield what the wanted rules of one book say of a site, or of some of its scenes alone; each rule looks once."""
        subject = Subject(self, site, shown)
        for code, rule in book.rules.items():
            if choice.wants(code):
                yield from findings(rule, self._said_of(rule, subject), choice, site=site.label)

    def _said_of(self, rule: Rule[Subject[Site]], subject: Subject[Site]) -> tuple[Said, ...]:
        shown = None if subject.shown is None else tuple(map(id, subject.shown))
        key = (rule.code, subject.site, shown)
        if shown is not None and (rule.code, subject.site) in self._of_usual:
            # A proof mostly shows the usual screens.
            key = key if shown != tuple(map(id, self.scenes(subject.site))) else (*key[:2], None)
        if key not in self._said:
            asked = self._asked_for_all
            self._said[key] = tuple(said_by(rule, subject))
            if shown is None and asked == self._asked_for_all:
                self._of_usual.add(key[:2])
        return self._said[key]


def _of_blocked(
    book: Rulebook[Subject[Site]], subject: Subject[Site], choice: Choice, error: RiveltError
) -> Iterator[Finding]:
    """What rules say of a site that cannot be handled: one says so, the others cannot be judged."""
    for code, rule in book.rules.items():
        if choice.wants(code):
            said: Iterable[Said] = rule.check(subject) if code == "SIT01" else [unknown(error.message, error.place)]
            yield from findings(rule, said, choice, site=subject.site.label)
