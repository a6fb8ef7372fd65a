"""`rivelt demo`."""

from __future__ import annotations

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
    from rivelt import job
    from rivelt.cli import apply, measure, proof, survey

    job.lay_out_demo(folder)
    brief = folder / "rivelt.toml"
    sheets = {"before": folder / "proof-before.png", "after": folder / "proof.png"}
    is_json, output.settings.is_json = output.settings.is_json, False
    was_quiet, output.settings.is_quiet = output.settings.is_quiet, output.settings.is_quiet or is_json
    output.say(f"Skerryline, a sample app for Android and iOS, is laid out in {folder}")
    _step("What is there", f"rivelt survey {folder}")
    survey.survey(folder)
    _step("What the art measures", f"rivelt measure {brief}")
    measure.measure([brief])
    _step("What it shows today", f"rivelt proof {brief} --now --out {sheets['before']}")
    proof.proof(brief, out=sheets["before"], now=True)
    _step("Make it so", f"rivelt apply {brief}")
    apply.apply(brief)
    _step("What it shows now", f"rivelt proof {brief} --now --out {sheets['after']}")
    proof.proof(brief, out=sheets["after"], now=True)
    output.settings.is_json, output.settings.is_quiet = is_json, was_quiet
    output.machine({"folder": str(folder), **{key: str(path) for key, path in sheets.items()}})
    output.say()
    output.say(f"Look at it: {sheets['after']}")


def _step(title: str, command: str) -> None:
    output.say()
    output.heading(title)
    output.say(f"$ {command}", output.ACCENT)
