"""The disk fails, the process dies or somebody saves a file, at any call to the system: nothing is lost, and one undo sets everything right.

The quick tests do that at a sample of all calls, the slow ones at every one.
"""

from __future__ import annotations

import errno
import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from conftest import BRIEF, Command, read_tree, small_android, write_tree
from faults import ALL, disturbed, failing, killed_at
from rivelt import opening
from rivelt.disk.folder import NotRegular, open_folder
from rivelt.errors import BadInput, Refused, RiveltError
from rivelt.workspace import commit, history
from rivelt.workspace.change import Changes

PACKAGE = (
    '<Package xmlns:u="urn:u"><Applications><Application><u:VisualElements/></Application></Applications></Package>'
)
UPLOADS = BRIEF.replace('"Tern"', '"Tern"\ntargets = ["uploads", "windows"]') + '[uploads]\nsizes = ["300x600"]\n'
QUICK = 7
"""The distance of the calls at which the quick tests do something."""


def project(tmp_path: Path) -> Path:
    """A small project in which there is something to edit, to make (folders too) and to remove."""
    root = write_tree(tmp_path / "tern", {**small_android(brief=UPLOADS), "win/Package.appxmanifest": PACKAGE})
    commit.apply(opening.open_brief(root).changes())
    shutil.rmtree(root / ".rivelt")
    return write_tree(root, {"rivelt.toml": UPLOADS.replace("#F3EBDD", "#112233") + 'out = "fresh/deep"\n'})


def own(root: Path) -> dict[str, bytes]:
    return {path: content for path, content in read_tree(root).items() if not path.startswith(".rivelt/")}


class World:
    """A project that can be had anew, what apply would do to it, and a file outside of it."""

    def __init__(self, tmp_path: Path) -> None:
        self.root = project(tmp_path)
        self.old = own(self.root)
        self.changes: Changes = opening.open_brief(self.root).changes()
        assert {change.action for change in self.changes.files} == {"create", "edit", "delete"}
        self.kept = tmp_path / "kept"
        self.outside = write_tree(tmp_path / "outside", {"x": "outside"}) / "x"
        self.keep()

    def keep(self) -> None:
        shutil.rmtree(self.kept, ignore_errors=True)
        shutil.copytree(self.root, self.kept, symlinks=True)

    def again(self) -> None:
        shutil.rmtree(self.root)
        shutil.copytree(self.kept, self.root, symlinks=True)

    def set_right(self) -> None:
        """Whatever happened: one undo, and everything is as it was; then apply has something to do and can do it."""
        if history.applies(self.root):
            commit.undo(self.root)
        assert own(self.root) == self.old
        assert self.outside.read_bytes() == b"outside"


@pytest.fixture
def world(tmp_path: Path) -> World:
    return World(tmp_path)


def undo_of(world: World) -> Callable[[], object]:
    commit.apply(world.changes)
    world.keep()
    return lambda: commit.undo(world.root)


def failures(world: World, work: Callable[[], object], distance: int, *, onwards: bool) -> Iterator[str]:
    """Let each n-th call fail, set things right, and yield what was said."""
    number = 1
    while True:
        said = ""
        with failing(number, errno.ENOSPC if number % 2 else errno.EACCES, onwards=onwards) as failed:
            try:
                work()
            except RiveltError as error:  # anything else would be exit code 70
                said = str(error)
        if not failed:
            return
        world.set_right()
        yield said
        world.again()
        number += distance


@pytest.mark.parametrize("onwards", [False, True], ids=["once", "from then on"])
@pytest.mark.parametrize("what", ["apply", "undo"])
@pytest.mark.parametrize("distance", [QUICK * 5, pytest.param(1, marks=pytest.mark.slow)])
def test_a_disk_that_fails_loses_nothing(world: World, what: str, distance: int, *, onwards: bool) -> None:
    work = undo_of(world) if what == "undo" else lambda: commit.apply(world.changes)
    said = list(failures(world, work, distance, onwards=onwards))
    assert len(said) * distance > 200, "there are many calls at which the disk can fail"
    assert sum(map(bool, said)) > len(said) * 0.7
    assert not any("changed while" in one for one in said), "a disk that fails is not somebody's edit"


@pytest.mark.parametrize("what", ["apply", "undo"])
@pytest.mark.parametrize("distance", [QUICK * 2, pytest.param(1, marks=pytest.mark.slow)])
def test_a_process_that_is_killed_is_announced_and_undone(
    world: World, rivelt: Command, what: str, distance: int
) -> None:
    undoing = undo_of(world)
    clean = (world.old, own(world.root))
    work: Callable[[], object] = undoing
    if what == "apply":
        undoing()
        world.keep()
        work = lambda: commit.apply(world.changes)  # noqa: E731
    number = 1
    while killed_at(number, work):
        said = rivelt("survey", cwd=world.root).err if number % 5 == 1 else None
        if said is not None and own(world.root) not in clean:
            assert f"an earlier {what} was stopped halfway" in said, number
        world.set_right()
        world.again()
        number += distance
    assert number > 80


def in_place(path: Path) -> None:
    with path.open("r+b") as file:
        file.truncate()
        file.write(b"saved right now")


def by_rename(path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name("beside~")
    beside.write_bytes(b"saved right now")
    beside.rename(path)


def by_link(path: Path, target: Path) -> None:
    path.unlink(missing_ok=True)
    path.symlink_to(target)


@pytest.mark.parametrize("how", ["in place", "by rename", "as a link to the outside"])
@pytest.mark.parametrize("action", ["edit", "create", "delete"])
@pytest.mark.parametrize("distance", [QUICK, pytest.param(1, marks=pytest.mark.slow)])
def test_an_edit_that_is_saved_meanwhile_survives(world: World, action: str, how: str, distance: int) -> None:
    path = world.root / next(change.path for change in world.changes.files if change.action == action)
    ways: dict[str, Callable[[Path], object]] = {"in place": in_place, "by rename": by_rename}
    ways["as a link to the outside"] = lambda at: by_link(at, world.outside)
    save = ways[how]
    real = {name: getattr(os, name) for name in ALL}
    number, refused = 1, 0
    while True:
        saved = False

        def disturb() -> None:
            nonlocal saved
            with pytest.MonkeyPatch.context() as patch:
                for name, function in real.items():
                    patch.setattr(os, name, function)
                try:
                    save(path)
                    saved = True
                except FileNotFoundError:
                    pass

        with disturbed(number, disturb) as reached:
            try:
                commit.apply(world.changes)
            except (Refused, BadInput):
                refused += 1
                others = {name: content for name, content in own(world.root).items() if world.root / name != path}
                was = {name: content for name, content in world.old.items() if world.root / name != path}
                assert others == was, number
        if not reached:
            break
        if saved and how == "as a link to the outside":
            assert path.is_symlink()
        elif saved:
            assert path.read_bytes() == b"saved right now", (number, reached)
        assert world.outside.read_bytes() == b"outside"
        if history.applies(world.root):
            commit.undo(world.root, force=True)
        world.again()
        number += distance
    assert refused or action == "create"


def test_undo_follows_no_link_that_appeared_meanwhile(world: World, rivelt: Command) -> None:
    commit.apply(world.changes)
    edited = next(change.path for change in world.changes.files if change.action == "edit")
    folder = world.root / "win"
    folder.rename(world.outside.parent / "win")
    folder.symlink_to(world.outside.parent / "win")
    by_link(world.root / edited, world.outside)
    before = read_tree(world.outside.parent)
    refused = rivelt("undo", cwd=world.root)
    assert (refused.code, "changed since they were applied" in refused.err) == (3, True)
    stopped = rivelt("undo", "--force", cwd=world.root)
    assert (stopped.code, "a file or a link is where a folder is needed" in stopped.err) == (2, True)
    assert read_tree(world.outside.parent) == before
    assert "an earlier undo was stopped halfway" in rivelt("survey", cwd=world.root).err
    folder.unlink()
    (world.outside.parent / "win").rename(folder)
    assert rivelt("undo", "--force", cwd=world.root).code == 0
    assert own(world.root) == world.old


@pytest.mark.parametrize("by_descriptor", [True, False], ids=["by descriptor", "by path"])
def test_an_open_folder_follows_no_link_itself(tmp_path: Path, *, by_descriptor: bool) -> None:
    """Not even one that appears after somebody has looked."""
    outside = write_tree(tmp_path / "outside", {"x": "outside"})
    root = write_tree(tmp_path / "root", {"own": "own"})
    (root / "folder").symlink_to(outside)
    (root / "file").symlink_to(outside / "x")
    with open_folder(root, by_descriptor=by_descriptor) as folder:
        with pytest.raises(OSError, match=r"Not a directory|Too many levels"):
            folder.child("folder")
        with pytest.raises(NotRegular):
            folder.read("file")
        with pytest.raises(FileExistsError):
            folder.create("file", b"new")
        with pytest.raises(FileExistsError):
            folder.give("own", folder, "file")
        folder.move("own", folder, "file")
    assert read_tree(outside) == {"x": b"outside"}
    assert (root / "file").read_text() == "own"


def test_by_path_the_same_promises_are_kept(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """What Windows uses: folders are known by their identity, and compared before and after each call."""
    from rivelt.disk import folder as folders
    from rivelt.disk.tree import Tree

    opened = Tree.opened
    monkeypatch.setattr(Tree, "opened", lambda root: opened(root, by_descriptor=False))
    commit.apply(world.changes)
    assert own(world.root) != world.old
    commit.undo(world.root)
    assert own(world.root) == world.old
    inside = world.root / "app/src"
    with folders.open_folder(world.root, by_descriptor=False).child("app") as app:
        source = app.child("src")
        inside.rename(world.outside.parent / "src")
        inside.symlink_to(world.outside.parent / "src")
        with pytest.raises(folders.Moved):
            source.create("x", b"")
        with pytest.raises(NotADirectoryError):
            app.child("src")
    assert not (world.outside.parent / "src/x").exists()


def test_a_file_system_without_hard_links_is_enough(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(*_: object, **__: object) -> None:
        raise OSError(errno.EPERM, os.strerror(errno.EPERM))

    monkeypatch.setattr(os, "link", refused)
    commit.apply(world.changes)
    assert own(world.root) != world.old
    commit.undo(world.root)
    assert own(world.root) == world.old


def test_what_was_kept_and_is_damaged_is_put_back_only_when_asked(world: World, rivelt: Command) -> None:
    """Also an edit that a program saved late, into a file that it still had open."""
    commit.apply(world.changes)
    index, change = next((at, one) for at, one in enumerate(world.changes.files) if one.action == "edit")
    (world.root / f".rivelt/0001/old/{index:04d}").write_bytes(b"saved late")
    refused = rivelt("undo", cwd=world.root)
    assert (refused.code, f"what was kept of {change.path} is damaged, or was changed since" in refused.err) == (
        3,
        True,
    )
    assert rivelt("undo", "--force", cwd=world.root).code == 0
    assert own(world.root) == {**world.old, change.path: b"saved late"}


@pytest.mark.parametrize("gone", ["a generated file", "all folders that were made"])
def test_what_is_not_there_any_more_is_undone(world: World, rivelt: Command, gone: str) -> None:
    commit.apply(world.changes)
    made = next(change.path for change in world.changes.files if change.action == "create")
    if gone == "a generated file":
        (world.root / made).unlink()
    else:
        shutil.rmtree(world.root / made.partition("/")[0])
    assert rivelt("undo", cwd=world.root).code == 0
    assert own(world.root) == world.old


def test_an_edit_that_undo_had_moved_away_when_it_was_stopped_comes_back(world: World, rivelt: Command) -> None:
    """Undo moves what apply made out of the way and looks at it again: killed right then, it must not lose what it moved."""
    commit.apply(world.changes)
    index, change = next((at, one) for at, one in enumerate(world.changes.files) if one.action == "edit")
    journal = world.root / ".rivelt/0001"
    (journal / "applied.json").rename(journal / "undoing.json")
    (world.root / change.path).write_bytes(b"saved right then")
    (world.root / change.path).rename(journal / f"gone/{index:04d}")
    refused = rivelt("undo", cwd=world.root)
    assert (refused.code, f"changed while undo ran: {change.path}" in refused.err) == (3, True)
    assert (world.root / change.path).read_bytes() == b"saved right then"
    assert rivelt("undo", "--force", cwd=world.root).code == 0
    assert own(world.root) == world.old
