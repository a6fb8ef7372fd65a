"""What a rule is, and what it looks at.

A rule is a code, words, a severity and a function. It is registered where it lives: a `Rulebook` belongs to a package, whose `words.toml`
has the words and severities of its rules.
"""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, Protocol, TypeVar

import msgspec
from msgspec import Struct, field

from rivelt.documents.rules import RuleItem
from rivelt.errors import Place
from rivelt.findings import Severity, Verdict
from rivelt.packaged import packaged
from rivelt.scene.site import Site

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.art.contrast import OutlineContrast
    from rivelt.brief.model import Brief
    from rivelt.colour import Colour
    from rivelt.layout.report import ArtReport, BackdropReport
    from rivelt.picture import ImageFile
    from rivelt.project.project import Project
    from rivelt.rules.drift import Drift
    from rivelt.scene.handoff import Handoff
    from rivelt.scene.model import Scene, Screen

T = TypeVar("T")
X = TypeVar("X")
S = TypeVar("S", bound=Site)


class Said(Struct, frozen=True):
    """What a rule says of its subject: that it is broken, or that it cannot be judged. A rule that says nothing holds.

    `severity`: where it is not the rule's own.
    """

    verdict: Verdict
    message: str
    fix: str = ""
    place: Place | None = None
    screen: str = ""
    look: str = ""
    severity: Severity | None = None


def broken(
    message: str,
    fix: str = "",
    place: Place | None = None,
    *,
    screen: str = "",
    look: str = "",
    severity: Severity | None = None,
) -> Said:
    """Return that a rule is broken: what is wrong, how to fix it, where."""
    return Said("broken", message, fix, place, screen, look, severity)


def unknown(reason: str, place: Place | None = None, *, screen: str = "", look: str = "") -> Said:
    """Return that a rule cannot be judged, and why."""
    return Said("unknown", reason, place=place, screen=screen, look=look)


class Evidence(Protocol):
    """What rules may look at: one state of a project. Each part is worked out when it is first asked for, and then kept."""

    project: Project

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what `make` gives for a key, such as what several rules ask for: it is called once for this state."""

    def brief_of(self, site: Site) -> Brief | None:
        """Return the brief, or the edition of it, that a site is of; None without one."""

    def scenes(self, site: Site) -> Sequence[Scene]:
        """Return what the usual screens of a site show, each in its looks."""

    def every_scene(self, site: Site, counts: Callable[[Screen], bool] = ...) -> Sequence[Scene]:
        """Return what all known screens of a site show, each in its looks; `counts`: those that are wanted of them."""

    def handoffs(self, site: Site) -> Sequence[Handoff]:
        """Return what comes after the launch screen of a site, in each look."""

    def waiting(self, site: Site) -> Sequence[tuple[Scene, Scene]]:
        """Return each launch screen of a site with the generated waiting screen that follows it, where there is one."""

    def unit(self, site: Site) -> str:
        """Return the unit in which the site's screens are measured."""

    def sample(self, image: ImageFile) -> NDArray[np.uint8] | None:
        """Return an image drawn small (height x width x 4, sRGB with straight alpha); None when it cannot be read."""

    def found(self, image: ImageFile, find: Callable[[NDArray[np.uint8]], T]) -> T | None:
        """Return what a function of a module says of an image drawn small, asked once for all states of the project; None when it cannot be read."""

    def contrast(self, image: ImageFile, ground: Colour) -> OutlineContrast | None:
        """Return the contrast of an image to a ground along its outline; None when it cannot be read, or has none."""

    def look_at(self, images: Mapping[ImageFile, bool]) -> None:
        """Decode images on all cores, and those marked True draw small, so that `shows` and `sample` need not later."""

    def shows(self, image: ImageFile) -> bool | None:
        """Return whether anything of an image is visible; None when it cannot be read."""

    def made_images(self, site: Site) -> Mapping[str, int]:
        """Return the images that Rivelt has made for a site, or would make, with what each weighs in bytes; none where that is not known."""

    def drift(self, key: tuple[str, str]) -> Drift:
        """Return how the project differs from what a brief (its path and edition) makes."""


class Subject(Struct, Generic[S], frozen=True):
    """A site, as it is or as it would be, and all that is known of it. `shown`: the scenes that count, where not all do."""

    evidence: Evidence
    site: S
    shown: tuple[Scene, ...] | None = None

    @property
    def project(self) -> Project:
        """The project's files."""
        return self.evidence.project

    @property
    def brief(self) -> Brief | None:
        """The brief, if there is one."""
        return self.evidence.brief_of(self.site)

    @property
    def scenes(self) -> Sequence[Scene]:
        """What the usual screens show, each in its looks."""
        return self.evidence.scenes(self.site) if self.shown is None else self.shown

    @property
    def every_scene(self) -> Sequence[Scene]:
        """What all known screens show, each in its looks; of those that count, where not all do."""
        return self.evidence.every_scene(self.site) if self.shown is None else self.shown

    def every_scene_on(self, counts: Callable[[Screen], bool]) -> Sequence[Scene]:
        """Return what all known screens show that are wanted: those of others are not read."""
        if self.shown is None:
            return self.evidence.every_scene(self.site, counts)
        return [scene for scene in self.shown if counts(scene.screen)]

    @property
    def handoffs(self) -> Sequence[Handoff]:
        """What comes after the launch screen, in each look."""
        return self.evidence.handoffs(self.site)

    @property
    def waiting(self) -> Sequence[tuple[Scene, Scene]]:
        """Each launch screen with the generated waiting screen that follows it, where there is one."""
        return self.evidence.waiting(self.site)

    @property
    def unit(self) -> str:
        """The unit in which the screens are measured."""
        return self.evidence.unit(self.site)


class ArtSubject(Struct, frozen=True):
    """A piece of art: what is known of it, alone (`art`) or as a backdrop; or why it cannot be used (`problem`)."""

    art: ArtReport | None = None
    backdrop: BackdropReport | None = None
    problem: Said | None = None
    brief: Brief | None = None


class BriefSubject(Struct, frozen=True):
    """A brief or an edition of it (`key`: the brief's path and the edition's name), and the project that it is applied to."""

    evidence: Evidence
    brief: Brief
    key: tuple[str, str]

    @property
    def drift(self) -> Drift:
        """How the project differs from what the brief makes."""
        return self.evidence.drift(self.key)


Check = Callable[[X], Iterable[Said]]


class Words(msgspec.Struct, frozen=True):
    """The words of a rule. `means`, `sees`, `why`, `fix`: its explanation, a paragraph each. `source`: the platform's documentation, if any."""

    title: str
    severity: Severity
    means: str
    sees: str
    why: str
    fix: str
    source: str = ""


class Rule(Struct, Generic[X], frozen=True):
    """One rule. `targets`: the platforms that it can say something about. `owner`: the package that it lives in."""

    code: str
    check: Check[X]
    words: Words
    targets: tuple[str, ...]
    owner: str

    @property
    def item(self) -> RuleItem:
        """The rule for a document; a rule without targets is about all platforms, which it does not know."""
        return RuleItem(
            code=self.code, targets=list(self.targets), owner=self.owner, **msgspec.structs.asdict(self.words)
        )

    def to_dict(self) -> dict[str, Any]:
        """Return the rule with its words as plain data."""
        found: dict[str, Any] = msgspec.to_builtins(self.item)
        return found


class Rulebook(Struct, Generic[X], dict=True):
    """The rules of one package about one kind of subject. `targets` is empty for rules that are about all platforms."""

    package: str
    targets: tuple[str, ...] = ()
    modules: tuple[str, ...] = ()
    _checks: dict[str, Check[X]] = field(default_factory=dict)

    def rule(self, code: str) -> Callable[[Check[X]], Check[X]]:
        """Register a check under a code that never changes."""

        def register(check: Check[X]) -> Check[X]:
            self._checks[code] = check
            return check

        return register

    @cached_property
    def rules(self) -> Mapping[str, Rule[X]]:
        """The rules by code, sorted; the modules that register them are loaded for it."""
        from importlib import import_module

        for name in self.modules:
            import_module(f"{self.package}.{name}")
        tables = tomllib.loads(packaged(self.package, "words.toml").decode())
        source = tables.pop("source", "")
        words = {code: msgspec.convert({"source": source, **table}, Words) for code, table in tables.items()}
        owner = self.package.removeprefix("rivelt.")
        return {
            code: Rule(code, check, words[code], self.targets, owner) for code, check in sorted(self._checks.items())
        }


def once(said: Iterable[Said]) -> Iterator[Said]:
    """Yield the same thing only once: several screens often say the same."""
    yield from dict.fromkeys(said)
