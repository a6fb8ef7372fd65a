"""What brands are made from, wherever that happens: the project, which all share and which is read once, and each brand's own files."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from threading import Lock
from typing import TYPE_CHECKING

from rivelt.art.files import ArtFiles
from rivelt.disk.folder import MAX_FILE, TooLarge
from rivelt.errors import BadInput
from rivelt.project.files import DISK, Files
from rivelt.project.project import Project
from rivelt.project.snapshot import Snapshot

if TYPE_CHECKING:
    from rivelt.brief.model import Brief

_MOST_CARRIED = 400_000_000  # bytes


class Stock:
    """The project on disk, without the folder that the results are put into.

    `homes`: the folder of the brief, and that of its repository: where art may be.
    """

    def __init__(self, homes: Iterable[Path], out: Path) -> None:
        self.homes = tuple(homes)
        self._out = out
        self._lock = Lock()
        self._projects: dict[Path, Project] = {}

    def __getstate__(self) -> dict[str, object]:
        return {"homes": self.homes, "_out": self._out}

    def __setstate__(self, state: dict[str, object]) -> None:
        self.__dict__.update(state)
        self._lock = Lock()
        self._projects = {}

    def project(self, root: Path) -> Project:
        """Return the project in a folder, to be worked on by one brand: what others have read and parsed of it is not read again.

        Raises:
            BadInput: the folder cannot be listed.
        """
        with self._lock:
            if root not in self._projects:
                self._projects[root] = Project(self.snapshot(root))
            return self._projects[root].again()

    def learn(self, root: Path, project: Project) -> None:
        """Keep what the first brand has parsed of a project for those that follow."""
        with self._lock:
            if not self._projects[root].has_parsed:
                self._projects[root] = project.again()

    def snapshot(self, root: Path) -> Snapshot:
        """Return the files of a project."""
        found = DISK.snapshot(root)
        if not self._out.is_relative_to(root):
            return found
        inside = self._out.relative_to(root).as_posix()
        return found.without(lambda path: path.startswith(f"{inside}/"))

    def files(self, _art: Mapping[str, bytes]) -> Files:
        """Return where the files of a brand are read from."""
        return DISK

    def art_files(self, brief: Brief, files: Files) -> ArtFiles:
        """Return the files that a brand's brief names."""
        return ArtFiles(brief.folder, *self.homes, brief.project, files=files)


class Carried(Stock):
    """The same on another machine: projects with their contents, sent there once; a brand's art comes with it."""

    def __init__(self, homes: Iterable[Path], projects: Mapping[Path, Snapshot], links: Mapping[Path, Path]) -> None:
        super().__init__(homes, Path(os.devnull))
        self._snapshots = dict(projects)
        self._links = dict(links)

    def __getstate__(self) -> dict[str, object]:
        return {**super().__getstate__(), "_snapshots": self._snapshots, "_links": self._links}

    def snapshot(self, root: Path) -> Snapshot:
        """Return the files of a project."""
        if root not in self._snapshots:
            raise BadInput("the project was not sent here", hint="Run it again.")
        return self._snapshots[root]

    def files(self, art: Mapping[str, bytes]) -> Files:
        """Return where the files of a brand are read from: what came with it."""
        return _Here(self, art)

    def real(self, path: Path) -> Path:
        """Return where a path leads."""
        plain = Path(os.path.normpath(path))
        return self._links.get(plain, plain)

    def holds(self, path: Path) -> bool:
        """Return whether a project has a file."""
        return any(
            path.is_relative_to(root) and path.relative_to(root).as_posix() in snapshot
            for root, snapshot in self._snapshots.items()
        )


class _Here:
    """The files that came along, by their absolute paths."""

    is_disk = False

    def __init__(self, stock: Carried, art: Mapping[str, bytes]) -> None:
        self._stock = stock
        self._art = art

    def real(self, path: Path) -> Path:
        return self._stock.real(path)

    def is_there(self, path: Path) -> bool:
        return self.is_file(path) or self.is_folder(path)

    def is_file(self, path: Path) -> bool:
        real = self.real(path)
        return str(real) in self._art or self._stock.holds(real)

    def is_folder(self, path: Path) -> bool:
        real = self.real(path)
        return any(Path(one).is_relative_to(real) for one in (*self._art, *map(str, self._stock.homes)))

    def read(self, path: Path, most: int = MAX_FILE) -> bytes:
        real = str(self.real(path))
        if real not in self._art:
            raise FileNotFoundError(2, "it was not sent here", real)
        if len(self._art[real]) > most:
            raise TooLarge(len(self._art[real]), most)
        return self._art[real]

    def snapshot(self, root: Path) -> Snapshot:
        return self._stock.snapshot(root)


def carried(stock: Stock, roots: Iterable[Path], art: Iterable[Path]) -> Carried:
    """Return what is sent to other machines.

    Args:
        stock: what is here.
        roots: the projects; what a command has asked of their ignored folders goes along.
        art: the files that briefs name: they are sent with each brand, not with the projects.

    Raises:
        BadInput: a project is far too large to be sent.
    """
    links = {Path(os.path.normpath(path)): DISK.real(path) for path in art}
    left_out = set(links.values())
    projects: dict[Path, Snapshot] = {}
    weight = 0
    for root in roots:
        paths = {path.relative_to(root).as_posix() for path in left_out if path.is_relative_to(root)}
        projects[root] = stock.snapshot(root).packed(lambda path, paths=paths: path not in paths)  # type: ignore[misc]
        weight += sum(len(data) for data in projects[root].contents())
        if weight > _MOST_CARRIED:
            hint = "Take what is no source out with exclude or .gitignore; or run it without --scheduler."
            raise BadInput(f"the project is too large to be sent: more than {_MOST_CARRIED // 1_000_000} MB", hint=hint)
    return Carried(stock.homes, projects, links)
