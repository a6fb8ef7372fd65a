"""What would become different on disk, as data: one entry for each file, and all of them with what is to be said of them."""

from __future__ import annotations

import difflib
import hashlib
import os
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any, Literal, TypeAlias

from msgspec import Struct, field

from rivelt.brief.find import placed_in
from rivelt.documents.base import Problem
from rivelt.documents.work import ApplyDocument, ChangeItem, ChangesSummary, LeftAlone, StepItem, WeightItem
from rivelt.errors import RiveltError
from rivelt.plan.model import ManualStep
from rivelt.scene.site import Site
from rivelt.values import replace

Action: TypeAlias = Literal["create", "edit", "delete"]


class Change(Struct, frozen=True, dict=True):
    """One file: its bytes before (None: it does not exist) and after (None: it is to be deleted).

    `path` is relative to the project's root; `why` says in words what the change is for.
    """

    path: str
    before: bytes | None
    after: bytes | None
    why: str = ""

    @property
    def action(self) -> Action:
        """What happens to the file."""
        if self.before is None:
            return "create"
        return "delete" if self.after is None else "edit"

    @cached_property
    def digests(self) -> tuple[str | None, str | None]:
        """The SHA-256 of its bytes before and after, in hex."""
        before, after = (None if content is None else sha256(content) for content in (self.before, self.after))
        return before, after

    def diff(self) -> str:
        """Return a unified diff; for files that are not text, one line that says so."""
        sides = [_lines(content) for content in (self.before, self.after)]
        old, new = sides
        if old is None or new is None:
            return f"{self.action} {self.path} ({len(self.after or b'')} bytes, not text)\n"
        names = (
            "/dev/null" if self.before is None else f"a/{self.path}",
            "/dev/null" if self.after is None else f"b/{self.path}",
        )
        lines = difflib.unified_diff(old, new, *names)
        return "".join(line if line.endswith("\n") else f"{line}\n\\ No newline at end of file\n" for line in lines)


class Weight(Struct, frozen=True):
    """How many images a site would have, and what they weigh together, in bytes."""

    images: int
    size: int


class Changes(Struct, frozen=True):
    """What would become different on disk, the lock file included. Empty when the project is as the brief wants it.

    `unused`: launch images that nothing uses any more and that stay. `weights`: of the images of each site ("ios App"), old and new.
    `left`: generated files and edits that stay because a person has changed them since. `manual_steps`: what only a person can do.
    `left_alone`: sites that are not touched, with the reasons. `parts`: the changes of each project, where these are of several.
    """

    root: Path
    files: tuple[Change, ...]
    notes: tuple[str, ...] = ()
    unused: tuple[str, ...] = ()
    weights: Mapping[str, Weight] = field(default_factory=dict)
    left: tuple[str, ...] = ()
    manual_steps: tuple[ManualStep, ...] = ()
    left_alone: Mapping[Site, RiveltError] = field(default_factory=dict)
    parts: tuple[Changes, ...] = ()

    def document(self, *, is_applied: bool = False, proof: str | None = None) -> ApplyDocument:
        """Return the changes as `rivelt apply --json` prints them.

        Args:
            is_applied: they have been written.
            proof: the sheet or page that was drawn afterwards, relative to the root.
        """
        count = Counter(change.action for change in self.files)
        left_alone = [item for part in self.parts or (self,) for item in part._left_alone_in(self.root)]  # noqa: SLF001
        return ApplyDocument(
            root=str(self.root),
            summary=ChangesSummary(
                created=count["create"],
                edited=count["edit"],
                removed=count["delete"],
                manual_steps=len(self.manual_steps),
                left_alone=len(left_alone),
            ),
            applied=is_applied,
            changes=list(map(item_of, self.files)),
            manual_steps=[
                StepItem(title=step.title, path=step.path, lines=list(step.lines)) for step in self.manual_steps
            ],
            left_alone=left_alone,
            notes=list(self.notes),
            weights=[WeightItem(site=site, images=one.images, bytes=one.size) for site, one in self.weights.items()],
            unused=list(self.unused),
            proof=proof,
        )

    def _left_alone_in(self, root: Path) -> Iterator[LeftAlone]:
        """The sites that are not touched; paths are relative to a folder that holds the project."""
        for site, reason in self.left_alone.items():
            problem = Problem.of(reason, self._placed_in(root, site))
            yield LeftAlone(target=site.target, site=site.name, reason=problem)

    def _placed_in(self, root: Path, site: Site) -> Callable[[str], str]:
        """A function that makes the path of a place relative to a folder that holds the project."""
        placed = placed_in(self.root, [site.brief])
        if root == self.root:
            return placed
        return lambda path: Path(os.path.relpath(self.root / placed(path), root)).as_posix()

    def to_dict(self, *, is_applied: bool = False) -> dict[str, Any]:
        """Return the changes as plain data, as `rivelt apply --json` prints them."""
        return self.document(is_applied=is_applied).to_dict()


def item_of(change: Change) -> ChangeItem:
    """Return what happens to one file, for a document."""
    return ChangeItem(action=change.action, path=change.path, bytes=len(change.after or b""), why=change.why)


def joined(parts: Sequence[Changes]) -> Changes:
    """Return the changes of several projects as one, their paths relative to the folder that holds them all."""
    if len(parts) == 1:
        return parts[0]
    root = Path(os.path.commonpath([part.root for part in parts]))

    def moved(part: Changes, path: str) -> str:
        return (part.root / path).relative_to(root).as_posix()

    return Changes(
        root,
        tuple(replace(one, path=moved(part, one.path)) for part in parts for one in part.files),
        notes=tuple(note for part in parts for note in part.notes),
        unused=tuple(moved(part, path) for part in parts for path in part.unused),
        weights={
            f"{site.partition(' ')[0]} {moved(part, site.partition(' ')[2])}": weight
            for part in parts
            for site, weight in part.weights.items()
        },
        left=tuple(moved(part, path) for part in parts for path in part.left),
        manual_steps=tuple(
            replace(step, path=None if step.path is None else moved(part, step.path))
            for part in parts
            for step in part.manual_steps
        ),
        left_alone={site: reason for part in parts for site, reason in part.left_alone.items()},
        parts=tuple(parts),
    )


def _lines(content: bytes | None) -> list[str] | None:
    try:
        return (content or b"").decode("utf-8").replace("\r\n", "\n").splitlines(keepends=True)
    except UnicodeDecodeError:
        return None


def sha256(content: bytes) -> str:
    """SHA-256 in hex: how the lock file and the journal name contents."""
    return hashlib.sha256(content).hexdigest()
