"""Plans against the disk: what would become different, and whose files those are."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TypeAlias

from msgspec import Struct, field

from rivelt.errors import Refused
from rivelt.plan.model import Bundle, Plan, Plate, Recipe, WriteFile
from rivelt.plan.owner import Owner
from rivelt.progress import Progress, no_progress
from rivelt.project.project import Project
from rivelt.project.snapshot import Content
from rivelt.scene.site import Site
from rivelt.values import replace
from rivelt.workspace.change import Change, Changes, Weight, sha256
from rivelt.workspace.edits import Edited, edited, moved
from rivelt.workspace.lockfile import LOCK_NAME, Lock, LockedFile

AsMade: TypeAlias = tuple[Recipe, bool]
"""A plate as it is made: its recipe, and whether its file is made as small as can be."""


class Wanted(Struct, frozen=True):
    """What is wanted of a project, and what is there: all that a comparison needs.

    `project`: its files. `base`: the same without the edits of those who are planned for. `plans`: what is wanted, by site, each going on
    from the one before. `lock`: what was done before, by whom. `gone`: owners who are not there any more; what they made goes. `rendered`:
    what is rendered already, by recipe and whether it is made as small as can be. `is_small`: the owners whose images are. `settled`:
    files that were edited before, and in which what was put is as good where a person has moved it.
    """

    project: Project
    base: Project
    plans: Mapping[Site, Plan]
    lock: Lock
    gone: frozenset[Owner] = frozenset()
    rendered: Mapping[AsMade, bytes] = field(default_factory=dict)
    is_small: frozenset[Owner] = frozenset()
    settled: frozenset[str] = frozenset()

    @property
    def owners(self) -> frozenset[Owner]:
        """Those who are planned for, and those who are gone."""
        return frozenset(site.owner for site in self.plans) | self.gone

    def edits(self, *, prune: bool = False) -> Edited:
        """Return what becomes of a person's files; `prune`: what names launch images that nothing uses any more goes as well."""
        return edited(self.project, self.base, self.plans, self.lock, self.owners, settled=self.settled, prune=prune)

    @property
    def moved(self) -> frozenset[str]:
        """The files that already contain all planned edits, unchanged since they were made, but at another place."""
        return moved(self.project, self.plans, self.lock, self.owners)

    def made_as(self, site: Site, digest: str) -> str:
        """Return how the lock file names what a plate or a bundle of a site is made of."""
        return f"{digest} small" if site.owner in self.is_small else digest

    def made(self, site: Site, image: Plate | Bundle) -> Iterator[tuple[str, AsMade]]:
        """Yield the plates of an image file of a site, with their paths in it."""
        for plate in (image,) if isinstance(image, Plate) else image.plates:
            yield plate.path, (plate.recipe, site.owner in self.is_small)

    @property
    def generated(self) -> frozenset[str]:
        """The paths of all files that are generated now, or were before."""
        images = (image.path for _, image, _ in self.images())
        return frozenset((*images, *(file.path for _, file in self.files()), *self.unwanted()))

    def is_there(self, path: str, made_as: str) -> bool:
        """Return whether an image is on disk as it would be made."""
        if path not in self.project:
            return False
        known = [locked.sha256 for locked in self.lock.locked(path) if locked.recipe == made_as]
        return bool(known) and self.digest(self.project.read(path)) in known

    def digest(self, content: bytes) -> str:
        """Return the SHA-256 of the content of a file, in hex: worked out once, for all states of a project that have it."""
        return self.project.derived("sha256", content, sha256)

    def images(self) -> Iterator[tuple[Site, Plate | Bundle, str]]:
        """Yield every image file of the plans with its site and what it is made of."""
        for site, plan in self.plans.items():
            for plate in plan.plates:
                yield site, plate, self.made_as(site, plate.recipe.digest)
            for bundle in plan.bundles:
                yield site, bundle, self.made_as(site, bundle.digest)

    def files(self) -> Iterator[tuple[Site, WriteFile]]:
        """Yield the other whole files of the plans; a fallback only where nobody makes the file itself."""
        own = {file.path for plan in self.plans.values() for file in plan.files if not file.is_fallback}
        for site, plan in self.plans.items():
            for file in plan.files:
                is_taken = file.path in own or self._is_made_by_another(file.path)
                if not (file.is_fallback and is_taken):
                    yield site, file

    def _is_made_by_another(self, path: str) -> bool:
        return any(
            not its.is_fallback for owner, its in self.lock.paths.get(path, {}).items() if owner not in self.owners
        )

    def unwanted(self) -> dict[str, str]:
        """Return the generated files that their owners do not want any more, and that nobody else has, each with the reason."""
        made: dict[Owner, set[str]] = {owner: set() for owner in self.gone}
        for site, plan in self.plans.items():
            made.setdefault(site.owner, set()).update(plan.generated_paths())
        wanted = set().union(*made.values())
        return {
            path: "no longer wanted"
            for path, owners in self.lock.paths.items()
            if path not in wanted and owners.keys() <= made.keys()
        }


def limited(wanted: Wanted) -> Mapping[AsMade, bytes]:
    """Return the plates that may only weigh so much and are not on disk, rendered: whether they can be decides on the plan."""
    return rendered(wanted, lambda image: isinstance(image, Plate) and image.recipe.most_bytes is not None)


def rendered(
    wanted: Wanted,
    is_chosen: Callable[[Plate | Bundle], bool] = lambda _: True,
    *,
    on_progress: Progress = no_progress,
) -> Mapping[AsMade, bytes]:
    """Return what is rendered already, and the chosen images that are not on disk as the plans have them.

    A recipe that several plates share is rendered once.
    """
    from rivelt.pixels.render import render_all

    wanted.project.fetch(image.path for _, image, _ in wanted.images() if is_chosen(image))
    missing = dict.fromkeys(
        made
        for site, image, made_as in wanted.images()
        if is_chosen(image) and not wanted.is_there(image.path, made_as)
        for _, made in wanted.made(site, image)
        if made not in wanted.rendered
    )
    done = itertools.count(1)
    found = dict(wanted.rendered)
    for is_small in (False, True):
        recipes = [recipe for recipe, small in missing if small == is_small]
        made = render_all(recipes, is_small=is_small, on_done=lambda: on_progress(next(done), len(missing)))
        found |= {(recipe, is_small): data for recipe, data in made.items()}
    return found


def refuse_two_makers(wanted: Wanted) -> None:
    """Refuse a file that two owners would make differently.

    Raises:
        Refused: with both their names.
    """
    makers: dict[str, tuple[Owner, str]] = {}
    for site, path, content in _contents(wanted):
        owner, known = makers.setdefault(path, (site.owner, content))
        if known != content:
            raise _two_makers(path, owner, site.owner)
        for other, locked in wanted.lock.paths.get(path, {}).items():
            is_same = content in {locked.sha256, locked.recipe}
            if other not in wanted.owners and not locked.is_fallback and not is_same:
                raise _two_makers(path, other, site.owner)


def _contents(wanted: Wanted) -> Iterator[tuple[Site, str, str]]:
    for site, image, made_as in wanted.images():
        yield site, image.path, made_as
    for site, file in wanted.files():
        yield site, file.path, wanted.digest(file.content)


def _two_makers(path: str, one: Owner, other: Owner) -> Refused:
    message = f"{path} would be made differently by two: {one}, and {other}"
    hint = "Give one of them a place of its own: a source set, a target, a prefix. Or take the first one out with: rivelt remove"
    return Refused(message, hint=hint)


def compare(
    root: Path,
    wanted: Wanted,
    *,
    inputs: Mapping[Owner, Mapping[str, str]] | None = None,
    prune: bool = False,
) -> Changes:
    """Compare plans with a project's files, and render the plates that are not there as their recipes have them.

    What an owner generated before, and no plan wants any more, goes. `inputs`: what the plans are made from, for the lock file (see
    `Lock`). It does not check whose edits are overwritten: see `refuse_loss`.

    Raises:
        Refused: two owners would make a file differently.
    """
    project, lock = wanted.project, wanted.lock
    refuse_two_makers(wanted)
    generated, files = _generated(replace(wanted, rendered=rendered(wanted)))
    changes = wanted.edits(prune=prune)
    edits = {
        path: Change(path, project.read(path), content, changes.reasons[path])
        for path, content in changes.contents.items()
    }
    plans = wanted.plans.values()
    for path in (path for plan in plans for path in (plan.unused if prune else ())):
        edits |= _difference(project, path, None, "nothing uses it any more")
    rest = lock.without(wanted.owners)
    made_from = {**rest.inputs, **{site.owner: (inputs or {}).get(site.owner, {}) for site in wanted.plans}}
    new_lock = Lock(files, made_from, {**rest.edits, **changes.records})
    after = project.overlay({change.path: change.after for change in generated.values() if change.after is not None})
    return Changes(
        root,
        (*generated.values(), *edits.values(), *lock_change(project, new_lock)),
        tuple(dict.fromkeys(note for plan in plans for note in plan.notes)),
        () if prune else tuple(dict.fromkeys(path for plan in plans for path in plan.unused)),
        {site.label: _weight(after, plan) for site, plan in wanted.plans.items()},
        manual_steps=tuple(step for plan in plans for step in plan.manual_steps),
    )


def _generated(wanted: Wanted) -> tuple[dict[str, Change], dict[Owner, dict[str, LockedFile]]]:
    """What becomes of generated files, by path; and what each owner then has, for the lock file."""
    project, lock = wanted.project, wanted.lock
    files = {owner: dict(its) for owner, its in lock.files.items() if owner not in wanted.owners}
    generated: dict[str, Change] = {}
    own: set[str] = set()

    def take(owner: Owner, path: str, known: LockedFile) -> None:
        files.setdefault(owner, {})[path] = known
        if not known.is_fallback:
            own.add(path)

    for site, image, made_as in wanted.images():
        is_there = wanted.is_there(image.path, made_as)
        content = project.read(image.path) if is_there else _made(wanted, site, image)
        why = "plate" if isinstance(image, Plate) else f"{len(image.plates)} plates in one file"
        generated |= _difference(project, image.path, content, why)
        take(site.owner, image.path, LockedFile(wanted.digest(content), made_as))
    for site, file in wanted.files():
        generated |= _difference(project, file.path, file.content, file.summary)
        take(site.owner, file.path, LockedFile(wanted.digest(file.content), is_fallback=file.is_fallback))
    for its in files.values():
        for path in [path for path, known in its.items() if known.is_fallback and path in own]:
            del its[path]
    for path, why in wanted.unwanted().items():
        generated |= _difference(project, path, None, why)
    return generated, {owner: its for owner, its in files.items() if its}


def lock_change(project: Project, lock: Lock) -> list[Change]:
    """Return the change of the lock file, if there is one; a lock file that would name nothing goes."""
    content = lock.text().encode() if lock.owners else None
    return list(_difference(project, LOCK_NAME, content, "what was made, for whom, and from what").values())


def _weight(after: Project, plan: Plan) -> Weight:
    paths = [*(plate.path for plate in plan.plates), *(bundle.path for bundle in plan.bundles)]
    return Weight(len(plan.all_plates), sum(len(after.read(path)) for path in paths))


def planned_files(wanted: Wanted) -> dict[str, Content | None]:
    """Return what apply would write, by path, None for a file that goes; images that are as their recipes have them are left out.

    Plates are rendered only when something wants their pixels.
    """
    from rivelt.pixels.planned import PlannedArchive, PlannedImage
    from rivelt.pixels.render import render

    def planned(made: AsMade) -> PlannedImage:
        recipe, is_small = made
        return PlannedImage(recipe, lambda one: wanted.rendered.get(made) or render(one, is_small=is_small))

    files: dict[str, Content | None] = dict.fromkeys(wanted.unwanted())
    for site, image, made_as in wanted.images():
        if wanted.is_there(image.path, made_as):
            continue
        images = {path: planned(made) for path, made in wanted.made(site, image)}
        files[image.path] = images[image.path] if isinstance(image, Plate) else PlannedArchive(images)
    files |= {file.path: file.content for _, file in wanted.files()}
    return files | dict(wanted.edits().contents)


def _made(wanted: Wanted, site: Site, image: Plate | Bundle) -> bytes:
    """The bytes of an image file whose plates are all rendered."""
    from rivelt.pixels.archive import zipped

    files = {path: wanted.rendered[made] for path, made in wanted.made(site, image)}
    return files[image.path] if isinstance(image, Plate) else zipped(files)


def _difference(project: Project, path: str, content: bytes | None, why: str) -> dict[str, Change]:
    """One change by its path, or none when the file is like that already."""
    before = project.read(path) if path in project else None
    return {} if before == content else {path: Change(path, before, content, why)}


def refuse_loss(wanted: Wanted, changes: Changes, words: Sequence[str]) -> None:
    """Refuse changes of generated files that would lose somebody's work. `words`: what names of generated files begin with.

    Raises:
        Refused: a generated file is not what Rivelt last wrote (its diff is in `details`), or nothing but the lock file says that Rivelt
            made one that is to go.
    """
    paths = wanted.generated
    generated = [change for change in changes.files if change.path in paths]
    _refuse_somebody_elses(generated, wanted.lock)
    refuse_unproven(changes.root, generated, words)


def _refuse_somebody_elses(changes: Iterable[Change], lock: Lock) -> None:
    """Refuse to touch a file that is not, to the byte, what Rivelt last wrote there."""
    touched = [change for change in changes if change.before is not None]
    others = [change for change in touched if change.path not in lock.paths]
    changed = [
        change
        for change in touched
        if change.path in lock.paths and change.digests[0] not in {its.sha256 for its in lock.locked(change.path)}
    ]
    reasons = [
        f"{what}: {', '.join(change.path for change in found)}"
        for what, found in (
            ("edited by hand since they were generated", changed),
            ("not made by Rivelt, and in the way of what it would write", others),
        )
        if found
    ]
    if reasons:
        hint = "Save what you need from them, then use --force. Lines marked + are what Rivelt would write."
        raise Refused("; ".join(reasons), hint=hint, details="".join(change.diff() for change in (*changed, *others)))


def is_as_written(path: str, content: bytes | None, lock: Lock) -> bool:
    """Return whether a generated file is what Rivelt last wrote there."""
    return content is not None and sha256(content) in {locked.sha256 for locked in lock.locked(path)}


def refuse_unproven(root: Path, changes: Iterable[Change], words: Sequence[str]) -> None:
    """Refuse to remove a file of which nothing but the lock file says that Rivelt made it.

    Raises:
        Refused: there is one.
    """
    from rivelt.workspace.ownership import made_here, shows_its_maker

    going = {change.path: change.before for change in changes if change.before is not None and change.after is None}
    doubtful = {path: content for path, content in going.items() if not shows_its_maker(path, content, words)}
    unproven = sorted(doubtful.keys() - made_here(root, doubtful.items())) if doubtful else []
    if unproven:
        message = f"{LOCK_NAME} names files that nothing shows Rivelt to have made: {', '.join(unproven)}"
        hint = "Take them out of the lock file; or let them be removed with --force."
        raise Refused(message, hint=hint, details="".join(f"delete {path}\n" for path in unproven))
