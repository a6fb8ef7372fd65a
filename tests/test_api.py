"""What `import rivelt` offers: typed names, briefs in memory, results as plain data, and the scripts of the docs."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

import rivelt as package
from conftest import BRIEF, Command, quick_sample, read_tree, small_android, valid, write_tree

SCRIPTS = Path(__file__).parents[1] / "docs/scripts"
TABLE = {
    "app": {"name": "Tern"},
    "light": {"ground": "#F3EBDD", "mark": Path("mark.svg")},
    "edition": {"festival": {"light": {"ground": "#2B1640"}, "android": {"source_set": "festival"}}},
}


def run(*command: object, cwd: Path, code: int = 0) -> str:
    done = subprocess.run([sys.executable, *map(str, command)], cwd=cwd, capture_output=True, text=True, timeout=120)
    assert done.returncode == code, done.stdout + done.stderr
    return done.stdout + done.stderr


def test_every_name_is_there_typed_and_complete(tmp_path: Path) -> None:
    pytest.importorskip("mypy", reason="the type checker is not installed: pip install '.[quality]'")
    assert set(package.__all__) < set(dir(package))
    assert all(getattr(package, name).__doc__ for name in package.__all__)
    with pytest.raises(AttributeError, match="has no attribute 'opne'"):
        getattr(package, "opne")  # noqa: B009
    (tmp_path / "good.py").write_text(
        "import rivelt\n"
        'job = rivelt.open("app")\n'
        "report = job.check()\n"
        "reveal_type(report.findings[0].line)\n"
        'reveal_type(rivelt.Brief.from_dict({}, folder="x"))\n'
        'reveal_type(rivelt.measure_files(["a.svg"]).to_dict())\n'
    )
    (tmp_path / "bad.py").write_text("import rivelt\nrivelt.opne()\nrivelt.open(7)\nrivelt.open().chekc()\n")
    mypy = ("-m", "mypy", "--strict", "--no-error-summary", "--cache-dir", tmp_path / "cache")
    told = run(*mypy, "good.py", cwd=tmp_path)
    assert [line.partition("is ")[2] for line in told.splitlines()] == [
        '"int | None"',
        '"rivelt.briefs.Brief"',
        '"dict[str, Any]"',
    ]
    refused = run(*mypy, "bad.py", cwd=tmp_path, code=1).splitlines()
    assert [line.rpartition(": error")[0] for line in refused if "error" in line] == [
        "bad.py:2",
        "bad.py:3",
        "bad.py:4",
    ]


def test_a_brief_in_memory_does_what_one_on_disk_does(tmp_path: Path, rivelt: Command) -> None:
    text = (
        BRIEF + '\n[edition.festival.light]\nground = "#2B1640"\n[edition.festival.android]\nsource_set = "festival"\n'
    )
    flavours = 'flavorDimensions += "season"\n    productFlavors { create("festival") { dimension = "season" } }'
    trees = {}
    for kind, brief in (("disk", text), ("memory", None)):
        root = write_tree(tmp_path / kind, small_android(brief=brief or ""))
        build = next(path for path in root.rglob("build.gradle*") if "android" in path.read_text())
        build.write_text(build.read_text().replace("android {", f"android {{\n    {flavours}", 1))
        if brief is None:
            (root / "rivelt.toml").unlink()
            job = package.open(package.Brief.from_dict(TABLE, folder=root))
            assert [one.edition for one in job.brief.editions] == ["festival"]
            package.apply(job.changes())
        else:
            assert rivelt("apply", cwd=root).code == 0
        trees[kind] = {path: data for path, data in read_tree(root).items() if not path.startswith(".rivelt/")}
    trees["disk"].pop("rivelt.toml")
    assert trees["memory"] == trees["disk"]


def test_a_brief_in_memory_is_judged_like_a_file(tmp_path: Path) -> None:
    with pytest.raises(package.Problems) as caught:
        package.Brief.from_dict(
            {"light": {"groud": "red", "mark": 7}, "check": {"ignore": {"and8": "x"}}, "edition": {"x": {"dark": 1}}},
            folder=tmp_path,
        )
    messages = [part.message for part in caught.value.parts]
    assert {"unknown key `light.groud`", "there is no rule and8", "`dark` must be a table"} <= set(messages)
    assert json.loads(json.dumps(caught.value.to_dict()))["errors"][0]["message"] == messages[0]
    brief = package.Brief.from_dict(TABLE, folder=write_tree(tmp_path, small_android(brief="")))
    again = package.Brief.from_dict(brief.to_dict(), folder=str(tmp_path))
    assert (again, again.editions, again.to_dict()) == (brief, brief.editions, brief.to_dict())
    with pytest.raises(package.BadInput, match="no edition winter"):
        package.open(brief, editions=["winter"])


def test_results_as_plain_data_are_what_the_commands_print(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    job = package.open(str(root))

    def same(found: dict[str, Any], *command: str) -> None:
        assert valid(json.loads(json.dumps(found))) == rivelt(*command, "--json", cwd=root).json

    same(package.survey(str(root)).to_dict(), "survey")
    same(job.measure().to_dict(), "measure")
    same(job.prove().to_dict(), "proof")
    same(job.check().to_dict(), "check")
    same(job.changes().to_dict(), "apply", "--dry-run")
    changes = job.changes()
    package.apply(changes)
    assert len(package.applies(str(root))) == 1
    from rivelt.opening import open_recorded

    same(open_recorded(root).removal().to_dict(), "remove", "--dry-run")
    assert package.explain("and8".replace("8", "08")).to_dict() == rivelt("explain", "AND08", "--json").json["rules"][0]
    assert package.undo(str(root))
    assert "rivelt.lock" not in read_tree(root)


def test_the_scripts_of_the_docs_do_what_they_say(tmp_path: Path) -> None:
    root = write_tree(tmp_path / "skerryline", quick_sample())
    rows = [f"line-{number},skerryline/art/mark.svg,#F3EBDD,#13212B" for number in range(20)]
    (tmp_path / "brands.csv").write_text(
        "\n".join(["name,mark,ground,dark_ground", *rows, "lost,nowhere.svg,red-ish,#000"])
    )
    told = run(SCRIPTS / "brands.py", "brands.csv", "out", cwd=tmp_path, code=1)
    assert len(list((tmp_path / "out").glob("line-*.zip"))) == 20
    assert len({path.read_bytes() for path in (tmp_path / "out").glob("*.zip")}) == 1
    assert "brands.csv:22: `light.ground`: 'red-ish' is not a CSS colour; nowhere.svg does not exist" in told
    told = run(SCRIPTS / "contrast.py", "plot.png", root / "rivelt.toml", cwd=tmp_path)
    assert "Skerryline, mark, dark: median " in told
    assert (tmp_path / "plot.png").read_bytes().startswith(b"\x89PNG")
    told = run(SCRIPTS / "findings.py", root, "ios=boat", "web=quay", cwd=tmp_path, code=1)
    assert [line for line in told.splitlines() if not line.startswith(" ")] == ["boat: 2", "everybody: 7", "quay: 3"]
