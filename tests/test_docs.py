"""The pages: their commands are ones that exist, their links lead somewhere, and the README stays short."""

from __future__ import annotations

import re
import shlex
import tomllib
from collections.abc import Iterator
from pathlib import Path

import pytest
import typer

import rivelt
from rivelt.brief.load import read_brief
from rivelt.cli.commands import SUMMARIES, command
from rivelt.platforms import platform_tables

TOP = Path(__file__).parents[1]
PAGES = [TOP / "README.md", TOP / "CONTRIBUTING.md", *sorted((TOP / "docs").rglob("*.md"))]
GENERATED = "<!-- Made by"


def shells() -> Iterator[tuple[str, str]]:
    """Every command of Rivelt's in the blocks of the pages, with the page."""
    for page in PAGES:
        for kind, block in re.findall(r"```(\w+)\n(.*?)```", page.read_text(encoding="utf-8"), re.DOTALL):
            for line in block.splitlines() if kind in {"sh", "yaml"} else ():
                found = re.search(r"(?:^\s*|run: |entry: |&& )(rivelt [a-z](?:[^#|>&,]|(?<=\')#)*)", line)
                if found and not re.search(r"[\[A-Z]{3,}|OPTIONS", found[1]):
                    yield page.name, found[1].strip()


COMMANDS = sorted(set(shells()))


def test_there_are_many() -> None:
    assert len(COMMANDS) > 30


@pytest.mark.parametrize(("page", "line"), COMMANDS)
def test_the_commands_of_the_pages_can_be_given(page: str, line: str) -> None:
    _, name, *rest = shlex.split(line)
    assert name in SUMMARIES, page
    try:
        command(name).make_context(name, rest)
    except typer.TyperException as error:
        pytest.fail(f"{page}: {line}: {error}")


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_links_and_pictures_lead_somewhere(page: Path) -> None:
    text = page.read_text(encoding="utf-8")
    for target in re.findall(r"\]\(([^)\s]+)\)", re.sub(r"```.*?```", "", text, flags=re.DOTALL)):
        path, _, anchor = target.partition("#")
        if re.match(r"[a-z]+:", target):
            continue
        there = page if not path else page.parent / path
        is_left_out = there.parent.name == "screenshots" and not (TOP / "docs/screenshots/proof.png").exists()
        assert there.exists() or is_left_out, f"{page.name}: {target}"  # a source archive is without the large pictures
        if anchor and there.suffix == ".md":
            heads = re.findall(r"^#+ (.+)$", there.read_text(encoding="utf-8"), re.MULTILINE)
            slugs = {re.sub(r"[^\w -]", "", head.lower()).strip().replace(" ", "-") for head in heads}
            assert anchor in slugs, f"{page.name}: {target}"


def test_the_readme_is_short_and_has_the_two_commands() -> None:
    text = (TOP / "README.md").read_text(encoding="utf-8")
    assert len(text.splitlines()) < 200
    assert "pip install . && rivelt demo" in text
    assert "pip install '.[test]' && pytest" in text
    assert text.index("## Your own project") < text.index("rivelt demo")


def test_the_brief_of_the_guide_is_one() -> None:
    guide = (TOP / "docs/guide.md").read_text(encoding="utf-8")
    block = next(block for block in re.findall(r"```toml\n(.*?)```", guide, re.DOTALL) if "[layout]" in block)
    everything = re.sub(r"(?m)^# (?=\w+ = )", "", block)
    brief = read_brief(everything.encode(), TOP / "rivelt.toml", shown_path="guide", platform_tables=platform_tables())
    assert brief.name == "Skerryline"


def test_the_version_is_in_one_place_and_in_the_changelog() -> None:
    project = tomllib.loads((TOP / "pyproject.toml").read_text())["project"]
    assert project["dynamic"] == ["version"]
    changes = (TOP / "CHANGELOG.md").read_text(encoding="utf-8")
    assert f"## [{rivelt.__version__}]" in changes
    assert re.findall(r"(?m)^## \[(.+?)\]", changes)[0] == "Unreleased"
