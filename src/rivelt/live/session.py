"""A live session: the work that brings what is shown up to what is on disk and what the controls have set.

One thread works; whoever changes something only says so. What is not different is neither planned nor drawn again.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from rivelt import opening
from rivelt.brief.model import THE_BRIEF
from rivelt.cores import threads
from rivelt.disk.tree import resolved
from rivelt.errors import BadInput, RiveltError
from rivelt.live.art import backdrop_picture, contrasts
from rivelt.live.board import Board
from rivelt.live.desk import Desk, problem_item
from rivelt.live.shots import Gallery, handoff_item, screen_item, screen_key, shot_item
from rivelt.pixels.pictures import Pictures
from rivelt.platforms import TARGETS
from rivelt.project.files import DISK, Files
from rivelt.project.project import Project
from rivelt.proof.collect import ScreenChoice, scenes_of

if TYPE_CHECKING:
    from rivelt.job import Job
    from rivelt.proof.model import Proof
    from rivelt.scene.model import Scene
    from rivelt.scene.site import Site


class Session:
    """What one address shows; all tabs show the same.

    `desk`: the brief and its controls, None for a project without one. `board`: what is shown. `gallery`: the pictures.
    """

    def __init__(
        self, source: Path | None, *, only: Sequence[str] = (), screens: Sequence[str] = (), all_screens: bool = False
    ) -> None:
        """Take what is to be shown; see `rivelt.job.Job.prove`.

        Raises:
            BadInput: there is nothing there, or the brief has problems.
        """
        self._source = source
        self._only = tuple(only)
        self._choice = ScreenChoice(tuple(screens), is_all=all_screens)
        job = opening.open(source, only=only)
        self.root = job.root
        self.desk = Desk(job.briefs[0].path) if job.has_brief else None
        if self.desk is not None:
            self.desk.understood(job.briefs[0])
        self.board = Board(job.name, self.desk)
        self.gallery = Gallery()
        self.pictures = Pictures()
        self.pictures.keeps_drawn = True
        self._project: Project | None = None
        self._kept: dict[str, Job] = {}
        self._targets: dict[str, tuple[str, ...]] = {}
        self._before: dict[str, tuple[object, Mapping[object, Scene]]] = {}
        self._news = threading.Event()
        self._lock = threading.Lock()
        self._generation = 0
        self._is_saved = True
        self._is_over = False
        self._limits: list[RiveltError] = []
        self.crash: Exception | None = None
        self._worker = threading.Thread(target=self._work, daemon=True, name="rivelt-live")

    def start(self, on_crash: Callable[[], None] = lambda: None) -> None:
        """Begin to work; `on_crash` is called if that ends by a bug of ours, which is in `crash` then."""
        self._on_crash = on_crash
        self._worker.start()
        self.renew()

    def stop(self) -> None:
        """Stop working."""
        self._is_over = True
        self._news.set()

    def renew(self, *, is_saved: bool = True) -> None:
        """Say that something is different: on disk (`is_saved`), or only in what the controls have set."""
        with self._lock:
            self._generation += 1
            self._is_saved = self._is_saved or is_saved
            self.board.is_busy = True
        self._news.set()

    def put(self, key: str, value: Any) -> None:
        """Set a control; nothing is written.

        Raises:
            BadInput: there is no such control, or it cannot have that value.
        """
        if self.desk is None:
            raise BadInput("there is no brief", hint="Write one with: rivelt brief --mark FILE")
        self.desk.put(key, value)
        self.renew(is_saved=False)

    def limit(self, message: str, hint: str) -> None:
        """Say with all that is shown what this session cannot do."""
        self._limits = [*self._limits, BadInput(message, hint=hint)]
        self.renew(is_saved=False)

    def watched(self) -> set[Path]:
        """Return the folders whose files count: the project's, the brief's, and those of its art."""
        folders = {self.root}
        if self.desk is not None:
            folders.add(self.desk.path.parent)
            for brief in (self.desk.shown, self.desk.written):
                names = brief.named_files if brief is not None else ()
                folders |= {resolved(self.desk.path.parent / name).parent for name in names}
        return {folder for folder in folders if folder.is_dir()}

    # The work

    def _work(self) -> None:
        try:
            self._work_on()
        except Exception as error:  # noqa: BLE001 it is raised again by who waits for the server
            if not self._is_over:
                self.crash = error
                self._on_crash()

    def _work_on(self) -> None:
        while True:
            self._news.wait()
            self._news.clear()
            with self._lock:
                generation, is_saved, self._is_saved = self._generation, self._is_saved, False
            if self._is_over:
                return
            try:
                problems = self._renewed(generation, is_saved=is_saved)
            except RiveltError as error:
                problems = list(error.parts)
            if problems is None or self._is_old(generation):
                continue
            self.board.errors = list(map(problem_item, [*problems, *self._limits]))
            with self._lock:
                self.board.generation, self.board.is_busy = generation, generation != self._generation
            self.board.publish()

    def _is_old(self, generation: int) -> bool:
        return self._is_over or generation != self._generation

    def _renewed(self, generation: int, *, is_saved: bool) -> list[RiveltError] | None:
        """Bring everything up to one generation, and return what is wrong; None where that was given up for a later one."""
        if is_saved or self._project is None:
            self._project = Project.of_folder(self.root, self._project)
            self._targets.clear()
        files = self.desk.files() if self.desk is not None else DISK
        jobs: dict[str, Job] = {}
        problems: list[RiveltError] = []
        with ThreadPoolExecutor(1) as painter:  # draws one target while the next is planned
            painted: list[Future[list[str]]] = []
            for target in self._targets_in(files):
                jobs[target] = self._opened((target,), files, self._kept.get(target))
                try:
                    work = self._worked_out(jobs[target], target)
                    painted.append(painter.submit(self._paint, work, generation))
                    problems += work.problems
                except RiveltError as error:
                    problems += error.parts
                if len(jobs) == 1:
                    wait(painted)  # nothing keeps the first screens waiting
                    self._understand(jobs[target])
                if self._is_old(generation):
                    return None
            seen = [key for one in painted for key in one.result()]
        if self._is_old(generation):
            return None
        self._kept = jobs
        self.board.keep(seen)
        self.board.publish()
        proofs = self._proofs(jobs, generation)
        self.board.judged(proofs, [handoff_item(found) for proof in proofs for found in proof.handoffs])
        return problems

    def _targets_in(self, files: Files) -> tuple[str, ...]:
        """The targets, which are planned one by one, so that the first is shown before the last is planned; no control changes them."""
        edition = self.desk.edition if self.desk is not None else THE_BRIEF
        if edition not in self._targets:
            whole = self._opened(self._only, files)
            found = whole.targets if whole.has_brief else {site.target for site in whole.sites}
            self._targets[edition] = tuple(
                one for one in TARGETS if one in found and (not self._only or one in self._only)
            )
        return self._targets[edition]

    def _understand(self, job: Job) -> None:
        """What the controls show, and what is said of the art."""
        if self.desk is None:
            return
        self.desk.understood(job.briefs[0])
        self.board.contrast = contrasts(job, self.desk.edition)
        self.board.backdrop = backdrop_picture(job, self.desk.edition, self.gallery)
        self.board.publish()

    def _opened(self, only: tuple[str, ...], files: Files, earlier: Job | None = None) -> Job:
        edition = self.desk.edition if self.desk is not None else THE_BRIEF
        job = opening.open(self._source, only=only, editions=(edition,) if edition != THE_BRIEF else (), files=files)
        if self._project is not None:
            job.project = self._project
        if (like := earlier or next(iter(self._kept.values()), None)) is not None:
            job.follow(like)
        return job

    def _worked_out(self, job: Job, target: str) -> _Work:
        """The scenes of one target, as apply would leave it and as it is."""
        evidence = job.planned if job.has_brief else job.now
        blocked = job.proposal.blocked if job.has_brief else {site: site.blocked for site in job.sites if site.blocked}
        hidden = {site.owner for site in blocked}
        sites = [site for site in evidence.sites if site.exists and site.blocked is None and site.owner not in hidden]
        return _Work(
            scenes_of(evidence, sites, self._choice),
            self._before_of(job, target),
            max((one.brief.layout.clearance for one in job.editions), default=0.0),
            [site.blame(error) for site, error in blocked.items()],
        )

    def _before_of(self, job: Job, target: str) -> Mapping[object, Scene]:
        """The scenes of the project as it is on disk; worked out anew only when that is different."""
        if not job.has_brief:
            return {}
        state = (job.project, job.sites)
        kept = self._before.get(target)
        if kept is None or kept[0] != state:
            sites = [site for site in job.now.sites if site.exists and site.blocked is None]
            shown = scenes_of(job.now, sites, self._choice)
            kept = self._before[target] = state, {_key(site, scene): scene for site, scene in shown}
        return kept[1]

    def _paint(self, work: _Work, generation: int) -> list[str]:
        """Draw scenes on all cores, and show each screen when it is done; returns the keys of the screens."""
        items: dict[str, dict[str, Any]] = {}
        seen: list[str] = []
        with ThreadPoolExecutor(threads()) as pool:
            names = [pool.submit(self._named, site, scene, work.before) for site, scene in work.scenes]
            for (site, scene), name in zip(work.scenes, names, strict=True):
                if self._is_old(generation):
                    pool.shutdown(cancel_futures=True)
                    return []
                item = items.setdefault(screen_key(site, scene), screen_item(site, scene))
                item["shots"].append(shot_item(scene, *name.result(), work.clearance))
                if len(item["shots"]) == len(scene.screen.looks):
                    seen.append(item["id"])
                    self.board.show(item)
        return seen

    def _named(self, site: Site, scene: Scene, before: Mapping[object, Scene]) -> tuple[str, str | None]:
        """The names of a screen's pictures, after and before."""
        old = before.get(_key(site, scene))
        name = self.gallery.name_of(scene, self.pictures)
        return name, None if old is None else self.gallery.name_of(old, self.pictures)

    def _proofs(self, jobs: dict[str, Job], generation: int) -> list[Proof]:
        """The proofs of all targets, with what the rules say of their screens."""
        found: list[Proof] = []
        for job in jobs.values():
            if self._is_old(generation):
                return []
            try:
                found.append(job.prove(screens=self._choice.wanted, all_screens=self._choice.is_all))
            except RiveltError:  # told already: it could not be planned
                continue
        return found


class _Work(NamedTuple):
    """The scenes of one target: to be drawn, and by their keys as the project is; and why sites of it cannot be shown."""

    scenes: Sequence[tuple[Site, Scene]]
    before: Mapping[object, Scene]
    clearance: float
    problems: list[RiveltError]


def _key(site: Site, scene: Scene) -> tuple[object, ...]:
    return site.label, site.edition, scene.screen, scene.look
