"""Plans against the disk: what would become different, and whose files those are."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from rivelt.errors import Refused
from rivelt.plan.model import Plan, Recipe
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import Snapshot
from rivelt.workspace.change import Change, sha256
from rivelt.workspace.lockfile import LOCK_NAME, Lock, LockedFile, read_lock


@dataclass(frozen=True)
class Changes:
    """What would become different on disk, the lock file included. Empty when the project is as the brief wants it.

    `unused`: launch images that nothing uses any more and that stay.
    """

    root: Path
    files: tuple[Change, ...]
    notes: tuple[str, ...] = ()
    unused: tuple[str, ...] = ()


def compare(
    root: Path,
    snapshot: Snapshot,
    plans: Sequence[Plan],
    *,
    is_small: bool = False,
    force: bool = False,
    prune: bool = False,
    on_progress: Progress = no_progress,
) -> Changes:
    """Compare plans with a project's files, and render the plates that are not there as their recipes have them.

    What an earlier brief generated for the same sites, and no plan wants any more, goes.

    Raises:
        Refused: a generated file is not what Rivelt last wrote (its diff is in `details`), and `force` is not given.
    """
    lock = read_lock(snapshot.read(LOCK_NAME)) if LOCK_NAME in snapshot else Lock()
    rendered = _render_missing(snapshot, plans, lock, on_progress, is_small=is_small)
    locked = dict(lock.files)
    generated: list[Change] = []
    edits: dict[str, Change] = {}
    for plan in plans:
        site = f"{plan.target} {plan.site}"
        for plate in plan.plates:
            content = rendered.get(plate.recipe)
            if content is not None:
                generated += _difference(snapshot, plate.path, content, "plate")
                locked[plate.path] = LockedFile(site, sha256(content), _made_as(plate.recipe, is_small=is_small))
        for file in plan.files:
            generated += _difference(snapshot, file.path, file.content, file.summary)
            locked[file.path] = LockedFile(site, sha256(file.content))
        wanted = set(plan.generated_paths())
        for path in [path for path, file in locked.items() if file.site == site and path not in wanted]:
            generated += _difference(snapshot, path, None, "no longer wanted")
            del locked[path]
        for path in plan.unused if prune else ():
            edits |= {change.path: change for change in _difference(snapshot, path, None, "nothing uses it any more")}
        _merge(edits, plan, prune=prune)
    if not force:
        _refuse_somebody_elses(generated, lock)
    lock_file = _difference(snapshot, LOCK_NAME, Lock(locked).text().encode(), "what was generated, and from what")
    notes = dict.fromkeys(note for plan in plans for note in plan.notes)
    unused = () if prune else tuple(path for plan in plans for path in plan.unused)
    return Changes(root, (*generated, *edits.values(), *lock_file), tuple(notes), unused)


def _merge(edits: dict[str, Change], plan: Plan, *, prune: bool) -> None:
    """Add a plan's edits; where an earlier plan edits the same file, this one went on from there."""
    wanted = {edit.path: edit for edit in (*plan.edits, *(plan.prune_edits if prune else ()))}
    for edit in wanted.values():
        before = edits[edit.path].before if edit.path in edits else edit.before
        edits[edit.path] = Change(edit.path, before, edit.after, edit.summary)


def _render_missing(
    snapshot: Snapshot, plans: Sequence[Plan], lock: Lock, on_progress: Progress, *, is_small: bool
) -> dict[Recipe, bytes]:
    """The plates that are not on disk as their recipe has them; a recipe that several plates share is rendered once."""
    from rivelt.pixels.render import render_all

    def is_there(path: str, recipe: Recipe) -> bool:
        entry = lock.files.get(path)
        if entry is None or entry.recipe != _made_as(recipe, is_small=is_small) or path not in snapshot:
            return False
        return sha256(snapshot.read(path)) == entry.sha256

    plates = [plate for plan in plans for plate in plan.plates]
    missing = list(dict.fromkeys(plate.recipe for plate in plates if not is_there(plate.path, plate.recipe)))
    done = itertools.count(1)
    return render_all(missing, is_small=is_small, on_done=lambda: on_progress(next(done), len(missing)))


def _made_as(recipe: Recipe, *, is_small: bool) -> str:
    """How the lock file names what a plate is made of."""
    return f"{recipe.digest} small" if is_small else recipe.digest


def _difference(snapshot: Snapshot, path: str, content: bytes | None, why: str) -> list[Change]:
    """One change, or none when the file is like that already."""
    before = snapshot.read(path) if path in snapshot else None
    return [] if before == content else [Change(path, before, content, why)]


def _refuse_somebody_elses(changes: Sequence[Change], lock: Lock) -> None:
    """Refuse to touch a file that is not, to the byte, what Rivelt last wrote there."""
    known = {path: file.sha256 for path, file in lock.files.items()}
    edited = [
        change for change in changes if change.before is not None and known.get(change.path) != sha256(change.before)
    ]
    if edited:
        names = ", ".join(change.path for change in edited)
        hint = "Save what you need from them, then use --force. Lines marked + are what Rivelt would write."
        details = "".join(change.diff() for change in edited)
        raise Refused(f"edited by hand since they were generated: {names}", hint=hint, details=details)
