"""Briefs and projects opened: what `import rivelt` offers, and the only door that the command line goes through.

A brief is read with its editions and the files that they name; a `Job` works on the project that it is for. And a new brief is written.
"""

from __future__ import annotations

import difflib
import os
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from rivelt.brief import model
from rivelt.brief.find import brief_file, find_brief, placed_in, refuse_unknown, shown_path
from rivelt.brief.model import EDITION_NAME, FILE_NAME, THE_BRIEF
from rivelt.briefs import Brief, in_memory, opened
from rivelt.disk.tree import AnyPath, read_file, relative_to, resolved
from rivelt.documents.base import Problem
from rivelt.documents.project import OwnerItem, SiteItem, SurveyDocument, SurveySummary, UnreadItem
from rivelt.editions import Opened
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.job import Job
from rivelt.platforms import TARGETS, platform, views_of
from rivelt.platforms.choose import best_names
from rivelt.project.files import DISK, Files
from rivelt.project.project import Project
from rivelt.values import replace
from rivelt.workspace.lockfile import LOCK_NAME, read_lock
from rivelt.workspace.ownership import generated_words

if TYPE_CHECKING:
    from rivelt.plan.owner import Owner
    from rivelt.scene.site import Site

_LARGEST_BRIEF = 1_000_000  # bytes


def open(  # noqa: A001
    source: AnyPath | Brief | None = None,
    *,
    only: Sequence[str] = (),
    editions: Sequence[str] = (),
    files: Files = DISK,
) -> Job:
    """Return a job on a brief or a project.

    Args:
        source: a brief, or a folder in which or above which one is; a project's folder without a brief; or a brief that was built in
            memory. None: the current folder.
        only: the targets that are wanted; all when empty.
        editions: the editions that are wanted, "main" for the brief itself; all when empty.
        files: where they are: on disk, or as a commit has them (`rivelt.revision`).

    Raises:
        BadInput: there is nothing there, the brief has problems, or there is no such target or edition.
    """
    refuse_unknown(only, TARGETS)
    if isinstance(source, Brief):
        refuse_unknown_editions([source], editions)
        return Job(source.project, (in_memory(source, only),), tuple(only), tuple(editions))
    if source is not None and not files.is_there(Path(source)):
        raise BadInput(f"there is no {os.fspath(source)}", hint="Give a brief, or the folder of a project.")
    folder = Path(source) if source is not None else Path()
    if files.is_folder(folder) and find_brief(folder, files) is None:
        if editions:
            raise BadInput("there is no brief, and so no edition", hint="Leave --edition out.")
        return Job(files.real(folder), (), tuple(only), files=files)
    return open_brief(None if source is None else folder, only=only, editions=editions, files=files)


def open_brief(
    source: Path | None = None, *, only: Sequence[str] = (), editions: Sequence[str] = (), files: Files = DISK
) -> Job:
    """Return a job on a brief.

    Args:
        source: a brief, or a folder in which or above which one is. None: the current folder.
        only: the targets that are wanted; all of the brief's when empty.
        editions: the editions that are wanted, "main" for the brief itself; all when empty.
        files: where they are.

    Raises:
        BadInput: there is no brief, it has problems, or it has no such target or edition.
    """
    (job,) = open_briefs([source], only=only, editions=editions, files=files)
    return job


def open_briefs(
    sources: Sequence[Path | None], *, only: Sequence[str] = (), editions: Sequence[str] = (), files: Files = DISK
) -> tuple[Job, ...]:
    """Return a job for each project that some briefs are for; briefs of one project are worked on together.

    Raises:
        BadInput: there is no brief, one has problems, or they have no such target or edition; `Problems` for several.
    """
    refuse_unknown(only, TARGETS)
    found: dict[Path, list[Opened]] = {}
    problems: list[RiveltError] = []
    for file in dict.fromkeys(files.real(brief_file(source, files)) for source in sources):
        try:
            one = opened(file, only, files)
            found.setdefault(one.brief.project, []).append(one)
        except RiveltError as error:
            problems += error.parts
    raise_all(problems)
    refuse_unknown_editions([one.brief for its in found.values() for one in its], editions)
    return tuple(Job(root, its, tuple(only), tuple(editions), files=files) for root, its in found.items())


def open_below(
    folder: Path, *, only: Sequence[str] = (), editions: Sequence[str] = (), files: Files = DISK
) -> tuple[Job, ...]:
    """Return jobs on all briefs below a folder, each for its own sites; and last, where there are others, on the sites of no brief.

    Raises:
        BadInput: a brief has problems; `Problems` for several.
    """
    refuse_unknown(only, TARGETS)
    root = files.real(folder)
    project = Project.of_folder(root, files=files)
    sources = _briefs_below(folder, project, files)
    if not sources:
        if editions:
            raise BadInput("there is no brief, and so no edition", hint="Leave --edition out.")
        return (Job(root, (), tuple(only), files=files),)
    jobs = open_briefs(sources, only=only, editions=editions, files=files)
    for job in jobs:
        if job.root == root:
            job.project = project
    if find_brief(folder, files) is not None and len(sources) == 1:
        return jobs
    theirs = {(job.root / site.path) for job in jobs for site in job.all_sites if site.path}
    job = Job(root, (), tuple(only), besides=frozenset(theirs), files=files)
    return (*jobs, job) if not editions and job.sites else jobs


_NO_VARIANT = "in no variant alone: each has a source set that decides"


class Surveyed(NamedTuple):
    """What is there: the sites, each as the variants see it that show the same, and whose they are.

    `owners`: by target and name of a site. `problems`: of briefs that cannot be used.
    """

    root: Path
    project: Project
    sites: tuple[Site, ...]
    owners: Mapping[tuple[str, str], Sequence[Owner]]
    problems: tuple[RiveltError, ...]
    has_brief: bool

    def owners_of(self, site: Site) -> Sequence[Owner]:
        """Return whose a site is."""
        return self.owners.get((site.target, site.name), ())

    @property
    def document(self) -> SurveyDocument:
        """What is there, as `rivelt survey --json` prints it."""
        unread = [UnreadItem(path=one.path, reason=one.reason) for one in self.project.unread]
        # A brief is named as it is from the current folder.
        problems = [Problem.of(one, lambda path: relative_to(Path(path), self.root)) for one in self.problems]
        return SurveyDocument(
            root=str(self.root),
            summary=SurveySummary(
                sites=len(self.sites),
                left_alone=sum(site.blocked is not None for site in self.sites),
                unread=len(unread),
                problems=len(problems),
            ),
            sites=[self._item(site) for site in self.sites],
            unread=unread,
            problems=problems,
        )

    def _item(self, site: Site) -> SiteItem:
        owners = self.owners_of(site)
        briefs = [one.brief for one in owners]
        return SiteItem(
            target=site.target,
            site=site.name,
            owners=[OwnerItem(brief=one.brief, edition=one.edition) for one in owners],
            variants=list(site.variants),
            today=site.today,
            facts={name: value.replace("\n", ", ") for name, value in site.facts.items()},
            touches=list(site.touches),
            blocked=Problem.of(site.blocked, placed_in(self.root, briefs)) if site.blocked else None,
        )

    def to_dict(self) -> dict[str, Any]:
        """Return what is there as plain data, as `rivelt survey --json` prints it."""
        return self.document.to_dict()


def survey(folder: AnyPath = ".", *, only: Sequence[str] = (), editions: Sequence[str] = ()) -> Surveyed:
    """Return what is in a folder, with or without briefs; one that cannot be used is a problem among the results.

    Raises:
        BadInput: there is no such target or edition, or the folder cannot be read.
    """
    folder = Path(folder)
    work = open_folder(folder, only=only)
    found = {(site.target, site.name): site for site in work.sites}
    owned: dict[tuple[str, str], list[Site]] = {}
    problems: list[RiveltError] = []
    briefs = _briefs_below(folder, work.project)
    for file in briefs:
        try:
            (job,) = open_briefs([file], only=only, editions=editions)
            if job.root == work.root:
                job.project = work.project
            sites = job.sites
        except RiveltError as error:
            if editions:
                raise
            problems += error.parts
            continue
        for site in sites:
            key = (site.target, site.name)
            is_stand_in = key not in found and site.blocked is not None and not site.names
            if job.root == work.root and site.exists and not is_stand_in:
                found.setdefault(key, site)
                owned.setdefault(key, []).append(site)
    # A site with one owner is shown as its brief configures it, with the errors of that configuration.
    found |= {
        key: its[0] for key, its in owned.items() if len(its) == 1 or all(site.blocked is not None for site in its)
    }
    owners = {key: [site.owner for site in its] for key, its in owned.items()}
    if editions:
        found = {key: site for key, site in found.items() if key in owners}
    plain = tuple(replace(site, brief="", edition="") for site in found.values())
    views = views_of(work.project, plain)
    shown = {(site.target, site.name) for site in views}
    hidden = [replace(site, shows=lambda: _NO_VARIANT) for site in plain if (site.target, site.name) not in shown]
    every = sorted((*hidden, *views), key=lambda site: TARGETS.index(site.target))
    return Surveyed(work.root, work.project, tuple(every), owners, tuple(problems), bool(briefs))


class Suggested(NamedTuple):
    """What a starter brief for a project says: its targets, which sites are meant where there are several, and editions."""

    targets: tuple[str, ...]
    choices: Mapping[str, tuple[str, Sequence[str]]]
    editions: Mapping[str, Mapping[str, str]]


def suggested(folder: Path) -> Suggested:
    """Return what a starter brief for the project in a folder should say.

    Raises:
        BadInput: the folder cannot be read.
    """
    work = open_folder(folder)
    usable = [site for site in work.sites if site.blocked is None and not site.is_aside]
    targets = tuple(dict.fromkeys(site.target for site in usable))
    choices: dict[str, tuple[str, Sequence[str]]] = {}
    editions: dict[str, dict[str, str]] = {}
    for target in targets:
        its = [site for site in usable if site.target == target]
        if len(its) > 1:
            choices[target] = (platform(target).options().chosen[0], best_names(its))
        for name, keys in platform(target).proposals(work.project, its).items():
            editions.setdefault(name, {}).update(keys)
    return Suggested(targets, choices, {name: keys for name, keys in editions.items() if EDITION_NAME.fullmatch(name)})


def _briefs_below(folder: Path, project: Project, files: Files = DISK) -> list[Path]:
    """The brief in or above a folder, and those below it."""
    above = find_brief(folder, files)
    below = [files.real(folder) / path for name in (FILE_NAME, f"*/{FILE_NAME}") for path in project.own(name)]
    return [*([above] if above is not None and above not in below else []), *below]


def open_recorded(source: Path | None = None, *, only: Sequence[str] = (), editions: Sequence[str] = ()) -> Job:
    """Return a job on what a lock file records: of a brief, even one that is not there any more or has problems, or of a whole project.

    Args:
        source: a brief: what it made; a folder, or None for the current one: what the nearest lock file in or above it names.
        only: the targets that are wanted; all when empty.
        editions: the editions that are wanted, whether a brief still has them or not; all when empty.

    Raises:
        BadInput: there is no such target, or no lock file.
    """
    refuse_unknown(only, TARGETS)
    start = resolved(source or Path())
    folder = start if start.is_dir() else start.parent
    root = next((above for above in (folder, *folder.parents) if os.path.lexists(above / LOCK_NAME)), None)
    if start.is_file():
        with suppress(RiveltError):  # what a brief with problems made can be taken out all the same
            root = opened(start, ()).brief.project
    if root is None:
        hint = "Go to the folder of the project, or give it."
        raise BadInput(f"there is no {LOCK_NAME} here or above: nothing is known that Rivelt made", hint=hint)
    recorded = None if start.is_dir() else Path(os.path.relpath(start, root)).as_posix()
    return Job(root, (), tuple(only), tuple(editions), recorded=recorded, words=_words_of(root))


def _words_of(root: Path) -> tuple[str, ...]:
    """What names of generated files begin with, as those briefs say that a lock file names and that can still be read."""
    words: dict[str, None] = {}
    for path in sorted({owner.brief for owner in read_lock(read_file(root / LOCK_NAME)).owners if owner.brief}):
        try:
            brief = opened(resolved(root / path), ()).brief
        except RiveltError:
            continue
        words |= dict.fromkeys(word for one in (brief, *brief.editions) for word in generated_words(one))
    return tuple(words)


def open_folder(folder: Path, *, only: Sequence[str] = ()) -> Job:
    """Return a job on the project in a folder, whether or not there is a brief.

    Raises:
        BadInput: there is no such target.
    """
    refuse_unknown(only, TARGETS)
    return Job(resolved(folder), (), tuple(only))


def refuse_unknown_editions(briefs: Sequence[model.Brief], wanted: Sequence[str]) -> None:
    """Refuse editions that no brief has.

    Raises:
        BadInput: there is one; `Problems` for several.
    """
    known = dict.fromkeys((THE_BRIEF, *(edition.edition for brief in briefs for edition in brief.editions)))
    problems: list[RiveltError] = []
    for name in wanted:
        if name not in known:
            near = difflib.get_close_matches(name, known, n=1)
            hint = f"Did you mean {near[0]}?" if near else f"There are: {', '.join(known)}."
            problems.append(BadInput(f"there is no edition {name}", place=Place(shown_path(briefs[0].path)), hint=hint))
    raise_all(problems)
