"""The workspace and the snapshot on their own: what is compared, refused, written and kept."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import read_tree, write_tree
from rivelt.disk.tree import in_tool_folder
from rivelt.edit.toml import read_toml
from rivelt.errors import BadInput, Place, Problems, Refused, raise_all
from rivelt.plan.owner import Owner
from rivelt.project.search import snapshot_of
from rivelt.project.snapshot import Snapshot, join, parent
from rivelt.workspace.change import Change
from rivelt.workspace.commit import commit, undo
from rivelt.workspace.lockfile import LOCK_NAME, Lock, LockedFile, _as_written, read_lock
from rivelt.workspace.notes import FOLDER
from rivelt.workspace.record import Put, Record, records_of, taken_back

# What a lock file may name: a path in the project.
names = st.text(st.characters(blacklist_categories=("Cs", "Cc")), min_size=1, max_size=20).filter(
    lambda name: not name.startswith("/") and ".." not in name.split("/") and not in_tool_folder(name)
)
# What it may name as edited: no hidden file, no script.
edited = names.map(lambda name: f"{name}.xml").filter(
    lambda name: not any(part.startswith(".") for part in name.split("/"))
)
digests = st.text("0123456789abcdef", min_size=64, max_size=64)


owners = st.builds(Owner, names, st.just("") | names, names)
texts = st.text(st.characters(exclude_categories=["Cs"]), max_size=900)
puts = texts.map(Put.of)


@given(
    st.dictionaries(
        owners,
        st.dictionaries(
            names, st.builds(LockedFile, digests, st.none() | digests, st.booleans()), min_size=1, max_size=4
        ),
        max_size=4,
    ),
    st.dictionaries(owners, st.dictionaries(names, digests, min_size=1, max_size=3), max_size=3),
    st.dictionaries(
        owners, st.lists(st.builds(Record, edited, texts, puts, texts, texts), min_size=1, max_size=3), max_size=3
    ),
)
def test_a_lock_file_says_what_it_was_told(
    files: dict[Owner, dict[str, LockedFile]],
    inputs: dict[Owner, dict[str, str]],
    edits: dict[Owner, list[Record]],
) -> None:
    lock = Lock(files, inputs, edits)
    read = read_lock(lock.text().encode())
    assert (read.files, read.inputs) == (files, inputs)
    assert {owner: sorted(its, key=repr) for owner, its in read.edits.items()} == {
        owner: sorted(its, key=repr) for owner, its in edits.items()
    }
    text = lock.text()
    assert _as_written(text.encode()) == read_toml(text.encode(), LOCK_NAME)
    again = Lock(*(dict(reversed(part.items())) for part in (files, inputs, edits)))  # type: ignore[arg-type]
    assert again.text() == lock.text() == read.text()  # the order of work leaves no trace


LOCK = Lock(
    {Owner("rivelt.toml", "", "web a"): {"a/b.png": LockedFile("0" * 64, "1" * 64, is_fallback=True)}},
    edits={Owner("rivelt.toml", "x", "ios b"): [Record("a.plist", "é\t\x7f\n", Put.of('"\\'))]},
)


@given(st.data())
def test_a_lock_file_that_is_read_by_its_layout_says_what_it_says_as_toml(data: st.DataObject) -> None:
    text = LOCK.text()
    for _ in range(data.draw(st.integers(1, 3))):
        at = data.draw(st.integers(0, len(text)))
        put = data.draw(
            st.sampled_from(["", "#", '"', "\\", "\n", "\r", "},", ", site = 1", "\x00", "0", "'", "]", "=", "\\u0041"])
        )
        text = text[:at] + put + text[at + data.draw(st.integers(0, 2)) :]
    found = _as_written(text.encode())
    assert found is None or found == read_toml(text.encode(), LOCK_NAME)


@given(st.lists(st.sampled_from(["};", "a = 1", "<x/>", "", "name"]), max_size=30), st.data())
def test_what_was_edited_is_taken_back_to_the_byte(lines: list[str], data: st.DataObject) -> None:
    before = "\n".join(lines)
    after = before
    for _ in range(data.draw(st.integers(1, 4))):
        at = data.draw(st.integers(0, len(after)))
        end = data.draw(st.integers(at, min(len(after), at + 12)))
        after = after[:at] + data.draw(st.sampled_from(["rivelt", "\n  rivelt()\n", "", "x"])) + after[end:]
    records = records_of("a.txt", before.encode(), after.encode())
    assert taken_back(after.encode(), records) == (before.encode(), ())


def test_an_edit_is_found_again_where_a_person_has_moved_it() -> None:
    before = b"dependencies {\n    implementation(a)\n}\n"
    after = b"dependencies {\n    implementation(a)\n    implementation(rivelt)\n}\n"
    records = records_of("build.gradle", before, after)
    later = b"// new\ndependencies {\n    implementation(rivelt)\n    implementation(b)\n    implementation(a)\n}\n"
    wanted = b"// new\ndependencies {\n    implementation(b)\n    implementation(a)\n}\n"
    assert taken_back(later, records) == (wanted, ())
    changed = after.replace(b"rivelt", b"theirs")
    assert taken_back(changed, records) == (changed, records)


def test_a_property_list_without_text_is_taken_back_whole() -> None:
    before, after = b"bplist00\xff\x00", b"bplist00\xff\x01"
    records = records_of("Info.plist", before, after)
    assert taken_back(after, records) == (before, ())
    assert taken_back(before, records) == (before, records)


@pytest.mark.parametrize(
    "text",
    ["", "format = 1", "format = 9\n[files]\n", 'format = 1\n[files]\na = "b"\n', "\x00", 'format = "x"\n[files]\n'],
)
def test_a_damaged_lock_file_is_told(text: str) -> None:
    with pytest.raises(BadInput):
        read_lock(text.encode())


CHANGES = [Change("a.txt", b"old", b"new"), Change("made/deep/b.txt", None, b"b"), Change("gone.txt", b"x", None)]


def tree(root: Path) -> Path:
    return write_tree(root, {"a.txt": "old", "gone.txt": "x", "other.txt": "o"})


def test_commit_and_undo_are_inverse(tmp_path: Path) -> None:
    root = tree(tmp_path)
    before = read_tree(root)
    commit(root, CHANGES)
    after = {path: content for path, content in read_tree(root).items() if not path.startswith(FOLDER)}
    assert after == {"a.txt": b"new", "made/deep/b.txt": b"b", "other.txt": b"o"}
    assert (root / FOLDER / ".gitignore").read_text() == "*\n"  # the journal ignores itself
    assert sorted(undo(root)) == ["a.txt", "gone.txt", "made/deep/b.txt"]
    assert read_tree(root) == before
    assert not (root / "made").exists()
    with pytest.raises(BadInput, match="no apply to take back"):
        undo(root)


def test_nothing_to_do_leaves_no_trace(tmp_path: Path) -> None:
    commit(tree(tmp_path), [])
    assert not (tmp_path / FOLDER).exists()


def test_a_folder_that_somebody_has_put_something_in_stays(tmp_path: Path) -> None:
    root = tree(tmp_path)
    commit(root, CHANGES)
    (root / "made/mine.txt").write_text("keep")
    undo(root)
    assert (root / "made/mine.txt").read_text() == "keep"
    assert not (root / "made/deep").exists()


@pytest.mark.parametrize(
    ("change", "error"),
    [
        (Change("../out.txt", None, b"x"), BadInput),
        (Change(".git/hooks/x", None, b"x"), BadInput),
        (Change("a/.GIT/x", None, b"x"), BadInput),
        (Change("OTHER.txt", None, b"x"), Refused),
        (Change("New/B.txt", None, b"x"), Refused),
        (Change("folder", None, b"x"), BadInput),
        (Change("link/out.txt", None, b"x"), BadInput),
        (Change("broken", None, b"x"), BadInput),
        (Change("a.txt", b"something else", b"x"), Refused),
        (Change("a.txt", None, b"x"), Refused),
        (Change("lost.txt", b"x", b"y"), Refused),
    ],
)
def test_commit_refuses_what_it_must_not_touch(tmp_path: Path, change: Change, error: type[Exception]) -> None:
    outside = tmp_path / "outside"
    outside.mkdir()
    root = tree(tmp_path / "root")
    (root / "folder").mkdir()
    (root / "link").symlink_to(outside)
    (root / "broken").symlink_to(root / "nowhere")
    before = read_tree(tmp_path)
    with pytest.raises(error):
        commit(root, [Change("other.txt", b"o", b"changed"), Change("new/b.txt", None, b""), change])
    assert read_tree(tmp_path) == before


@pytest.mark.parametrize("damage", ["backup", "journal"])
def test_a_damaged_journal_is_told_and_touches_nothing(tmp_path: Path, damage: str) -> None:
    root = tree(tmp_path)
    commit(root, CHANGES)
    folder = root / FOLDER / "0001"
    (folder / ("old/0000" if damage == "backup" else "applied.json")).write_bytes(b"{")
    before = read_tree(root)
    with pytest.raises(Refused if damage == "backup" else BadInput, match="damaged"):
        undo(root)
    assert read_tree(root) == before


@pytest.mark.parametrize(
    ("change", "lines"),
    [
        (Change("a", b"1\n2\n", b"1\n3\n"), ["--- a/a", "+++ b/a", "@@ -1,2 +1,2 @@", " 1", "-2", "+3"]),
        (Change("a", None, b"1"), ["--- /dev/null", "+++ b/a", "@@ -0,0 +1 @@", "+1", "\\ No newline at end of file"]),
        (Change("a", b"1\r\n", None), ["--- a/a", "+++ /dev/null", "@@ -1 +0,0 @@", "-1"]),
        (Change("a.png", None, b"\x89PNG"), ["create a.png (4 bytes, not text)"]),
    ],
)
def test_differences_read_like_a_diff(change: Change, lines: list[str]) -> None:
    assert change.diff().splitlines() == lines


def test_a_snapshot_sees_the_project_and_nothing_else(tmp_path: Path) -> None:
    root = write_tree(
        tmp_path / "root",
        {
            "app/a.xml": "1",
            "app/build/b.xml": "",
            "node_modules/c.xml": "",
            ".git/d": "",
            "é und ü/e.xml": "2",
            "ios/Pods/f": "",
        },
    )
    outside = write_tree(tmp_path / "outside", {"secret.xml": "s"})
    (root / "app/link.xml").symlink_to(outside / "secret.xml")
    (root / "app/inside.xml").symlink_to(root / "app/a.xml")
    snapshot = snapshot_of(root)
    assert snapshot.paths == ["app/a.xml", "app/inside.xml", "é und ü/e.xml"]
    assert snapshot.find("*.xml") == snapshot.paths
    assert snapshot.below("app") == ["app/a.xml", "app/inside.xml"]
    assert snapshot.read("app/a.xml") == b"1"
    (root / "app/a.xml").write_text("changed")
    assert snapshot.read("app/a.xml") == b"1"  # everything worked out from it saw the same bytes
    assert "lost" not in snapshot
    with pytest.raises(BadInput, match="not a folder"):
        snapshot_of(root / "lost")


def test_an_overlay_is_looked_at_only_when_it_is_asked_for() -> None:
    asked: list[str] = []

    def late() -> bytes:
        asked.append("late")
        return b"new"

    base = Snapshot({"a": b"old", "b": b"b"})
    over = base.overlay({"a": late, "c": b"c"})
    assert over.paths == ["a", "b", "c"]
    assert not asked
    assert (over.read("a"), over.read("a"), base.read("a")) == (b"new", b"new", b"old")
    assert asked == ["late"]


@pytest.mark.parametrize(
    ("parts", "joined"),
    [
        (("a", "b"), "a/b"),
        (("", "b"), "b"),
        (("a/b", "..", "c"), "a/c"),
        (("a", "."), "a"),
        ((".",), ""),
        (("a", "../.."), ".."),
    ],
)
def test_paths_are_joined(parts: tuple[str, ...], joined: str) -> None:
    assert join(*parts) == joined
    assert parent("a/b/c") == "a/b"
    assert parent("a") == ""


def test_errors_are_told_one_by_one() -> None:
    raise_all([])
    one, two = BadInput("one", place=Place("f", 1, 2)), BadInput("two")
    with pytest.raises(BadInput, match=r"^one$"):
        raise_all([one])
    with pytest.raises(Problems) as caught:
        raise_all([one, Problems((two,))])
    assert caught.value.parts == (one, two)
    assert str(one.place) == "f:1:2"
    assert two.at(Place("g")).place == Place("g")
    assert one.at(Place("g")).place == Place("f", 1, 2)


def test_reading_what_cannot_be_read_is_told_with_its_place(tmp_path: Path) -> None:
    root = write_tree(tmp_path, {"a.xml": ""})
    snapshot = snapshot_of(root)
    (root / "a.xml").unlink()
    with pytest.raises(BadInput, match="cannot be read") as caught:
        snapshot.read("a.xml")
    assert caught.value.place == Place("a.xml")
    assert os.listdir(root) == []  # noqa: PTH208
