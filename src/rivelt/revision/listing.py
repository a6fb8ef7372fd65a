"""A project's files as a revision has them: the same search as on disk, over git's list instead of folders."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from rivelt.disk.tree import LeadsOut
from rivelt.errors import BadInput, Place
from rivelt.project.ignore import IGNORE_FILE, Patterns, is_ignored, patterns_above, patterns_in
from rivelt.project.snapshot import (
    IGNORED_FOLDERS,
    MAX_FILES,
    MOST_LINKS,
    Content,
    Snapshot,
    Unread,
    is_text,
    most_of,
    parent,
    upwards,
)

if TYPE_CHECKING:
    from rivelt.revision.tree import Revision


def listed(revision: Revision, home: str) -> Snapshot:
    """Return the files below a folder of a revision; `home`: its path from the top, "" for the top.

    Raises:
        BadInput: there are far too many.
    """
    return _Listing(revision, f"{home}/" if home else "").snapshot()


class _Listing:
    """One list of the files of a project."""

    def __init__(self, revision: Revision, prefix: str) -> None:
        self.revision = revision
        self.prefix = prefix
        self.files: dict[str, Content] = {}
        self.linked: dict[str, Content] = {}
        self.unread: list[Unread] = [
            Unread(path.removeprefix(prefix), reason, "folder")
            for path, reason in revision.unread.items()
            if path.startswith(prefix)
        ]
        self.patterns: dict[str, tuple[Patterns, ...]] = {}
        self.left_out: dict[str, bool] = {"": False}
        self.followed = 0
        _, self.above = patterns_above(revision.top / prefix, revision)

    def snapshot(self) -> Snapshot:
        """Return them."""
        links: list[str] = []
        inside = sorted(path for path in self.revision.entries if path.startswith(self.prefix))
        if len(inside) > MAX_FILES:
            message = f"{self.revision.name} holds more than {MAX_FILES} files there"
            raise BadInput(message, hint="Give the folder of one app.")
        for whole in inside:
            path = whole.removeprefix(self.prefix)
            if not is_text(path):
                self.unread.append(Unread(path, "its name is not UTF-8", "odd"))
            elif not self._is_left_out(parent(path)):
                if self.revision.entries[whole].is_link:
                    links.append(path)
                else:
                    self.files[path] = self._reader(path)
        for path in links:
            self._follow(path, [one for one in inside if is_text(one)])
        return Snapshot(
            self.files,
            linked=self.linked,
            unread=sorted(self.unread, key=lambda one: one.path),
            probe=self._probe,
            ignores=self._ignores,
        )

    def _is_left_out(self, folder: str) -> bool:
        """Whether a folder holds what tools made or fetched, or git ignores it."""
        if folder not in self.left_out:
            is_tools = folder.rpartition("/")[2] in IGNORED_FOLDERS
            self.left_out[folder] = (
                self._is_left_out(parent(folder))
                or is_tools
                or is_ignored(self._chain(parent(folder)), self.prefix + folder, is_folder=True)
            )
        return self.left_out[folder]

    def _chain(self, folder: str) -> tuple[Patterns, ...]:
        """The patterns that count in a folder."""
        if folder not in self.patterns:
            base = f"{self.prefix}{folder}/" if folder else self.prefix
            above = self._chain(parent(folder)) if folder else self.above
            own = patterns_in(self.revision.top / base / IGNORE_FILE, base, self.revision)
            self.patterns[folder] = above + own
        return self.patterns[folder]

    def _follow(self, path: str, inside: list[str]) -> None:
        """Follow a link, if it stays in the project; one to a folder that it is in itself has nothing new."""
        try:
            target = self.revision.walked(self.prefix + path)
        except LeadsOut:
            self.unread.append(Unread(path, "a link that leads out of the project", "outside"))
            return
        if target is None:
            self.unread.append(Unread(path, "a link that leads to itself", "odd"))
            self.files[path] = self._reader(path)
        elif f"{self.prefix}{path}".startswith(f"{target}/" if target else ""):
            pass
        elif not f"{target}/".startswith(self.prefix):
            self.unread.append(Unread(path, "a link that leads out of the project", "outside"))
        elif target in self.revision.entries:
            self.files[path] = self._reader(path)
        elif not (path.rpartition("/")[2] in IGNORED_FOLDERS or self._ignores(path)):
            self._add_below(path, target, inside)

    def _add_below(self, path: str, target: str, inside: list[str]) -> None:
        """Add the files of a folder once more, under the name of a link to it; what links in it lead to is found at its own place."""
        below = [
            one.removeprefix(f"{target}/")
            for one in inside
            if one.startswith(f"{target}/")
            and not self._is_left_out(parent(one.removeprefix(self.prefix)))
            and self.revision.is_file(self.revision.top / one)
        ]
        self.followed += 1
        if self.followed >= MOST_LINKS or len(self.linked) + len(below) > MAX_FILES:
            self.unread.append(Unread(path, "too much is reached through links: this one is not followed", "odd"))
            return
        self.linked |= {f"{path}/{one}": self._reader(f"{path}/{one}") for one in below}

    def _reader(self, path: str) -> Callable[[], bytes]:
        revision, file, most = self.revision, self.revision.top / (self.prefix + path), most_of(path)

        def read() -> bytes:
            try:
                return revision.read(file, most)
            except OSError as error:
                message = f"cannot be read in {revision.name}: {error.strerror}"
                raise BadInput(message, place=Place(path), hint="Make git have it here.") from error

        return read

    def _ignores(self, path: str) -> bool:
        chain = self._chain(parent(path))
        return bool(chain) and is_ignored(chain, self.prefix + path, is_folder=False)

    def _probe(self, path: str) -> Content | None:
        """The content of a file in a folder that was left out; None if there is no such file."""
        if not any(self._is_left_out(folder) for folder in upwards(parent(path))):
            return None
        return self._reader(path) if self.revision.is_file(self.revision.top / (self.prefix + path)) else None
