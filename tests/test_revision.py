"""A commit's files are those that a checkout of it would have, read from git's objects alone."""

from __future__ import annotations

import hashlib
import os
import stat
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import Command, quick_sample, read_tree, small_android, write_tree
from repository import commit, git, repository
from rivelt import opening
from rivelt.errors import BadInput
from rivelt.project.project import Project
from rivelt.revision.tree import Revision

NAMES = st.sampled_from(["a", "b.kt", "res", "build", "node_modules", ".gitignore", "Üñ.xml", "c d.png", ".hidden"])
PATHS = st.lists(NAMES, min_size=1, max_size=4).map("/".join)
CONTENTS = st.sampled_from([b"", b"one\n", b"build/\n", b"*.kt\n!b.kt\n", b"\xff\x00", b"res\n"])
TARGETS = st.sampled_from(["a", "../a", "res", "../../..", "/etc/hosts", "missing", ".", "res/a", "res/res"])


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(files=st.dictionaries(PATHS, CONTENTS, max_size=12), links=st.dictionaries(PATHS, TARGETS, max_size=3))
def test_a_revision_has_the_files_of_its_checkout(
    tmp_path_factory: pytest.TempPathFactory, files: dict[str, bytes], links: dict[str, str]
) -> None:
    root = repository(tmp_path_factory.mktemp("tree"))
    for path, content in files.items():
        target = root / path
        if any(above.is_file() or above.is_symlink() for above in target.parents) or target.exists():
            continue
        write_tree(root, {path: content})
    for path, leads in links.items():
        link = root / path
        if not os.path.lexists(link) and not any(one.is_file() or one.is_symlink() for one in link.parents):
            link.parent.mkdir(parents=True, exist_ok=True)
            link.symlink_to(leads)
    git(root, "add", "-A", "-f")
    git(root, "commit", "-q", "--allow-empty", "-m", "all")
    folders = [path for path in root.rglob("*") if path.is_dir() and not path.is_symlink() and ".git" not in path.parts]
    for folder in sorted(folders, reverse=True):  # git has no empty folders
        if not any(folder.iterdir()):
            folder.rmdir()
    disk, there = Project.of_folder(root), Project.of_folder(root, files=Revision.of(root, "HEAD"))
    # Whether a link that leads out of the repository leads anywhere is known on the disk alone.
    dangling = {path for path in links if (root / path).is_symlink() and not (root / path).exists()}
    paths = [path for path in disk.paths if path not in dangling]
    assert [path for path in there.paths if path not in dangling] == paths
    assert {path: held(there, path) for path in paths} == {path: held(disk, path) for path in paths}
    assert set(there.own("*")) - dangling == set(disk.own("*")) - dangling

    def links_in(path: str) -> int:
        parts = path.split("/")
        return sum((root / "/".join(parts[:count])).is_symlink() for count in range(1, len(parts) + 1))

    # What is reached through several links is found at its own place; a revision does not list it again.
    unread, on_disk = (
        {(one.path, one.kind) for one in project.unread if one.path not in dangling and links_in(one.path) <= 1}
        for project in (there, disk)
    )
    assert unread == on_disk
    below, below_on_disk = (
        {path for folder in ("res", "a", "build") for path in project.below(folder) if links_in(path) <= 1} - dangling
        for project in (there, disk)
    )
    assert below == below_on_disk


def held(project: Project, path: str) -> bytes | None:
    try:
        return project.read(path)
    except BadInput:
        return None


def test_a_job_on_a_revision_proves_and_judges_as_on_its_checkout(tmp_path: Path) -> None:
    root = repository(tmp_path / "app", quick_sample())
    on_disk = opening.open(root)
    scenes, report = on_disk.prove().scenes, on_disk.check()
    (root / "rivelt.toml").write_text("what is in the working tree does not count")
    there = opening.open(root, files=Revision.of(root, "HEAD"))
    assert there.prove().scenes == scenes
    assert there.check().results == report.results
    with pytest.raises(BadInput, match="a commit cannot be changed"):
        there.changes()


def test_nothing_is_written_and_no_hook_or_filter_runs(tmp_path: Path, rivelt: Command) -> None:
    files = small_android() | {".gitattributes": "*.svg filter=loud diff=loud\n"}
    root = repository(tmp_path / "app", files)
    told = tmp_path / "told"
    for key in ("filter.loud.smudge", "filter.loud.clean", "diff.loud.textconv", "core.fsmonitor", "core.pager"):
        git(root, "config", key, f"touch {told}; cat")
    for name in ("post-checkout", "post-index-change"):
        hook = root / ".git" / "hooks" / name
        hook.parent.mkdir(exist_ok=True)
        hook.write_text(f"#!/bin/sh\ntouch {told}\n")
        hook.chmod(hook.stat().st_mode | stat.S_IXUSR)
    before = read_tree(root)
    assert rivelt("proof", "--since", "HEAD", "--out", tmp_path / "out.png", cwd=root).code == 0
    assert read_tree(root) == before
    assert not told.exists()


# What is not in a repository's objects is named


def pointer(content: bytes) -> str:
    name = hashlib.sha256(content).hexdigest()
    return f"version https://git-lfs.github.com/spec/v1\noid sha256:{name}\nsize {len(content)}\n"


def test_what_git_lfs_keeps_is_read_where_it_is_here_and_named_where_it_is_not(tmp_path: Path, rivelt: Command) -> None:
    mark = small_android()["mark.svg"]
    assert isinstance(mark, str)
    root = repository(tmp_path / "app", small_android(mark=pointer(mark.encode())))
    write_tree(root, {"mark.svg": mark})
    missing = rivelt("proof", "--since", "HEAD", cwd=root)
    assert "mark.svg cannot be read: it is a Git LFS pointer" in missing.out
    name = hashlib.sha256(mark.encode()).hexdigest()
    stored = root / ".git" / "lfs" / "objects" / name[:2] / name[2:4] / name
    write_tree(stored.parent, {name: mark})
    found = rivelt("proof", "--since", "HEAD", cwd=root)
    assert (found.code, "LFS" in found.out) == (0, False)
    write_tree(stored.parent, {name: mark.replace("1F6E7D", "000000")})  # not what the pointer means
    assert "Git LFS pointer" in rivelt("proof", "--since", "HEAD", cwd=root).out


def test_the_files_of_a_submodule_are_read_where_it_is_here_and_it_is_named_where_it_is_not(
    tmp_path: Path, rivelt: Command
) -> None:
    app = {path: content for path, content in small_android().items() if path.startswith("app/")}
    inner = repository(tmp_path / "inner", {path.removeprefix("app/"): text for path, text in app.items()})
    own = {path: content for path, content in small_android().items() if not path.startswith("app/")}
    root = repository(tmp_path / "outer", own)
    git(root, "submodule", "add", "-q", inner, "app")
    commit(root)
    assert "0 findings added" in rivelt("proof", "--since", "HEAD", cwd=root).out
    there = Project.of_folder(root, files=Revision.of(root, "HEAD"))
    on_disk: set[str] = set(Project.of_folder(root).paths) - {"proof.png"}
    assert set(there.paths) == on_disk
    clone = tmp_path / "clone"
    git(tmp_path, "clone", "-q", root, clone)
    write_tree(clone, app)
    said = rivelt("proof", "--since", "HEAD", cwd=clone)
    assert "not read in HEAD: app: a submodule whose commit" in said.err
    assert said.code == 1


def test_a_worktree_is_read_as_any_other(tmp_path: Path, rivelt: Command) -> None:
    root = repository(tmp_path / "app", small_android())
    git(root, "worktree", "add", "-q", "-b", "other", tmp_path / "beside")
    write_tree(tmp_path / "beside", {"rivelt.toml": '[light]\nground = "navy"\nmark = "mark.svg"\n'})
    shown = rivelt("proof", "--since", "main", "--json", cwd=tmp_path / "beside").json
    assert {one["ground_after"] for one in shown["screens"] if one["look"] == "light"} == {"#000080"}


@pytest.mark.parametrize(
    ("since", "message", "hint"),
    [
        ("mian", "the repository has no commit mian", "git branch --all"),
        ("HEAD~1", "the repository has no commit HEAD~1", "A first commit has none before it"),
        ("--output=stolen", "the repository has no commit --output=stolen", ""),
        ("", "the repository has no commit ", ""),
        ("HEAD:mark.svg", "the repository has no commit HEAD:mark.svg", ""),
        ("main; touch x", "the repository has no commit main; touch x", ""),
    ],
)
def test_a_revision_that_is_not_there(tmp_path: Path, rivelt: Command, since: str, message: str, hint: str) -> None:
    root = repository(tmp_path / "app", small_android())
    for command in ("proof", "check"):
        run = rivelt(command, f"--since={since}", cwd=root)
        assert (run.code, message in run.err, hint in run.err) == (2, True, True), run.err
    assert sorted(path.name for path in root.iterdir()) == [".git", "app", "mark.svg", "rivelt.toml"]


def test_where_there_is_no_git(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "app", small_android())
    run = rivelt("proof", "--since", "HEAD", cwd=root)
    assert (run.code, "is in no git repository" in run.err) == (2, True)
    git(root, "init", "-q", "-b", "main")
    empty = rivelt("check", "--since", "HEAD", cwd=root)
    assert (empty.code, "Nothing is committed yet." in empty.err) == (2, True)
    (tmp_path / "bin").mkdir()
    without = rivelt("check", "--since", "HEAD", cwd=root, env={"PATH": str(tmp_path / "bin")})
    assert (without.code, "git is not installed" in without.err) == (2, True)


def test_a_shallow_clone_says_so(tmp_path: Path, rivelt: Command) -> None:
    root = repository(tmp_path / "app", small_android())
    commit(root)
    git(tmp_path, "clone", "-q", "--depth", "1", root.as_uri(), "shallow")
    run = rivelt("check", "--since", "HEAD~1", cwd=tmp_path / "shallow")
    assert (run.code, "This is a shallow clone: git fetch --unshallow" in run.err) == (2, True)


def test_a_partial_clone_fetches_nothing(tmp_path: Path, rivelt: Command) -> None:
    root = repository(tmp_path / "app", small_android())
    git(root, "config", "uploadpack.allowFilter", "true")
    commit(root, {"mark.svg": small_android()["mark.svg"].replace("1F6E7D", "112233")})  # type: ignore[arg-type]
    git(tmp_path, "clone", "-q", "--filter=blob:none", root.as_uri(), "partial")
    run = rivelt("proof", "--since", "HEAD~1", cwd=tmp_path / "partial")
    assert "mark.svg cannot be read: git does not have its content here" in run.out


def test_a_bomb_of_trees_ends(tmp_path: Path, rivelt: Command, monkeypatch: pytest.MonkeyPatch) -> None:
    from rivelt.revision import git as room

    monkeypatch.setattr(room, "_MOST_OUTPUT", 100_000)
    root = repository(tmp_path / "app", small_android())
    blob = git(root, "hash-object", "-w", "mark.svg")
    tree = f"100644 blob {blob}\tf"
    for level in range(12):
        lines = "\n".join(f"040000 tree {tree}\t{number}" for number in range(8)) if level else tree
        tree = _tree(root, lines)
    run = rivelt("check", "--since", tree, cwd=root)
    assert (run.code, "far too many files" in run.err) == (2, True), run.err


def _tree(root: Path, lines: str) -> str:
    import subprocess

    done = subprocess.run(["git", "mktree"], cwd=root, input=f"{lines}\n", text=True, capture_output=True, check=True)
    return done.stdout.strip()
