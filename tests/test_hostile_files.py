"""A file system corrupt on purpose: links, pipes, loops, odd names, things in each other's place. Nothing hangs, nothing is written elsewhere,
nothing is lost, and the next command knows what to do."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from conftest import BRIEF, Command, read_tree, small_android, write_tree
from test_apple_projects import FILES
from test_web import MANIFEST as WEB_MANIFEST
from test_web import PAGE

RES = "app/src/main/res"
SHORT = BRIEF + '[web]\nscreens = ["iPhone 15"]\n'
UPLOADS = '[uploads]\nsizes = ["300x600"]\n'
SECRET = "written by nobody but its owner"


@contextmanager
def within(seconds: int) -> Iterator[None]:
    """A command that waits for a pipe is ended, and the test fails."""

    def late(*_: object) -> None:
        raise AssertionError("it hangs")

    before = signal.signal(signal.SIGALRM, late)
    signal.alarm(seconds)
    try:
        yield
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def pipe(path: str) -> Callable[[Path, Path], None]:
    def corrupt(root: Path, _outside: Path) -> None:
        clear(root / path)
        os.mkfifo(root / path)

    return corrupt


def link(path: str, target: str) -> Callable[[Path, Path], None]:
    """A link; "outside" in its target is the folder outside."""

    def corrupt(root: Path, outside: Path) -> None:
        clear(root / path)
        (root / path).symlink_to(target.replace("outside", str(outside)))

    return corrupt


def file(path: str, content: str | bytes = b"\x00 a person's own") -> Callable[[Path, Path], None]:
    def corrupt(root: Path, _outside: Path) -> None:
        clear(root / path)
        write_tree(root, {path: content})

    return corrupt


def folder(path: str) -> Callable[[Path, Path], None]:
    def corrupt(root: Path, _outside: Path) -> None:
        clear(root / path)
        (root / path).mkdir()
        (root / path / "mine.txt").write_text("mine")

    return corrupt


def brief(more: str) -> Callable[[Path, Path], None]:
    return file("rivelt.toml", SHORT + more)


def clear(path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    if path.is_symlink() or path.is_file():
        path.unlink()
    elif path.is_dir():
        shutil.rmtree(path)


def shared(root: Path, _outside: Path) -> None:
    """The resources are a link to a folder that the project shares."""
    shutil.copytree(root / RES, root / "shared/res")
    clear(root / RES)
    (root / RES).symlink_to("../../../shared/res")


def maze(root: Path, _outside: Path) -> None:
    """A dozen folders, each with links to all others: more paths than can be walked."""
    for number in range(12):
        write_tree(root, {f"maze/{number}/x.txt": ""})
        for other in range(12):
            (root / f"maze/{number}/to{other}").symlink_to(f"../{other}")


# What is done to the file system, and the exit codes that apply may have.
CORRUPT: dict[str, tuple[Callable[[Path, Path], None], set[int]]] = {
    "a pipe among the resources": (pipe(f"{RES}/values/x.xml"), {1}),
    "a pipe as the manifest": (pipe("app/src/main/AndroidManifest.xml"), {1}),
    "a pipe as the lock file": (pipe("rivelt.lock"), {2}),
    "a pipe as art": (pipe("mark.svg"), {2}),
    "a pipe as a plate": (pipe(f"{RES}/drawable-mdpi/rivelt_mark.png"), {1, 2}),
    "a pipe as the brief": (pipe("rivelt.toml"), {2}),
    "a link to itself as the brief": (link("rivelt.toml", "rivelt.toml"), {2}),
    "a link to itself as art": (link("mark.svg", "mark.svg"), {2}),
    "art with a zero in its name": (file("rivelt.toml", BRIEF.replace("mark.svg", "a\\u0000b.svg")), {2}),
    "art of a name without end": (file("rivelt.toml", BRIEF.replace("mark", "m" * 5000)), {2}),
    "a pipe as a page": (pipe("web/index.html"), {1}),
    "a pipe for the journals": (pipe(".rivelt"), {2}),
    "a link as the folder of the journals": (link(".rivelt", "outside"), {2}),
    "a link as the lock file": (link("rivelt.lock", "outside/secret"), {2}),
    "a link as a plate": (link(f"{RES}/drawable-mdpi/rivelt_mark.png", "outside/secret"), {1, 2}),
    "a link as the folder of plates": (link("web/rivelt", "outside"), {1, 2}),
    "a link to itself": (link(f"{RES}/values/x.xml", "x.xml"), {1}),
    "a link to itself as the manifest": (link("app/src/main/AndroidManifest.xml", "AndroidManifest.xml"), {1}),
    "a link to a folder above": (link("app/src/main/all", "../../.."), {0}),
    "a maze of links": (maze, {0}),
    "a broken link as a plate": (link(f"{RES}/drawable-mdpi/rivelt_mark.png", "nowhere.png"), {2}),
    "resources that are shared": (shared, {0}),
    "a file as the folder of plates": (file("web/rivelt"), {1}),
    "a file as the folder of uploads": (lambda *at: (brief(UPLOADS)(*at), file("uploads")(*at))[-1], {1}),
    "uploads into a file": (brief(UPLOADS + 'out = "mark.svg"\n'), {1}),
    "uploads as a file in a file": (brief(UPLOADS + 'out = "mark.svg/u.zip"\n'), {1}),
    "a folder as a plate": (folder(f"{RES}/drawable-mdpi/rivelt_mark.png"), {1}),
    "a folder as the lock file": (folder("rivelt.lock"), {2}),
    "a file as the folder of the journals": (file(".rivelt"), {2}),
    "uploads into build": (brief(UPLOADS + 'out = "build/u"\n'), {0}),
    "uploads into node_modules": (brief(UPLOADS + 'out = "node_modules/u"\n'), {0}),
    "uploads as an archive in Pods": (brief(UPLOADS + 'out = "Pods/u.zip"\n'), {0}),
    "uploads into git's folder": (brief(UPLOADS + 'out = ".git/hooks"\n'), {1}),
    "uploads into git's folder, spelt oddly": (brief(UPLOADS + 'out = "a/.GIT. /hooks"\n'), {1}),
    "uploads among the journals": (brief(UPLOADS + 'out = ".rivelt/u"\n'), {1}),
    "uploads into a device": (brief(UPLOADS + 'out = "con"\n'), {0}),
    "uploads into a device with an ending": (brief(UPLOADS + 'out = "aux.png"\n'), {0}),
    "uploads with trailing dots and blanks": (brief(UPLOADS + 'out = "u. /v .."\n'), {0}),
    "uploads with a zero in them": (brief(UPLOADS + 'out = "u\\u0000v"\n'), {0}),
    "uploads of a name without end": (brief(UPLOADS + f'out = "{"u" * 5000}"\n'), {0}),
    "uploads that differ in case alone": (
        lambda *at: (brief(UPLOADS + 'out = "UPLOADS"\n')(*at), file("uploads/a.txt")(*at))[-1],
        {3},
    ),
    "a person's own file called like one that is staged": (file(f"{RES}/values/rivelt_launch.xml.rivelt-new"), {0}),
}


def sample(tmp_path: Path) -> tuple[Path, Path]:
    """A project, beside it a folder that is none of Rivelt's business."""
    outside = write_tree(tmp_path / "outside", {"secret": SECRET, "0001/applied.json": "{}"})
    web = {"web/m.webmanifest": WEB_MANIFEST, "web/index.html": PAGE.format("m.webmanifest")}
    return write_tree(tmp_path / "tern", {**small_android(brief=SHORT), **web}), outside


def state(root: Path) -> dict[str, object]:
    """All that is in a tree, links and pipes too, but not the journals."""
    found: dict[str, object] = {}
    for path in sorted(root.rglob("*")):
        name = path.relative_to(root).as_posix()
        if not name.startswith(".rivelt/") and name != ".rivelt":
            found[name] = str(path.readlink()) if path.is_symlink() else path.read_bytes() if path.is_file() else "-"
    return found


LOOKS = (
    ("survey", "--json"),
    ("check",),
    ("proof", "--screens", "API 34", "--out", "../p.png"),
    ("apply", "--dry-run"),
)


QUICK = (LOOKS[0], LOOKS[-1])


@pytest.mark.parametrize("looks", [QUICK, pytest.param(LOOKS, marks=pytest.mark.slow)], ids=["quick", "all"])
@pytest.mark.parametrize("what", CORRUPT)
def test_a_spoilt_file_system_is_survived(
    tmp_path: Path, rivelt: Command, what: str, looks: tuple[tuple[str, ...], ...]
) -> None:
    root, outside = sample(tmp_path)
    corrupt, codes = CORRUPT[what]
    corrupt(root, outside)
    before, foreign = state(root), read_tree(outside)
    with within(60):
        looked = [rivelt(*command, cwd=root) for command in looks]
        assert all(one.code in {0, 1, 2, 3} for one in looked), [one.err for one in looked]
        dry = looked[-1].code
        assert state(root) == before
        done = rivelt("apply", cwd=root)
        assert done.code in codes, done.err + done.out
        assert dry in {1, done.code}, "a rehearsal says what apply will"
        if done.code in {2, 3}:
            assert state(root) == before
        else:
            again = rivelt("apply", cwd=root)
            assert (again.code, "Nothing to do" in again.out) == (done.code, True)
            assert rivelt("undo", cwd=root).code == 0
            assert state(root) == before
    assert read_tree(outside) == foreign


def test_links_inside_the_project_are_followed(tmp_path: Path, rivelt: Command) -> None:
    root, outside = sample(tmp_path)
    shared(root, outside)
    assert rivelt("apply", cwd=root).code == 0
    assert (root / "shared/res/values/rivelt_launch.xml").is_file()
    assert (root / RES).is_symlink()
    unknown = rivelt("check", cwd=root)
    assert (unknown.code, "no findings" in unknown.out, "unknown AND12" in unknown.out) == (1, True, True)
    assert [site["site"] for site in rivelt("survey", "--json", cwd=root).json["sites"]] == ["app", "web/m.webmanifest"]


def test_links_that_lead_out_are_reported(tmp_path: Path, rivelt: Command) -> None:
    root, outside = sample(tmp_path)
    (root / "docs").symlink_to(outside)
    (root / RES / "raw").symlink_to(outside)
    done = rivelt("survey", "--json", cwd=root)
    reason = "a link that leads out of the project"
    assert done.json["unread"] == [{"path": path, "reason": reason} for path in (f"{RES}/raw", "docs")]
    assert done.json["sites"][0]["blocked"]["message"] == reason
    assert rivelt("apply", "--only", "android", cwd=root).code == 2
    assert rivelt("apply", "--only", "web", cwd=root).code == 0


@pytest.mark.parametrize(
    "command",
    [
        ("proof", "--now", "--screens", "API 34"),
        ("proof", "--now", "--screens", "API 34", "--out", "deep/er/proof.png"),
        ("plates",),
        ("plates", "--out", "p.zip"),
        ("measure", "--out", "chart.png"),
        ("brief", "--mark", "mark.svg", "--out", "other.toml"),
        ("demo", "skerryline-demo"),
    ],
)
@pytest.mark.parametrize("is_folder", [False, True])
def test_output_is_written_through_no_link(
    tmp_path: Path, rivelt: Command, command: tuple[str, ...], *, is_folder: bool
) -> None:
    root, outside = sample(tmp_path)
    out = root / {"proof": command[-1] if "--out" in command else "proof.png", "plates": "plates"}.get(
        command[0], command[-1]
    )
    out = root / "p.zip" if "p.zip" in command else out
    if is_folder and out.parent != root:
        out = root / "deep"
    out.parent.mkdir(parents=True, exist_ok=True)
    out.symlink_to(outside if is_folder else outside / "secret")
    foreign = read_tree(outside)
    done = rivelt(*command, cwd=root)
    assert done.code in {2, 3}, done.out
    assert read_tree(outside) == foreign
    assert out.is_symlink()


NAMES = {
    "an escape": b"a\x1b[31mb",
    "a line and a command": b"a\n::add-mask::x",
    "a command": b"::add-mask::x",
    "turned text": "a\u202eb".encode(),
    "not UTF-8": b"a\xffb",
    "a control of the second kind": "a\u009b31mb".encode(),
}


@pytest.mark.parametrize("where", ["a module", "the project", "a file"])
@pytest.mark.parametrize("name", NAMES)
def test_odd_names_are_shown_and_not_obeyed(tmp_path: Path, rivelt: Command, name: str, where: str) -> None:
    odd = os.fsdecode(NAMES[name])
    home = tmp_path / odd if where == "the project" else tmp_path / "tern"
    root = write_tree(home, small_android())
    if where == "a module":
        (root / "app").rename(root / odd)
    if where == "a file":
        (root / RES / "drawable").mkdir(parents=True)
        (root / RES / "drawable" / f"{odd}.png").write_bytes(b"")
    commands: tuple[tuple[object, ...], ...] = (("survey",), ("survey", "--json"), ("check",), ("apply", "--json"))
    if where == "a module":
        commands += tuple(
            ("check", "--format", form) for form in ("sarif", "junit", "annotations", "compiler", "markdown")
        )
        commands += (("apply", "--diff"), ("proof", "--now", "--screens", "API 34", "--out", tmp_path / "p.html"))
    for command in commands:
        done = rivelt(*command, cwd=root)
        assert done.code in {0, 1, 2}, done.err
        for text in (done.out, done.err):
            assert not any(letter in text for letter in "\x1b\u009b\u202e")
            obeyed = [line for line in text.splitlines() if line.lstrip().startswith("::")]
            ours = ("::error ", "::warning ", "::notice ", "::group::rivelt: ", "::endgroup::")
            assert all(line.startswith(ours) for line in obeyed)
        if "--json" in command:
            json.loads(done.out)


def test_foreign_text_is_shown_and_not_obeyed(tmp_path: Path, process: Command) -> None:
    background = '"background_color": "\\u001b[31mred\\n::add-mask::x ##[add-mask]y"'
    manifest = WEB_MANIFEST.replace('"display"', f'{background},\n  "display"')
    root = write_tree(tmp_path / "tern", {"m.webmanifest": manifest, "index.html": PAGE.format("m.webmanifest")})
    out = process("survey", cwd=root).out
    assert "\\x1b[31mred" in out
    assert "\\x3a:add-mask::x \\x23#[add-mask]y" in out
    assert "\x1b" not in out
    assert json.loads(process("survey", "--json", cwd=root).out)["sites"][0]["facts"]["background_color"].startswith(
        "\x1b"
    )


@contextmanager
def without_privileges() -> Iterator[None]:
    """Within it this process is a user who may not read everything."""
    if os.geteuid() != 0:
        yield
        return
    os.seteuid(65534)
    try:
        yield
    finally:
        os.seteuid(0)


@pytest.fixture
def everybodys() -> Iterator[Path]:
    """A project that belongs to the user of `unprivileged`, in a folder that everybody may enter."""
    home = Path(tempfile.mkdtemp())
    home.chmod(0o755)
    write_tree(home, small_android(gradle=COMPAT))
    write_tree(home, {"app/src/main/java/example/tern/Main.kt": ACTIVITY})
    for path in (home, *home.rglob("*")):
        if os.geteuid() == 0:
            os.chown(path, 65534, 65534)
    yield home
    for path in home.rglob("*"):
        path.chmod(0o755)
    shutil.rmtree(home)


COMPAT = (
    'plugins { id "com.android.application" }\nandroid {\n    compileSdk 34\n    defaultConfig { minSdk 24 }\n}\n'
    'dependencies {\n    implementation "androidx.appcompat:appcompat:1.6.1"\n}\n'
)
ACTIVITY = "package example.tern\n\nclass Main : AppCompatActivity() {\n}\n"


@pytest.mark.parametrize(
    "path", ["app/src/main/java", RES, f"{RES}/values", "app/src/main/AndroidManifest.xml", f"{RES}/values/styles.xml"]
)
def test_what_cannot_be_read_is_unknown_and_never_absent(everybodys: Path, rivelt: Command, path: str) -> None:
    whole = rivelt("survey", "--json", cwd=everybodys).json
    assert whole["sites"][0]["facts"]["way"].startswith("compat")
    assert rivelt("check", "--planned", cwd=everybodys).code in {0, 1}
    (everybodys / path).chmod(0)
    before = {name: (everybodys / name).stat().st_mtime_ns for name in ("app/build.gradle", "rivelt.toml")}
    with without_privileges():
        survey = rivelt("survey", "--json", cwd=everybodys).json
        applied = rivelt("apply", cwd=everybodys)
        checked = rivelt("check", "--json", cwd=everybodys).json
    assert survey["unread"] == [{"path": path, "reason": "Permission denied"}]
    assert "cannot be read" in survey["sites"][0]["blocked"]["message"]
    assert (applied.code, "Permission denied" in applied.err, path in applied.err) == (2, True, True)
    assert checked["summary"]["unknown"] > 20
    assert before == {name: (everybodys / name).stat().st_mtime_ns for name in before}
    assert not (everybodys / "rivelt.lock").exists()


# What comes with a repository: lock files and journals


def forged(root: Path, *entries: dict[str, str | None], state: str = "applied", **more: object) -> None:
    record = {"format": 2, "entries": list(entries), "made_folders": [], "signature": "0" * 64, **more}
    write_tree(root, {f".rivelt/0001/{state}.json": json.dumps(record)})


def entry(path: str, before: bytes | None, after: bytes | None) -> dict[str, str | None]:
    digests = [None if content is None else hashlib.sha256(content).hexdigest() for content in (before, after)]
    return {"path": path, "before": digests[0], "after": digests[1]}


@pytest.mark.parametrize("state", ["applied", "applying", "undoing"])
def test_a_journal_of_a_stranger_deletes_and_writes_nothing_unasked(
    tmp_path: Path, rivelt: Command, state: str
) -> None:
    root = write_tree(tmp_path / "tern", {**small_android(), "main.c": "int main;", "kept.c": "new"})
    forged(root, entry("main.c", None, b"int main;"), entry("kept.c", b"old", b"new"), state=state)
    write_tree(root, {".rivelt/0001/old/0001": "old"})
    before = read_tree(root)
    refused = rivelt("undo", cwd=root)
    assert (refused.code, "was not written on this machine" in refused.err) == (3, True)
    assert read_tree(root) == before
    assert rivelt("undo", "--force", cwd=root).code == 0
    assert not (root / "main.c").exists()
    assert (root / "kept.c").read_text() == "old"


@pytest.mark.parametrize(
    "path",
    [
        ".git/hooks/post-checkout",
        "a/.GIT/config",
        ".rivelt/0002/x",
        "../x",
        "/etc/x",
        "x\n",
        "git~1/config",
        ".g\u200dit/x",
    ],
)
def test_a_journal_names_no_folder_of_a_tool(tmp_path: Path, rivelt: Command, path: str) -> None:
    root = write_tree(tmp_path / "tern", {**small_android(), ".git/hooks/keep": ""})
    forged(root, entry(path, b"x", None))
    write_tree(root, {".rivelt/0001/old/0000": "x"})
    before = read_tree(tmp_path)
    for command in (("undo",), ("undo", "--force"), ("apply",), ("undo", "--list")):
        assert rivelt(*command, cwd=root).code == 2
    assert read_tree(tmp_path) == before


@pytest.mark.parametrize(
    "content",
    [
        b"",
        b"{",
        b"[]",
        b"null",
        b'{"format": 3}',
        b'{"format": 1}',
        b'{"format": 2, "entries": [{"path": 7}], "made_folders": []}',
        b"[" * 100_000,
    ],
)
def test_a_journal_that_is_none_is_told(tmp_path: Path, rivelt: Command, content: bytes) -> None:
    root = write_tree(tmp_path / "tern", {**small_android(), ".rivelt/0001/applied.json": content})
    for command in (("undo",), ("undo", "--force"), ("apply",), ("check",)):
        done = rivelt(*command, cwd=root)
        assert (done.code, "the journal in .rivelt/0001 is" in done.err) == (2, True), done.err


def test_a_set_id_bit_is_never_given(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    manifest = root / "app/src/main/AndroidManifest.xml"
    manifest.chmod(0o6755)
    assert rivelt("apply", cwd=root).code == 0
    assert manifest.stat().st_mode & 0o7777 == 0o755


def locked(root: Path, files: dict[str, bytes]) -> None:
    lines = [
        f'"{path}" = {{site = "android app", sha256 = "{hashlib.sha256(data).hexdigest()}"}}'
        for path, data in files.items()
    ]
    write_tree(root, {**files, "rivelt.lock": "\n".join(["format = 1", "[files]", *lines, ""])})


OURS = b"<!-- Made by rivelt from rivelt.toml. -->\n<resources/>\n"


def test_a_lock_file_of_a_stranger_deletes_nothing_unasked(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    files = {
        "main.c": b"int main;",
        "app/src/main/res/values/colors.xml": OURS,
        f"{RES}/drawable/rivelt_old.xml": b"<x/>",
    }
    locked(root, {**files, f"{RES}/values-v19/rivelt_launch.xml": OURS})
    forged(root, *(entry(path, None, content) for path, content in files.items()))
    write_tree(root, {".rivelt/.gitignore": "*\n"})
    before = read_tree(root)
    for command in (("apply",), ("apply", "--dry-run")):
        refused = rivelt(*command, cwd=root)
        assert (refused.code, "names files that nothing shows Rivelt to have made" in refused.err) == (3, True)
        assert all(path in refused.err for path in files)
        assert "values-v19" not in refused.err
        assert read_tree(root) == before
    assert rivelt("apply", "--force", cwd=root).code == 0
    assert not any((root / path).exists() for path in files)
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_what_no_source_that_can_be_read_names_is_not_called_unused(everybodys: Path, rivelt: Command) -> None:
    write_tree(everybodys, {f"{RES}/drawable/splash_old.png": b"", "tools/notes.js": "// other"})
    facts = rivelt("survey", "--json", cwd=everybodys).json["sites"][0]["facts"]
    assert facts["launch images nothing uses"] == f"{RES}/drawable/splash_old.png"
    (everybodys / "tools/notes.js").chmod(0)
    with without_privileges():
        facts = rivelt("survey", "--json", cwd=everybodys).json["sites"][0]["facts"]
    assert "launch images nothing uses" not in facts


def test_what_was_made_here_goes_without_being_asked_for(tmp_path: Path, rivelt: Command) -> None:
    """The journal of this machine knows what nothing in the file shows: here a prefix that the brief does not have any more."""
    root = write_tree(tmp_path / "tern", small_android(brief=BRIEF + '[android]\nprefix = "gull_"\n'))
    assert rivelt("apply", cwd=root).code == 0
    clone = shutil.copytree(root, tmp_path / "clone", ignore=shutil.ignore_patterns(".rivelt"))
    for home, code in ((root, 0), (clone, 3)):
        (home / "rivelt.toml").write_text(BRIEF)
        done = rivelt("apply", cwd=home)
        assert done.code == code, done.err
        assert (home / RES / "drawable-mdpi/gull_mark.png").exists() == (code == 3)


@pytest.mark.parametrize("path", [".git/hooks/x", "../x", "/x", "a\x1bb"])
def test_a_lock_file_names_no_folder_of_a_tool(tmp_path: Path, rivelt: Command, path: str) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    locked(root, {})
    entry = json.dumps(path) + f' = {{site = "android app", sha256 = "{"0" * 64}"}}\n'
    (root / "rivelt.lock").write_text((root / "rivelt.lock").read_text() + entry)
    done = rivelt("apply", cwd=root)
    assert (done.code, "the lock file names what Rivelt never writes to" in done.err) == (2, True)
    assert "\x1b" not in done.err


# Size


def memory_of(command: list[str], cwd: Path) -> tuple[int, float, int]:
    """Run a command; its exit code, its processor time in seconds, and the most memory that it held, in MB."""
    script = (
        "import resource, subprocess, sys\n"
        "code = subprocess.run([sys.executable, '-m', 'rivelt', *sys.argv[1:]], stdout=subprocess.DEVNULL).returncode\n"
        "used = resource.getrusage(resource.RUSAGE_CHILDREN)\n"
        "print(code, used.ru_utime + used.ru_stime, used.ru_maxrss // 1024)"
    )
    done = subprocess.run(
        [sys.executable, "-c", script, *command], cwd=cwd, capture_output=True, text=True, timeout=300
    )
    code, seconds, size = done.stdout.split()
    return int(code), float(seconds), int(size)


@pytest.mark.slow
def test_what_is_far_too_large_is_not_read(tmp_path: Path) -> None:
    root = write_tree(tmp_path / "tern", {**FILES, **small_android(), "web/m.webmanifest": WEB_MANIFEST})
    _, _, usual = memory_of(["survey"], root)
    with (root / "web/index.html").open("wb") as page:
        page.truncate(2_000_000_000)
    item = "<key>K{}</key><string>v</string>"
    text = "<plist><dict>" + "".join(map(item.format, range(1_500_000))) + "</dict></plist>"
    write_tree(root, {"App/Info.plist": text})
    assert (root / "App/Info.plist").stat().st_size > 54_000_000
    for command in (["survey"], ["check"], ["apply"]):
        code, _, held = memory_of(command, root)
        assert code in {0, 1, 2}
        assert held < usual + 200
    seconds = []
    for size in (5_000_000, 13_000_000):  # what is read at all is read in time that grows with its size, and no faster
        write_tree(root, {"App/Info.plist": text[:size].rpartition("<key>")[0] + "</dict></plist>"})
        code, taken, held = memory_of(["survey"], root)
        assert (code, held < 1000) == (1, True)
        seconds.append(taken)
    assert seconds[1] < 2 * 13 / 5 * seconds[0]
