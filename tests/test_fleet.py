"""Fleets through the real command: each brand as it is by itself, here and on a cluster; and tables, runs and patches that go wrong."""

from __future__ import annotations

import hashlib
import io
import json
import os
import pickle
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import pandas as pd
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from chromium import browser, open_page
from conftest import Command, read_tree, small_android, write_tree
from repository import commit, git, repository
from rivelt.art.files import ArtFiles
from rivelt.brief.model import Brief
from rivelt.fleet.brands import BaseBrief, brands_of
from rivelt.fleet.make import KINDS, Order, make
from rivelt.fleet.pool import Pool
from rivelt.fleet.stock import Stock, carried
from rivelt.fleet.store import Shelf
from rivelt.fleet.table import read_table
from rivelt.project.files import Files
from rivelt.workspace.change import Change
from rivelt.workspace.lockfile import LOCK_NAME, read_lock
from rivelt.workspace.patch import git_patch
from test_editions import FLAVOURS, flavoured

ROWS: list[dict[str, Any]] = [
    {"name": "Tern", "light.ground": "#F3EBDD", "light.mark": "art/Tern.svg", "layout.clearance": 0.1},
    {"name": "Gull", "light.ground": "#DDEBF3", "light.mark": "art/Gull.svg", "dark.ground": "#101820"},
    {"name": "Skua", "light.ground": "#FFFFFF", "light.mark": "art/Skua.svg"},
]
BASE = '[app]\nname = "$name line"\ntargets = ["android"]\n\n[light]\nmark = "art/$name.svg"\n'
QUICK = ("--make", "plates", "--jobs", "1")


def drawing(ink: str, wide: int) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><path fill="{ink}" d="M10 20H{wide}V80H10Z"/></svg>'


ART = {
    "art/Tern.svg": drawing("#1F6E7D", 90),
    "art/Gull.svg": drawing("#7D1F2A", 70),
    "art/Skua.svg": drawing("#223344", 50),
}


def as_csv(rows: list[dict[str, Any]], separator: str = ",") -> str:
    return str(pd.DataFrame(rows).to_csv(index=False, sep=separator))


def fleet(tmp_path: Path, rows: list[dict[str, Any]] | None = None, **more: str | bytes) -> Path:
    """A folder with a brief, the art and a table; and an Android app, which is its project."""
    files = {path: data for path, data in small_android().items() if path not in {"rivelt.toml", "mark.svg"}}
    table = as_csv(ROWS if rows is None else rows)
    return write_tree(tmp_path / "lines", {**files, **ART, "rivelt.toml": BASE, "brands.csv": table, **more})


def results(out: Path) -> dict[str, bytes]:
    """All files of a run but those that hold how long it took."""
    timed = {"fleet.csv", "fleet.parquet"}
    return {
        path: data for path, data in read_tree(out).items() if path not in timed and not path.endswith("brand.json")
    }


# What is made


def test_each_brand_is_made_as_by_its_own_brief(tmp_path: Path, rivelt: Command) -> None:
    root = fleet(tmp_path)
    done = rivelt("fleet", "brands.csv", *QUICK, "--json", cwd=root)
    assert done.code == 0, done.err
    assert [(one["brand"], one["status"]) for one in done.json["brands"]] == [(row["name"], "made") for row in ROWS]
    for row in ROWS:
        name = str(row["name"])
        keys = "".join(f'{key} = "{value}"\n' for key, value in row.items() if key != "name" and isinstance(value, str))
        text = f'[app]\ntargets = ["android"]\n[layout]\nclearance = {row.get("layout.clearance", 0.06)}\n'
        (root / f"{name}.toml").write_text(keys + text)
        assert rivelt("plates", f"{name}.toml", "--out", f"alone-{name}", cwd=root).code == 0
        alone = read_tree(root / f"alone-{name}")
        assert alone == {
            path[7:]: data for path, data in read_tree(root / "fleet" / name).items() if path.startswith("plates/")
        }
        assert alone
    frame = pd.read_parquet(root / "fleet/fleet.parquet")
    assert frame.bytes.tolist() == [one["values"]["bytes"] for one in done.json["brands"]]
    assert frame[frame.readable_dark < 0.9].brand.tolist() == ["Gull"]  # who would be unreadable in the dark: one line
    assert frame.to_csv(index=False) == (root / "fleet/fleet.csv").read_text()


def test_processes_and_one_process_make_the_same_and_a_second_run_makes_nothing(
    tmp_path: Path, process: Command
) -> None:
    root = fleet(tmp_path)
    wishes = ("--make", "plates,check,proof,patch")
    for out, more in (("one", ("--jobs", "1")), ("two", ("--jobs", "2", "--zip"))):
        done = process("fleet", "brands.csv", "--out", tmp_path / out, *wishes, *more, "--fail-on", "never", cwd=root)
        assert done.code == 0, done.err
    one, two = results(tmp_path / "one"), results(tmp_path / "two")
    packed = {path for path in two if path.endswith("plates.zip")}
    assert len(packed) == len(ROWS)
    assert {p for p in one if "/plates/" not in p} == two.keys() - packed
    assert all(one[path] == two[path] for path in two.keys() - packed - {"fleet.html"})
    before = {
        path: path.stat().st_mtime_ns for path in (tmp_path / "one").rglob("*.*") if path.parent != tmp_path / "one"
    }
    again = process(
        "fleet",
        "brands.csv",
        "--out",
        tmp_path / "one",
        *wishes,
        "--jobs",
        "1",
        "--json",
        "--fail-on",
        "never",
        cwd=root,
    )
    assert [brand["status"] for brand in again.json["brands"]] == ["kept"] * len(ROWS)
    assert before == {path: path.stat().st_mtime_ns for path in before}
    assert results(tmp_path / "one") == one


def change_art(root: Path) -> None:
    (root / "art/Gull.svg").write_text(drawing("#552233", 70))


def change_cell(root: Path) -> None:
    (root / "brands.csv").write_text((root / "brands.csv").read_text().replace("#DDEBF3", "#DDEBF0"))


def lose_plate(root: Path) -> None:
    next((root / "fleet/Gull").rglob("*mark*.png")).unlink()


def edit_plate(root: Path) -> None:
    next((root / "fleet/Gull").rglob("*mark*.png")).write_bytes(b"edited")


def break_record(root: Path) -> None:
    (root / "fleet/Gull/brand.json").write_bytes(b'{"name": "Gull", "parts": {"plates": {"made_from": 3}}}')


def lead_out(root: Path) -> None:
    """A record that names a file outside of the folder, with its true digest."""
    record = json.loads((root / "fleet/Gull/brand.json").read_text())
    record["parts"]["plates"]["files"]["../../rivelt.toml"] = hashlib.sha256(BASE.encode()).hexdigest()
    (root / "fleet/Gull/brand.json").write_text(json.dumps(record))


@pytest.mark.parametrize("change", [change_art, change_cell, lose_plate, edit_plate, break_record, lead_out])
def test_only_what_is_missing_or_changed_is_made(
    change: Callable[[Path], None], tmp_path: Path, rivelt: Command
) -> None:
    root = fleet(tmp_path)
    assert rivelt("fleet", "brands.csv", *QUICK, cwd=root).code == 0
    change(root)
    done = rivelt("fleet", "brands.csv", *QUICK, "--json", cwd=root)
    assert {one["brand"]: one["status"] for one in done.json["brands"]} == {
        "Tern": "kept",
        "Gull": "made",
        "Skua": "kept",
    }
    assert (root / "rivelt.toml").read_text() == BASE
    fresh = rivelt("fleet", "brands.csv", *QUICK, "--out", "fresh", cwd=root)
    assert fresh.code == 0
    assert results(root / "fleet") == results(root / "fresh")


def test_a_change_of_the_project_makes_again_what_depends_on_it(tmp_path: Path, rivelt: Command) -> None:
    root = fleet(tmp_path)
    assert rivelt("fleet", "brands.csv", "--make", "check", "--jobs", "1", "--fail-on", "never", cwd=root).code == 0
    (root / "art/unused.svg").write_text("<svg/>")
    done = rivelt("fleet", "brands.csv", "--make", "check", "--jobs", "1", "--json", cwd=root)
    assert {one["status"] for one in done.json["brands"]} == {"made"}
    assert {one["status"] for one in rivelt("fleet", "brands.csv", *QUICK, "--json", cwd=root).json["brands"]} == {
        "made"
    }


def test_results_of_another_time_are_not_shown_as_those_of_now(tmp_path: Path, rivelt: Command) -> None:
    """What an earlier run found of other colours, or was asked for then, is in neither table nor page; editions of the brief are named."""
    root = fleet(tmp_path)
    assert (
        rivelt("fleet", "brands.csv", "--make", "plates,check", "--jobs", "1", "--fail-on", "never", cwd=root).code == 0
    )
    assert "Gull/check.json" in (root / "fleet/fleet.html").read_text()
    (root / "rivelt.toml").write_text(f'{BASE}\n[edition.winter]\nlight.ground = "#FFFFFF"\n')
    change_cell(root)
    done = rivelt("fleet", "brands.csv", *QUICK, "--json", cwd=root)
    assert not [one for one in done.json["brands"] if "codes" in one["values"]]
    assert pd.read_csv(root / "fleet/fleet.csv").errors.isna().all()
    page = (root / "fleet/fleet.html").read_text()
    assert "check.json" not in page
    assert "Gull/plates" in page
    assert ["winter" in note for note in done.json["notes"]] == [True]
    assert "winter" in done.err


# Tables


FORMS: dict[str, Callable[[list[dict[str, Any]]], bytes]] = {
    "comma.csv": lambda rows: as_csv(rows).encode(),
    "semicolon.csv": lambda rows: b"\xef\xbb\xbf" + as_csv(rows, ";").encode(),
    "wide.csv": lambda rows: as_csv(rows, "\t").encode("utf-16"),
    "blank.csv": lambda rows: as_csv(rows).replace("\n", "\r\n").encode(),
    "table.json": lambda rows: json.dumps(rows).encode(),
    "table.parquet": lambda rows: _packed(lambda out: pd.DataFrame(rows).to_parquet(out)),
    "table.xlsx": lambda rows: _packed(lambda out: pd.DataFrame(rows).to_excel(out, index=False)),
}


def _packed(write: Callable[[io.BytesIO], object]) -> bytes:
    out = io.BytesIO()
    write(out)
    return out.getvalue()


@pytest.mark.parametrize("form", FORMS)
def test_a_table_says_the_same_in_every_form(form: str, tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(fleet(tmp_path), {form: FORMS[form](ROWS)})
    done = rivelt("fleet", form, *QUICK, "--out", "out", cwd=root)
    assert done.code == 0, done.err
    expected = rivelt("fleet", "brands.csv", *QUICK, "--out", "expected", cwd=root)
    assert expected.code == 0
    assert {p: d for p, d in results(root / "out").items() if "/" in p} == {
        p: d for p, d in results(root / "expected").items() if "/" in p
    }


BAD_ROWS: list[tuple[dict[str, Any], str, str]] = [
    ({"name": "1st"}, "name", "a brand cannot be called '1st'"),
    ({"name": "main"}, "name", "a brand cannot be called 'main'"),
    ({"name": "../x"}, "name", "a brand cannot be called '../x'"),
    ({"name": "tern"}, "name", "tern is the name of row 2 as well"),
    ({"name": "A", "light.ground": "sand-ish"}, "light.ground", "'sand-ish' is not a CSS colour"),
    ({"name": "B", "light.ground": ""}, "", "`light.ground` is missing"),
    ({"name": "C", "light.mark": "art/none.svg"}, "light.mark", "art/none.svg does not exist"),
    ({"name": "D", "light.mark": "../../outside.svg"}, "light.mark", "outside the project"),
    ({"name": "E", "layout.clearance": "wide"}, "layout.clearance", "`layout.clearance` must be"),
    ({"name": "F", "layout.clearance": 0.9}, "layout.clearance", "`layout.clearance` must be"),
    ({"name": "G", "light.ground": '{ tokens = "none.json", name = "x" }'}, "light.ground", "none.json does not exist"),
]


def test_bad_cells_are_all_told_at_once_with_row_and_column_and_stop_no_other(tmp_path: Path, rivelt: Command) -> None:
    rows = [{**ROWS[0], "name": "Tern"}, *({**ROWS[0], **bad} for bad, _, _ in BAD_ROWS), ROWS[1]]
    root = fleet(tmp_path, rows)
    columns = list(pd.DataFrame(rows).columns)
    done = rivelt("fleet", "brands.csv", *QUICK, "--json", cwd=root)
    assert done.code == 1
    found = {(one["line"], one["column"]): one["message"] for one in done.json["problems"]}
    assert len(found) == len(BAD_ROWS)
    for number, (_, column, message) in enumerate(BAD_ROWS, 3):
        assert message in found[number, columns.index(column) + 1 if column else None]
    statuses = [one["status"] for one in done.json["brands"]]
    assert statuses == ["made", *["bad"] * len(BAD_ROWS), "made"]
    frame = pd.read_csv(root / "fleet/fleet.csv")
    assert frame.problem.notna().sum() == len(BAD_ROWS)
    strict = rivelt("fleet", "brands.csv", *QUICK, "--out", "strict", "--strict", cwd=root)
    assert strict.code == 2
    assert strict.err.count("error:") == len(BAD_ROWS)
    assert not (root / "strict").exists()


@pytest.mark.parametrize(
    ("name", "content", "message"),
    [
        ("brands.csv", "name,light.grund\nA,#fff\n", "the column 'light.grund' is no key of a brief"),
        ("brands.csv", "brand,light.ground\nA,#fff\n", "the table has no column 'name'"),
        ("brands.csv", "name,name\nA,B\n", "two columns are called 'name'"),
        ("brands.csv", "name,light.ground\n", "the table has no brands"),
        ("brands.csv", "", "the table"),
        ("brands.csv", "name,light.ground\nA,#fff,more\n", "the table is broken"),
        ("brands.csv", b"name\nA\xff\n", "the table is not UTF-8"),
        ("brands.json", '{"name": "A"}', "the table must be a list of objects"),
        ("brands.json", '[{"name": ', "the table is broken"),
        ("brands.parquet", b"PAR1 no PAR1", "the table is broken"),
        ("brands.xlsx", b"PK\3\4 no", "the table is broken"),
        ("brands.ods", b"x", "brands.ods is no table that can be read"),
        ("fleet/fleet.csv", "name\nA\n", "the results would be written over the table"),
    ],
)
def test_a_table_that_cannot_be_used_is_refused(
    name: str, content: str | bytes, message: str, tmp_path: Path, rivelt: Command
) -> None:
    root = write_tree(fleet(tmp_path), {name: content})
    before = read_tree(root)
    done = rivelt("fleet", name, *QUICK, cwd=root)
    assert done.code == 2
    assert message in done.err
    assert read_tree(root) == before


@given(st.lists(st.dictionaries(st.sampled_from(["name", "#note", "light.ground"]), st.text(max_size=8)), max_size=4))
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_what_a_table_holds_comes_back_from_csv_and_json_alike(tmp_path: Path, rows: list[dict[str, str]]) -> None:
    rows = [{key: value.replace("\r", " ").replace("\0", " ") for key, value in row.items()} for row in rows]
    with_columns = [{"name": "", "#note": "", "light.ground": "", **row} for row in rows]
    path = tmp_path / "rows.json"
    path.write_text(json.dumps(with_columns))
    expected = [{k: v.strip() for k, v in row.items() if v.strip()} for row in with_columns]
    expected = [row for row in expected if row]
    if not expected:
        return
    table = tmp_path / "rows.csv"
    pd.DataFrame(with_columns).to_csv(table, index=False)
    found = [[dict(row.cells) for row in read_table(one).rows] for one in (path, table)]
    assert found == [expected, expected]


# Into projects


def test_all_brands_go_into_one_project_with_one_lock_and_one_undo(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": '[app]\nname = "$name"\n\n[light]\nmark = "mark.svg"\n'})
    rows = [
        {"name": name.title(), "light.ground": ground, "android.source_set": name}
        for name, ground in zip(FLAVOURS, ("#F3EBDD", "#DDEBF3", "#FFFFFF"), strict=True)
    ]
    bad = [{**rows[0], "name": "Twin"}, {**rows[0], "name": "Lost", "android.source_set": "nowhere"}]
    write_tree(root, {"brands.csv": as_csv(rows + bad)})
    before = read_tree(root)
    out = ("--out", tmp_path / "out", "--jobs", "1", "--make", "apply", "--fail-on", "never")
    done = rivelt("fleet", "brands.csv", *out, "--json", cwd=root)
    assert done.code == 1
    status = {
        one["brand"]: (one["status"], [problem["message"] for problem in one["problems"]])
        for one in done.json["brands"]
    }
    assert [status[str(row["name"])] for row in rows] == [("made", [])] * 3
    assert status["Twin"][0] == "failed"
    assert "the app of Festival already" in status["Twin"][1][0]
    assert status["Lost"][0] == "failed"
    owners = read_lock((root / LOCK_NAME).read_bytes()).owners
    assert {(owner.brief, owner.edition) for owner in owners} == {("brands.csv", str(row["name"])) for row in rows}
    for row in rows:
        values = root / f"app/src/{row['android.source_set']}/res"
        assert str(row["light.ground"])[1:] in "".join(path.read_text() for path in values.rglob("*.xml"))
    after = read_tree(root)
    again = rivelt("fleet", "brands.csv", *out, "--json", cwd=root)
    assert again.json["applied"] == 0
    assert read_tree(root) == after
    write_tree(root, {"brands.csv": as_csv(rows[:2])})  # a brand that is gone from the table goes from the project
    assert rivelt("fleet", "brands.csv", *out, cwd=root).code == 0
    assert not [path for path in read_tree(root) if "src/winter/" in path and "rivelt" in path]
    write_tree(root, {"brands.csv": as_csv(rows + bad)})
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == after
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_a_patch_gives_by_git_what_apply_gives(tmp_path: Path, rivelt: Command) -> None:
    root = fleet(tmp_path)
    assert (
        rivelt("fleet", "brands.csv", "--make", "patch", "--jobs", "1", "--out", tmp_path / "out", cwd=root).code == 0
    )
    tree = {path: data for path, data in read_tree(root).items() if not path.startswith("fleet/")}
    for row in ROWS:
        elsewhere = repository(tmp_path / str(row["name"]), tree)
        git(elsewhere, "apply", tmp_path / "out" / str(row["name"]) / "apply.patch")
        applied = {path: data for path, data in read_tree(elsewhere).items() if not path.startswith(".git/")}
        assert (elsewhere / LOCK_NAME).is_file()
        assert str(row["light.ground"])[1:].encode() in b"".join(applied.values())
        pictures = [data for path, data in applied.items() if path.endswith(".png")]
        assert pictures
        assert all(data.startswith(b"\x89PNG") for data in pictures)


def test_a_brand_stands_in_for_the_brief_that_is_applied_already(tmp_path: Path, rivelt: Command) -> None:
    """Of a brand that names no app of its own, the patch leads from what the brief has made to what the brand would have made."""
    root = fleet(tmp_path, [{**row, "name": name} for row, name in zip(ROWS, ("Gull", "Skua"), strict=False)])
    (root / "rivelt.toml").write_text(BASE.replace("$name", "Tern").replace("[light]", '[light]\nground = "#F3EBDD"'))
    assert rivelt("apply", cwd=root).code == 0
    out = tmp_path / "out"
    done = rivelt(
        "fleet",
        "brands.csv",
        "--make",
        "check,proof,patch",
        "--jobs",
        "1",
        "--out",
        out,
        "--fail-on",
        "never",
        "--json",
        cwd=root,
    )
    assert done.code == 0, done.err
    assert {one["values"]["shown_from"] for one in done.json["brands"]} == {"project"}
    elsewhere = repository(tmp_path / "elsewhere", read_tree(root))
    git(elsewhere, "apply", out / "Skua/apply.patch")
    assert "#DDEBF3" in (elsewhere / "app/src/main/res/values/rivelt_launch.xml").read_text().upper().replace(
        "#FF", "#"
    )
    assert {(owner.brief, owner.edition) for owner in read_lock((elsewhere / LOCK_NAME).read_bytes()).owners} == {
        ("rivelt.toml", "")
    }
    assert "no findings" in rivelt("check", "--select", "AND", cwd=elsewhere).out


NAMES = st.sampled_from(
    ["a.txt", "b c.txt", "ü.txt", 'q"t.txt', "d/e.bin", "d/tab\t.txt", "back\\slash", "-dash", "d/f/g.xml"]
)
LINES = st.lists(
    st.sampled_from(["one", "two", "", "é", "x\x0cy", "z\x85", "cr\r", "\\ No newline at end of file", "--- a", "end"])
)
TEXTS = st.builds(lambda lines, last: ("\n".join(lines) + last).encode(), LINES, st.sampled_from(["", "\n", "\r\n"]))
CONTENTS = st.one_of(TEXTS, st.binary(max_size=300), st.just(b""))
TREES = st.dictionaries(NAMES, CONTENTS, max_size=5)


@given(before=TREES, after=TREES)
@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_git_applies_any_patch(
    before: dict[str, bytes], after: dict[str, bytes], tmp_path_factory: pytest.TempPathFactory
) -> None:
    root = tmp_path_factory.mktemp("patched")
    repository(root)
    commit(root, before)
    changes = [Change(path, before.get(path), after.get(path)) for path in before.keys() | after.keys()]
    patch = git_patch(changes)
    assert patch == git_patch(reversed(changes))
    if patch:
        (root / ".git/patch").write_bytes(patch)
        git(root, "apply", "--index", "--whitespace=nowarn", ".git/patch")
    assert {path: data for path, data in read_tree(root).items() if not path.startswith(".git/")} == after


# Runs that are stopped


def started(root: Path, *arguments: object) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "rivelt", "fleet", *map(str, arguments)]
    return subprocess.Popen(
        command, cwd=root, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, start_new_session=True
    )


def wait_for(condition: Callable[[], bool], seconds: float = 90) -> None:
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it did not happen"
        time.sleep(0.02)


def many(count: int) -> list[dict[str, Any]]:
    return [{"name": f"Line{n}", "light.ground": f"#F3EB{n:02X}", "light.mark": "art/Tern.svg"} for n in range(count)]


def children(process: subprocess.Popen[str]) -> list[int]:
    with suppress(OSError):
        return [int(one) for one in Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()]
    return []


def is_worker(child: int) -> bool:
    with suppress(OSError):
        return b"spawn_main" in Path(f"/proc/{child}/cmdline").read_bytes()
    return False


@pytest.mark.slow
def test_a_run_that_is_stopped_goes_on_where_it_was(tmp_path: Path, process: Command) -> None:
    root = fleet(tmp_path, many(24))
    running = started(root, "brands.csv", "--make", "plates,check,proof", "--jobs", "2")
    wait_for(lambda: len(list((root / "fleet").glob("*/brand.json"))) > 3)
    os.killpg(running.pid, signal.SIGINT)
    os.killpg(running.pid, signal.SIGINT)  # of people who are in a hurry
    _, err = running.communicate(timeout=60)
    assert running.returncode == 130, err
    assert "Traceback" not in err
    assert "Run the same command again" in err
    assert "leaked" not in err
    done = len(list((root / "fleet").glob("*/brand.json")))
    assert 3 < done < 24
    again = process(
        "fleet", "brands.csv", "--make", "plates,check,proof", "--jobs", "2", "--json", "--fail-on", "never", cwd=root
    )
    assert again.code == 0, again.err
    assert again.json["summary"]["kept"] >= done
    whole = process(
        "fleet", "brands.csv", "--make", "plates,check,proof", "--out", "whole", "--fail-on", "never", cwd=root
    )
    assert whole.code == 0
    assert results(root / "fleet") == results(root / "whole")


@pytest.mark.slow
@pytest.mark.skipif(not sys.platform.startswith("linux"), reason="processes are found in /proc")
def test_a_process_that_is_killed_takes_no_brand_with_it(tmp_path: Path) -> None:
    root = fleet(tmp_path, many(16))
    running = started(root, "brands.csv", "--make", "plates,check", "--jobs", "2", "--json", "--fail-on", "never")
    wait_for(lambda: len(list((root / "fleet").glob("*/brand.json"))) > 2)
    os.kill(next(child for child in children(running) if is_worker(child)), signal.SIGKILL)
    out, err = running.communicate(timeout=120)
    assert running.returncode == 0, err
    assert json.loads(out)["summary"]["made"] == 16


class Deadly(Stock):
    """What ends the process that makes one of the brands, each time."""

    def art_files(self, brief: Brief, files: Files) -> ArtFiles:
        if brief.name == "Line3 line":
            os._exit(9)
        return super().art_files(brief, files)


@pytest.mark.slow
def test_a_brand_that_ends_its_process_is_told_and_stops_no_other(tmp_path: Path) -> None:
    root = fleet(tmp_path, many(9))
    base = BaseBrief(root / "rivelt.toml")
    brands = brands_of(read_table(root / "brands.csv"), base).good
    (tmp_path / "out").mkdir()
    orders = [Order(brand, ("plates",), is_zip=False, has_project=False) for brand in brands]
    pool = Pool(Deadly((root,), tmp_path / "out"), Shelf(tmp_path / "out", {}, is_zip=False), 2)
    records = {record.name: record for record in pool.run(iter(orders))}
    assert records.keys() == {brand.name for brand in brands}
    assert [name for name, record in records.items() if not record.parts] == ["Line3"]
    assert "ended, twice" in records["Line3"].problems[0].message


# On a cluster


@contextmanager
def cluster(
    folder: Path, workers: int, env: Mapping[str, str] | None = None
) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """A real scheduler with workers, each a process of its own; the scheduler is the first of them."""
    folder.mkdir(parents=True, exist_ok=True)
    address = folder / "scheduler.json"
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    base = [sys.executable, "-m", "dask"]
    command = [
        *base,
        "scheduler",
        "--host",
        "127.0.0.1",
        "--port",
        "0",
        "--no-dashboard",
        "--scheduler-file",
        str(address),
    ]
    running = [subprocess.Popen(command, cwd=folder, **quiet)]  # type: ignore[call-overload]
    try:
        wait_for(lambda: address.is_file() and b"tcp://" in address.read_bytes())
        where = json.loads(address.read_text())["address"]
        for number in range(workers):
            command = [
                *base,
                "worker",
                where,
                "--nthreads",
                "1",
                "--no-dashboard",
                "--local-directory",
                str(folder / str(number)),
            ]
            more = {**os.environ, **(env or {})} if number == 0 else None
            running.append(subprocess.Popen(command, cwd=folder, env=more, **quiet))  # type: ignore[call-overload]
        from distributed import Client

        with Client(where, set_as_default=False) as client:  # type: ignore[no-untyped-call]
            client.wait_for_workers(workers, timeout=60)
        yield where, running
    finally:
        for one in reversed(running):
            one.kill()
            one.wait()


def test_what_is_sent_is_all_that_a_brand_is_made_from(tmp_path: Path) -> None:
    """On a machine that has neither the project nor the art; links are followed where they are."""
    night = '\n[dark]\nground = { tokens = "tokens.json", name = "night" }\n'
    tokens = '{"night": {"$type": "color", "$value": "#13212B"}}'
    root = write_tree(fleet(tmp_path), {"rivelt.toml": BASE + night, "tokens.json": tokens})
    (root / "art/Skua.svg").rename(root / "drawn.svg")
    (root / "art/Skua.svg").symlink_to(root / "drawn.svg")
    brands = brands_of(read_table(root / "brands.csv"), BaseBrief(root / "rivelt.toml")).good
    stock = Stock((root,), tmp_path / "out")
    assert [sorted(brand.inputs) for brand in brands] == [
        [f"art/{name}.svg", *files]
        for name, files in (("Tern", ["tokens.json"]), ("Gull", []), ("Skua", ["tokens.json"]))
    ]
    orders = [Order(brand, KINDS, is_zip=True, has_project=True) for brand in brands]
    here = [make(order, stock) for order in orders]
    art = {root / name for brand in brands for name in brand.inputs}
    contents = {str(path.resolve()): path.read_bytes() for path in art}
    sent = pickle.loads(pickle.dumps(carried(stock, [root], art)))
    shutil.rmtree(root)
    there = [make(order, sent, contents) for order in pickle.loads(pickle.dumps(orders))]
    assert [(one.parts, one.problems, one.is_short) for one in there] == [(one.parts, (), False) for one in here]
    assert all(one.parts.keys() == set(KINDS) for one in there)


@pytest.mark.slow
def test_a_cluster_gives_the_same_bytes_even_when_a_worker_is_lost(tmp_path: Path, process: Command) -> None:
    root = fleet(tmp_path, [*ROWS, *many(20)])
    wishes = ("--make", "plates,check,proof,patch", "--fail-on", "never")
    assert process("fleet", "brands.csv", *wishes, "--out", "here", cwd=root).code == 0
    with cluster(tmp_path / "cluster", 2) as (address, running):
        # From another folder, as workers have another one too: no path depends on where a person stands.
        there = started(
            root.parent, "lines/brands.csv", "--brief", "lines", *wishes, "--out", "lines/there", "--scheduler", address
        )
        wait_for(lambda: len(list((root / "there").glob("*/brand.json"))) > 4)
        running[2].kill()
        _, err = there.communicate(timeout=180)
        assert there.returncode == 0, err
    assert results(root / "here") == results(root / "there")


@pytest.mark.slow
def test_a_scheduler_that_is_lost_is_told_and_the_run_goes_on_later(tmp_path: Path, process: Command) -> None:
    root = fleet(tmp_path, many(16))
    with cluster(tmp_path / "cluster", 1) as (address, running):
        there = started(root, "brands.csv", "--make", "plates,check", "--scheduler", address)
        wait_for(lambda: len(list((root / "fleet").glob("*/brand.json"))) > 1)
        running[0].kill()
        _, err = there.communicate(timeout=120)
        assert there.returncode == 2
        assert "does not answer any more" in err
        assert "Traceback" not in err
        lost = process("fleet", "brands.csv", "--make", "plates,check", "--scheduler", address, cwd=root)
        assert lost.code == 2
        assert "no scheduler answers" in lost.err
    done = len(list((root / "fleet").glob("*/brand.json")))
    assert 1 < done < 16
    again = process("fleet", "brands.csv", "--make", "plates,check", "--json", "--fail-on", "never", cwd=root)
    assert again.code == 0
    assert again.json["summary"]["kept"] >= done


@pytest.mark.slow
def test_workers_of_another_version_are_refused(tmp_path: Path, process: Command) -> None:
    root = fleet(tmp_path)
    package = tmp_path / "other/deflate"  # stands before the library of that name, with another version
    write_tree(
        tmp_path / "other", {"deflate-9.9.dist-info/METADATA": "Metadata-Version: 2.1\nName: deflate\nVersion: 9.9\n"}
    )
    assert not package.exists()
    with cluster(tmp_path / "cluster", 2, {"PYTHONPATH": str(tmp_path / "other")}) as (address, _):
        done = process("fleet", "brands.csv", *QUICK, "--scheduler", address, cwd=root)
    assert done.code == 2
    assert "has deflate 9.9" in done.err
    assert not list((root / "fleet").glob("*/brand.json"))


# The page


@pytest.mark.skipif(browser() is None, reason="Chromium is not installed")
def test_the_page_filters_and_sorts_a_thousand_brands(tmp_path: Path) -> None:
    from rivelt.documents.base import Problem
    from rivelt.documents.fleet import BrandItem
    from rivelt.errors import BadInput
    from rivelt.fleet.page import draw_fleet_page

    items = [
        BrandItem(
            brand=f"Line{number}",
            row=number + 2,
            status="failed" if number == 7 else "made",
            values={"contrast_dark": float(number % 20 + 1), "readable_dark": number % 20 / 20, "bytes": number * 1000},
            problems=[Problem.of(BadInput("<b>no</b>", hint="x"))] if number == 7 else [],
        )
        for number in range(1000)
    ]
    file = tmp_path / "fleet.html"
    file.write_text(draw_fleet_page(items, tmp_path, "brands.csv"))
    assert len(file.read_bytes()) < 1_500_000
    with open_page(file, tmp_path / "profile") as page:
        count = "[...document.querySelectorAll('.brand')].filter((one) => !one.hidden).length"
        assert page.run(count) == 1000
        page.run("show.value = 'dark'; show.dispatchEvent(new Event('change'))")
        assert page.run(count) == 900
        page.run("sort.value = 'bytes'; sort.dispatchEvent(new Event('change'))")
        assert page.run("document.querySelector('.brand:not([hidden])').dataset.name") == "Line997"
        page.run("find.value = 'LINE7'; show.value = 'wrong'; find.dispatchEvent(new Event('input'))")
        assert page.run(count) == 1
        assert "<b>no</b>" in page.run("[...document.querySelectorAll('.told')].map((one) => one.textContent).join()")
