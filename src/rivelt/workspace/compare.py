"""Plans against the disk: what would become different, and whose files those are."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from rivelt.errors import Refused
from rivelt.plan.model import Bundle, Plan, Recipe
from rivelt.progress import Progress, no_progress
from rivelt.project.project import Project
from rivelt.project.snapshot import Content
from rivelt.workspace.change import Change, sha256
from rivelt.workspace.lockfile import LOCK_NAME, Lock, LockedFile, lock_of


@dataclass(frozen=True)
class Weight:
    """How many images a site would have, and what they weigh together, in bytes."""

    images: int
    size: int


@dataclass(frozen=True)
class Changes:
    """What would become different on disk, the lock file included. Empty when the project is as the brief wants it.

    `unused`: launch images that nothing uses any more and that stay. `weights`: of the images of each site ("ios App"), old and new.
    """

    root: Path
    files: tuple[Change, ...]
    notes: tuple[str, ...] = ()
    unused: tuple[str, ...] = ()
    weights: Mapping[str, Weight] = field(default_factory=dict)


def limited(project: Project, plans: Sequence[Plan]) -> dict[Recipe, bytes]:
    """Return the plates that may only weigh so much and are not on disk, rendered: whether they can be decides on the plan."""
    from rivelt.pixels.render import render_all

    lock = lock_of(project)
    plates = [plate for plan in plans for plate in plan.plates if plate.recipe.most_bytes is not None]
    return render_all(plate.recipe for plate in plates if not _is_there(project, lock, plate.path, plate.recipe.digest))


def compare(
    root: Path,
    project: Project,
    plans: Sequence[Plan],
    *,
    inputs: Mapping[str, str] | None = None,
    words: Sequence[str] = (),
    rendered: Mapping[Recipe, bytes] | None = None,
    is_small: bool = False,
    force: bool = False,
    prune: bool = False,
    on_progress: Progress = no_progress,
) -> Changes:
    """Compare plans with a project's files, and render the plates that are not there as their recipes have them.

    What an earlier brief generated for the same sites, and no plan wants any more, goes. `inputs`: what the plans are made from, for the
    lock file (see `Lock`). `words`: what names of generated files begin with. `rendered`: what is rendered already.

    Raises:
        Refused: a generated file is not what Rivelt last wrote (its diff is in `details`), or nothing but the lock file says that Rivelt
            made one that is to go; and `force` is not given.
    """
    lock = lock_of(project)
    images = _render_missing(project, plans, lock, rendered or {}, on_progress, is_small=is_small)
    locked = dict(lock.files)
    made_from = {**lock.inputs, **{f"{plan.target} {plan.site}": inputs or {} for plan in plans}}
    generated: list[Change] = []
    edits: dict[str, Change] = {}
    for plan in plans:
        site = f"{plan.target} {plan.site}"
        wanted = [
            *((plate.path, _made_as(plate.recipe.digest, is_small=is_small), "plate") for plate in plan.plates),
            *((bundle.path, _made_as(bundle.digest, is_small=is_small), _counted(bundle)) for bundle in plan.bundles),
        ]
        for path, made_as, why in wanted:
            content = images.get((path, made_as))
            if content is not None:
                generated += _difference(project, path, content, why)
                locked[path] = LockedFile(site, sha256(content), made_as)
        for file in plan.files:
            generated += _difference(project, file.path, file.content, file.summary)
            locked[file.path] = LockedFile(site, sha256(file.content))
        for path in _unwanted(locked, plan):
            generated += _difference(project, path, None, "no longer wanted")
            del locked[path]
        for path in plan.unused if prune else ():
            edits |= {change.path: change for change in _difference(project, path, None, "nothing uses it any more")}
        _merge(edits, plan, prune=prune)
    if not force:
        _refuse_somebody_elses(generated, lock)
        _refuse_unproven(root, generated, words)
    new_lock = Lock(
        locked, {site: its for site, its in made_from.items() if site in {one.site for one in locked.values()}}
    )
    lock_file = _difference(project, LOCK_NAME, new_lock.text().encode(), "what was generated, and from what")
    notes = dict.fromkeys(note for plan in plans for note in plan.notes)
    unused = () if prune else tuple(path for plan in plans for path in plan.unused)
    after = project.overlay({change.path: change.after for change in generated if change.after is not None})
    weights = {f"{plan.target} {plan.site}": _weight(after, plan) for plan in plans}
    return Changes(root, (*generated, *edits.values(), *lock_file), tuple(notes), unused, weights)


def _weight(after: Project, plan: Plan) -> Weight:
    paths = [*(plate.path for plate in plan.plates), *(bundle.path for bundle in plan.bundles)]
    return Weight(len(plan.all_plates), sum(len(after.read(path)) for path in paths))


def _counted(bundle: Bundle) -> str:
    return f"{len(bundle.plates)} plates in one file"


def planned_files(
    project: Project, plans: Sequence[Plan], rendered: Mapping[Recipe, bytes], *, is_small: bool
) -> dict[str, Content | None]:
    """Return what apply would write, by path, None for a file that goes; images that are as their recipes have them are left out.

    Plates are rendered only when something wants their pixels.
    """
    from rivelt.pixels.planned import PlannedArchive, PlannedImage
    from rivelt.pixels.render import render

    def make(recipe: Recipe) -> bytes:
        return rendered.get(recipe) or render(recipe, is_small=is_small)

    lock = lock_of(project)
    files: dict[str, Content | None] = {}
    for plan in plans:
        files |= dict.fromkeys(_unwanted(lock.files, plan))
        files |= {
            plate.path: PlannedImage(plate.recipe, make)
            for plate in plan.plates
            if not _is_there(project, lock, plate.path, _made_as(plate.recipe.digest, is_small=is_small))
        }
        files |= {
            bundle.path: PlannedArchive({plate.path: PlannedImage(plate.recipe, make) for plate in bundle.plates})
            for bundle in plan.bundles
            if not _is_there(project, lock, bundle.path, _made_as(bundle.digest, is_small=is_small))
        }
        files |= {file.path: file.content for file in plan.files}
        files |= {edit.path: edit.after for edit in plan.edits}
    return files


def _unwanted(locked: Mapping[str, LockedFile], plan: Plan) -> list[str]:
    """What an earlier apply generated for the site of a plan, and the plan no longer has."""
    kept = set(plan.generated_paths())
    return [path for path, file in locked.items() if file.site == f"{plan.target} {plan.site}" and path not in kept]


def _merge(edits: dict[str, Change], plan: Plan, *, prune: bool) -> None:
    """Add a plan's edits; where an earlier plan edits the same file, this one went on from there."""
    wanted = {edit.path: edit for edit in (*plan.edits, *(plan.prune_edits if prune else ()))}
    for edit in wanted.values():
        before = edits[edit.path].before if edit.path in edits else edit.before
        edits[edit.path] = Change(edit.path, before, edit.after, edit.summary)


def _render_missing(
    project: Project,
    plans: Sequence[Plan],
    lock: Lock,
    rendered: Mapping[Recipe, bytes],
    on_progress: Progress,
    *,
    is_small: bool,
) -> dict[tuple[str, str], bytes]:
    """The images that are not on disk as the plans have them, by path and what they are made of.

    A recipe that several plates share is rendered once.
    """
    from rivelt.pixels.archive import zipped
    from rivelt.pixels.render import render_all

    plates = {
        (plate.path, made_as): plate
        for plan in plans
        for plate in plan.plates
        if not _is_there(project, lock, plate.path, made_as := _made_as(plate.recipe.digest, is_small=is_small))
    }
    bundles = {
        (bundle.path, made_as): bundle
        for plan in plans
        for bundle in plan.bundles
        if not _is_there(project, lock, bundle.path, made_as := _made_as(bundle.digest, is_small=is_small))
    }
    recipes = [plate.recipe for plate in (*plates.values(), *(p for b in bundles.values() for p in b.plates))]
    missing = [recipe for recipe in dict.fromkeys(recipes) if recipe not in rendered]
    done = itertools.count(1)
    images = render_all(missing, is_small=is_small, on_done=lambda: on_progress(next(done), len(missing)))
    images |= rendered
    packed = {
        key: zipped({plate.path: images[plate.recipe] for plate in bundle.plates}) for key, bundle in bundles.items()
    }
    return {**{key: images[plate.recipe] for key, plate in plates.items()}, **packed}


def _is_there(project: Project, lock: Lock, path: str, made_as: str) -> bool:
    entry = lock.files.get(path)
    if entry is None or entry.recipe != made_as or path not in project:
        return False
    return sha256(project.read(path)) == entry.sha256


def _made_as(digest: str, *, is_small: bool) -> str:
    """How the lock file names what a plate or a bundle is made of."""
    return f"{digest} small" if is_small else digest


def _difference(project: Project, path: str, content: bytes | None, why: str) -> list[Change]:
    """One change, or none when the file is like that already."""
    before = project.read(path) if path in project else None
    return [] if before == content else [Change(path, before, content, why)]


def _refuse_somebody_elses(changes: Sequence[Change], lock: Lock) -> None:
    """Refuse to touch a file that is not, to the byte, what Rivelt last wrote there."""
    known = {path: file.sha256 for path, file in lock.files.items()}
    others = [change for change in changes if change.before is not None and change.path not in known]
    edited = [
        change
        for change in changes
        if change.before is not None and change.path in known and known[change.path] != sha256(change.before)
    ]
    reasons = [
        f"{what}: {', '.join(change.path for change in found)}"
        for what, found in (
            ("edited by hand since they were generated", edited),
            ("not made by Rivelt, and in the way of what it would write", others),
        )
        if found
    ]
    if reasons:
        hint = "Save what you need from them, then use --force. Lines marked + are what Rivelt would write."
        raise Refused("; ".join(reasons), hint=hint, details="".join(change.diff() for change in (*edited, *others)))


def _refuse_unproven(root: Path, changes: Sequence[Change], words: Sequence[str]) -> None:
    """Refuse to remove a file of which nothing but the lock file says that Rivelt made it."""
    from rivelt.workspace.ownership import made_here, shows_its_maker

    going = {change.path: change.before for change in changes if change.before is not None and change.after is None}
    doubtful = {path: content for path, content in going.items() if not shows_its_maker(path, content, words)}
    unproven = sorted(doubtful.keys() - made_here(root, doubtful.items())) if doubtful else []
    if unproven:
        message = f"{LOCK_NAME} names files that nothing shows Rivelt to have made: {', '.join(unproven)}"
        hint = "Take them out of the lock file; or let them be removed with --force."
        raise Refused(message, hint=hint, details="".join(f"delete {path}\n" for path in unproven))
