"""A platform is added as a folder and its name in the list: survey, plan, proof and check then know it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from fnmatch import fnmatch
from pathlib import Path

import pytest

from conftest import BRIEF, MARK, read_tree, write_tree
from rivelt.platforms import platform
from rivelt.platforms.ios.native import generated

LANTERN = {
    "lantern/__init__.py": '''
from rivelt.brief.model import PlatformOptions
from rivelt.colour import Colour
from rivelt.errors import Place
from rivelt.plan.model import EditFile, Plan
from rivelt.platforms import Platform
from rivelt.rules.rulebook import Rulebook, broken
from rivelt.scene.model import Fill, Scene, Screen
from rivelt.scene.site import Site

BOOK = Rulebook(__name__, ("lantern",))


class LanternSite(Site, frozen=True):
    file: str = ""


class LanternTable(PlatformOptions, frozen=True, kw_only=True):
    """[lantern]: lanterns."""

    brightness: int = 3


@BOOK.rule("LAN01")
def is_lit(subject):
    if not subject.project.read(subject.site.file).strip():
        yield broken("the lantern is dark", "Light it.", Place(subject.site.file, 1))


class Lantern:
    title, unit, sign, is_on_request = "Lanterns", "px", "a lantern.txt", False
    noun, takes_all, files = "lantern", True, ("*lantern.txt",)
    options, rules = LanternTable, BOOK

    def views(self, project, site, beside):
        return (site,)

    def masks(self, *, has_disc):
        return ()

    def screens(self):
        return (Screen("lantern", "lantern 100 x 100", "Lantern, round", 100, 100, 1, 1, looks=("light",)),)

    every_screen = screens

    def survey(self, project, brief=None):
        assert project.find("*lantern.txt"), "it is not asked without a file of its own"
        return [LanternSite("lantern", path, lambda: "a lantern", file=path) for path in project.find("*lantern.txt")]

    def proposals(self, project, sites):
        return {}

    def plates(self, context):
        return ()

    def plan(self, context, project, site):
        before = project.read(site.file)
        after = context.brief.looks["light"].ground.hex.encode()
        return Plan("lantern", site.name, edits=(EditFile(site.file, before, after, "the light"),) * (before != after))

    def scene(self, project, site, screen, look):
        text = project.read(site.file).decode().strip()
        if not text:
            return Scene.unknown(screen, look, "no colour")
        return Scene(screen, look, (Fill(screen.frame, Colour.parse(text), site.file),), "a light")

    def waiting(self, project, site, screen, look):
        return None

    def moving_art(self, context):
        return ()

    def motions(self, context):
        return ()

    def after_launch(self, project, site, screen, look):
        return ()


PLATFORM: Platform[LanternSite] = Lantern()
''',
    "lantern/words.toml": """
[LAN01]
title = "A dark lantern"
severity = "error"
means = "Nothing is lit."
sees = "Darkness."
why = "Light is needed."
fix = "Light it."
""",
}
START = """
import sys
import rivelt.platforms as platforms
platforms.__path__.append(sys.argv[1])
platforms.TARGETS = (*platforms.TARGETS, "lantern")
from rivelt.cli.main import run
sys.exit(run(sys.argv[2:]))
"""


@pytest.fixture
def root(tmp_path: Path) -> Path:
    write_tree(tmp_path / "more", LANTERN)
    return write_tree(tmp_path / "harbour", {"rivelt.toml": BRIEF, "mark.svg": MARK, "pier/lantern.txt": "#000000"})


def run(root: Path, *arguments: str, code: int) -> str:
    command = [sys.executable, "-c", START, str(root.parent / "more"), *arguments]
    done = subprocess.run(
        command, cwd=root, capture_output=True, text=True, env={**os.environ, "COLUMNS": "200"}, timeout=120
    )
    assert done.returncode == code, done.stderr
    return done.stdout


def test_a_platform_is_a_folder_and_its_name_in_the_list(root: Path) -> None:
    found = json.loads(run(root, "survey", "--json", code=0))
    assert [site["site"] for site in found["sites"]] == ["pier/lantern.txt"]
    plan = json.loads(run(root, "apply", "--dry-run", "--json", code=1))
    assert [change["path"] for change in plan["changes"]][:1] == ["pier/lantern.txt"]
    assert "#F3EBDD" in run(root, "proof", code=0)
    assert (root / "proof.png").is_file()
    before = read_tree(root)
    run(root, "apply", code=0)
    assert (root / "pier/lantern.txt").read_text() == "#F3EBDD"
    assert "no findings" in run(root, "check", "--planned", "--select", "LAN", code=0)
    assert "LAN01" in run(root, "explain", code=0)
    (root / "pier/lantern.txt").write_text(" ")
    report = json.loads(run(root, "check", "--select", "LAN", "--json", code=1))
    assert [(one["code"], one["verdict"], one["path"], one["site"]) for one in report["findings"]] == [
        ("LAN01", "broken", "pier/lantern.txt", "lantern pier/lantern.txt")
    ]
    (root / "pier/lantern.txt").write_text("#F3EBDD")
    run(root, "undo", code=0)
    assert read_tree(root) == before
    (root / "pier/lantern.txt").unlink()
    assert "no native project" in run(root, "survey", code=1).lower()


def test_platforms_that_a_project_has_no_file_of_are_not_loaded(tmp_path: Path) -> None:
    root = write_tree(tmp_path, {"app/src/main/AndroidManifest.xml": "<manifest/>", "app/build.gradle": ""})
    code = "import sys; from rivelt.cli.main import run; run(['survey']); print(*sys.modules, file=sys.stderr)"
    done = subprocess.run([sys.executable, "-c", code], cwd=root, capture_output=True, text=True, timeout=120)
    loaded = {name for name in done.stderr.split() if name.endswith(".survey") and name.startswith("rivelt.platforms.")}
    assert loaded == {"rivelt.platforms.android.survey", "rivelt.platforms.web.survey"}, done.stderr[:500]


def test_descriptions_of_ios_apps_are_files_of_ios() -> None:
    for path in (*generated.DESCRIPTIONS, "Ferry.xcodeproj/project.pbxproj"):
        assert any(fnmatch(f"apps/{path}", pattern) for pattern in platform("ios").files), path
