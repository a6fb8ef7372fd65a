"""A revision as files: what a commit's tree holds, with its links, its submodules, and what Git LFS keeps of it on this machine."""

from __future__ import annotations

import errno
import hashlib
import os
from collections import deque
from collections.abc import Iterator, Mapping
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from rivelt.disk.folder import MAX_FILE, NotRegular
from rivelt.disk.tree import LeadsOut, read_file, resolved
from rivelt.errors import BadInput
from rivelt.patterns import regex
from rivelt.project.ignore import repository_top
from rivelt.project.snapshot import Snapshot
from rivelt.revision.git import NotHere, Objects, git
from rivelt.revision.listing import listed

_LINK, _SUBMODULE = b"120000", b"160000"
_MOST_LINKS = 40  # as many as Linux follows
_DEEPEST = 8  # submodules in submodules
_LONGEST_LINK = 4096  # bytes
_POINTER = regex(
    rb"version https://git-lfs\.github\.com/spec/v1\n(?:ext-\S+ \S+\n)*oid sha256:([0-9a-f]{64})\nsize (\d+)\n"
)
_LONGEST_POINTER = 1024  # bytes


class Entry(NamedTuple):
    """A file or a link of a tree: its mode as git writes it, the name of its object, and where that is."""

    mode: bytes
    name: str
    home: Objects

    @property
    def is_link(self) -> bool:
        """Whether it is a symbolic link."""
        return self.mode == _LINK


class Revision:
    """The files of a repository as a commit has them. Their paths are those of the working tree.

    `name`: what the person called it. `top`: the top of the working tree. `unread`: submodules that are not here, by path, with the reason.
    """

    is_disk = False

    def __init__(self, top: Path, name: str, entries: Mapping[str, Entry], unread: Mapping[str, str]) -> None:
        self.name = name
        self.top = top
        self.unread = unread
        self.entries = entries
        self._lfs = _lfs_folder(top)
        self._folders = {"", *(str(above) for path in entries for above in _above(path))}
        self._links: dict[str, str] = {}

    @classmethod
    def of(cls, folder: Path, name: str, *, other: str = "HEAD") -> Revision:
        """Return the revision that a name means in the repository of a folder.

        Args:
            folder: a folder in the working tree.
            name: a branch, a tag, a commit, or what else git understands. `main...`: where `main` and `other` went apart.
            other: what is compared with it.

        Raises:
            BadInput: there is no repository, or no such commit.
        """
        top = _top_of(folder)
        if (base := name.removesuffix("...")) != name:
            found = git(top, "merge-base", "--end-of-options", base, other)
            tree = None if found is None else _tree(top, found.decode("ascii", "replace").strip())
        else:
            tree = _tree(top, name)
        if tree is None:
            raise _no_commit(top, name)
        entries, unread = _entries(top, tree)
        return cls(top, name, entries, unread)

    # As files

    def real(self, path: Path) -> Path:
        """Return a path without links: those of the revision inside the repository, those of the disk above it."""
        plain = Path(os.path.abspath(path))  # noqa: PTH100 resolve() would follow links of the working tree
        if not plain.is_relative_to(self.top):
            plain = resolved(plain)
        if not plain.is_relative_to(self.top):
            return plain
        try:
            found = self.walked(plain.relative_to(self.top).as_posix())
        except LeadsOut:
            return plain
        return plain if found is None else self.top / found

    def is_there(self, path: Path) -> bool:
        """Return whether the revision has something of this name."""
        inside = self._inside(path)
        if inside in self._folders or inside in self.entries:
            return True
        above = self._inside(path.parent)  # a link that leads nowhere is there as well
        return above is not None and PurePosixPath(above, path.name).as_posix() in self.entries

    def is_file(self, path: Path) -> bool:
        """Return whether it is a file, or a link to one."""
        entry = self.entries.get(self._inside(path) or "")
        return entry is not None and not entry.is_link

    def is_folder(self, path: Path) -> bool:
        """Return whether it is a folder, or a link to one."""
        return self._inside(path) in self._folders

    def read(self, path: Path, most: int = MAX_FILE) -> bytes:
        """Return the bytes of a file.

        Raises:
            OSError: the revision does not have it, it is not on this machine, or it is larger than `most` bytes.
        """
        inside = self._inside(path)
        if inside in self._folders:
            raise NotRegular(0o040000)
        if inside is None or inside not in self.entries:
            raise FileNotFoundError(errno.ENOENT, os.strerror(errno.ENOENT), str(path))
        entry = self.entries[inside]
        if entry.is_link:
            raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))
        data = entry.home.read(entry.name, most)
        return self._stored(data, most) if len(data) <= _LONGEST_POINTER and _POINTER.match(data) else data

    def snapshot(self, root: Path) -> Snapshot:
        """Return the files of a project, as `rivelt.project.search` gives those on disk.

        Raises:
            BadInput: the revision does not have its folder, or it holds far too many files.
        """
        inside = self._inside(root)
        if inside is None or inside not in self._folders:
            raise BadInput(f"{self.name} has no folder {root.name}", hint="Give a revision that has it.")
        return listed(self, inside)

    def _inside(self, path: Path) -> str | None:
        """A path from the top, without links; None outside of the repository."""
        real = self.real(path)
        if not real.is_relative_to(self.top):
            return None
        inside = real.relative_to(self.top).as_posix()
        return "" if inside == "." else inside

    # Links

    def walked(self, path: str) -> str | None:
        """Return where a path leads, seen from the top, when links are followed; None where that has no end.

        Raises:
            LeadsOut: it leads out of the repository.
        """
        done: list[str] = []
        pending = deque(path.split("/"))
        followed = 0
        while pending:
            part = pending.popleft()
            if part in {"", "."}:
                continue
            if part == "..":
                if not done:
                    raise LeadsOut(path)
                done.pop()
                continue
            done.append(part)
            target = self.target("/".join(done))
            if target is not None:
                followed += 1
                if target.startswith("/"):
                    raise LeadsOut(path)
                if followed > _MOST_LINKS:
                    return None
                done.pop()
                pending.extendleft(reversed(target.split("/")))
            elif pending and "/".join(done) not in self._folders:  # nothing is there, nor above what follows
                return "/".join((*done, *pending))
        return "/".join(done)

    def target(self, path: str) -> str | None:
        """Return where a link leads; None where there is no link. One whose content is not here leads nowhere ("/")."""
        entry = self.entries.get(path)
        if entry is None or not entry.is_link:
            return None
        if path not in self._links:
            try:
                self._links[path] = os.fsdecode(entry.home.read(entry.name, _LONGEST_LINK))
            except OSError:
                self._links[path] = "/"
        return self._links[path]

    # Git LFS

    def _stored(self, pointer: bytes, most: int) -> bytes:
        """What Git LFS keeps on this machine for a pointer.

        Raises:
            OSError: it is not here.
        """
        found = _POINTER.match(pointer)
        name = found[1].decode() if found is not None else ""
        reason = (
            f"it is a Git LFS pointer, and what it stands for is not here (git lfs fetch --all, or fetch {self.name})"
        )
        try:
            data = read_file(self._lfs / name[:2] / name[2:4] / name, most)
        except OSError as error:
            raise NotHere(reason) from error
        if hashlib.sha256(data).hexdigest() != name:
            raise NotHere(reason)
        return data


def _top_of(folder: Path) -> Path:
    """The top of the working tree that a folder, or the nearest one above it that is still there, is in."""
    start = resolved(folder)
    there = next(above for above in (start, *start.parents) if above.is_dir())
    found = git(there, "rev-parse", "--show-toplevel")
    if found is None and repository_top(there) is None:
        raise BadInput(f"{folder} is in no git repository", hint="A revision needs one: git init, and commit.")
    if found is None:
        raise BadInput(f"git does not open the repository of {folder}", hint="See why: git status")
    return Path(os.fsdecode(found).rstrip("\r\n"))


def _tree(top: Path, name: str) -> str | None:
    """The name of the tree of a revision; None where there is none."""
    if "\0" in name or not name:
        return None
    found = git(top, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{name}^{{tree}}")
    return found.decode("ascii", "replace").strip() if found else None


def _no_commit(top: Path, name: str) -> BadInput:
    if (git(top, "rev-parse", "--is-shallow-repository") or b"").strip() == b"true":
        hint = "This is a shallow clone: git fetch --unshallow (on CI: fetch the whole history)."
    elif git(top, "rev-parse", "--verify", "--quiet", "HEAD") is None:
        hint = "Nothing is committed yet."
    elif name.startswith("HEAD"):
        hint = "A first commit has none before it: leave the option out there."
    else:
        hint = "See what there is: git branch --all. On CI, fetch it first."
    return BadInput(f"the repository has no commit {name}", hint=hint)


def _entries(top: Path, tree: str, depth: int = 0) -> tuple[dict[str, Entry], dict[str, str]]:
    """The files and links of a tree, with those of its submodules; and which of these are not here."""
    found = git(top, "ls-tree", "-r", "-z", "--full-tree", tree)
    if found is None:
        raise BadInput("git cannot list the files of the revision", hint=f"See why: git ls-tree {tree}")
    objects = Objects(top)
    entries: dict[str, Entry] = {}
    unread: dict[str, str] = {}
    for line in found.split(b"\0"):
        head, _, raw = line.partition(b"\t")
        mode, _, kind_and_name = head.partition(b" ")
        path, name = os.fsdecode(raw), kind_and_name[-64:].split()[-1].decode("ascii") if kind_and_name else ""
        if mode == _SUBMODULE:
            _add_submodule(top, path, name, depth, entries, unread)
        elif name:
            entries[path] = Entry(mode, name, objects)
    return entries, unread


def _add_submodule(
    top: Path, path: str, name: str, depth: int, entries: dict[str, Entry], unread: dict[str, str]
) -> None:
    folder = top / path
    is_here = depth < _DEEPEST and folder.is_dir() and os.path.lexists(folder / ".git")
    tree = _tree(folder, name) if is_here else None
    if tree is None:
        unread[path] = f"a submodule whose commit {name[:10]} is not here (git submodule update --init)"
        return
    its, missing = _entries(folder, tree, depth + 1)
    entries |= {f"{path}/{inner}": entry for inner, entry in its.items()}
    unread |= {f"{path}/{inner}": reason for inner, reason in missing.items()}


def _lfs_folder(top: Path) -> Path:
    common = git(top, "rev-parse", "--git-common-dir")
    return top / os.fsdecode(common or b".git").strip() / "lfs" / "objects"


def _above(path: str) -> Iterator[str]:
    while "/" in path:
        path = path.rpartition("/")[0]
        yield path
