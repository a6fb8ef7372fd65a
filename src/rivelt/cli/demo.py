"""`rivelt demo`."""

from __future__ import annotations

import shlex
from pathlib import Path
from typing import Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Quiet


def demo(
    folder: Annotated[Path, typer.Argument(metavar="[DIR]", help="The folder to lay the sample app out in.")] = Path(
        "skerryline-demo"
    ),
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> None:
    """Do the whole job on a sample app.

    Skerryline ships with Rivelt. Each step is told with the command that does it.
    """
    from rivelt.cli import apply, check, measure, proof, survey
    from rivelt.demo.layout import lay_out

    lay_out(folder)
    brief = folder / "rivelt.toml"
    sheets = {"before": folder / "proof-before.png", "after": folder / "proof.png", "page": folder / "proof.html"}
    with output.only_for_people():
        output.say(f"Skerryline, a sample app for Android, iOS, Windows and the web, is laid out in {folder}")
        _step("What is there", "survey", folder)
        survey.survey(folder)
        _step("What the art measures", "measure", brief)
        measure.measure([brief])
        _step("What it shows today", "proof", brief, "--now", "--out", sheets["before"])
        proof.proof(brief, out=sheets["before"], now=True)
        _step("What it would show, as a page to look at in a browser", "proof", brief, "--out", sheets["page"])
        proof.proof(brief, out=sheets["page"])
        _step("Make it so", "apply", brief)
        apply.apply([brief])
        _step("What it shows now", "proof", brief, "--now", "--out", sheets["after"])
        proof.proof(brief, out=sheets["after"], now=True)
        _step("What the rules say of it", "check", brief)
        check.check(brief)
    output.machine({"folder": str(folder), **{key: str(path) for key, path in sheets.items()}})
    output.say()
    output.say(f"Look at it: {sheets['after']}, or before and after in a browser: {sheets['page']}")


def _step(title: str, *command: str | Path) -> None:
    """A heading, and the command that does the step, ready to be copied."""
    output.say()
    output.heading(title)
    output.say(f"$ {shlex.join(['rivelt', *map(str, command)])}", output.ACCENT)
