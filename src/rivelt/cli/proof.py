"""`rivelt proof`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from rivelt.cli import output
from rivelt.cli.options import (
    BriefOrProject,
    Debug,
    Editions,
    Json,
    Only,
    Quiet,
    tell_brief,
    warn_if_unfinished,
    warn_of_unread,
)
from rivelt.errors import ExitCode

if TYPE_CHECKING:
    from collections.abc import Callable

    from rivelt.proof.model import Proof
    from rivelt.scene.model import Layer, Scene
    from rivelt.scene.site import Site


def proof(
    source: BriefOrProject = None,
    out: Annotated[
        Path, typer.Option("--out", metavar="FILE", help="The sheet (.png) or the page (.html) to write.")
    ] = Path("proof.png"),
    now: Annotated[bool, typer.Option("--now", help="The project as it is, not as apply would leave it.")] = False,
    beside: Annotated[
        bool, typer.Option("--beside", help="The project as it is beside what apply would make of it.")
    ] = False,
    screens: Annotated[
        list[str] | None,
        typer.Option(
            "--screens", metavar="WORDS", help='Only these, such as "iPad", "API 34" or "phones"; may be repeated.'
        ),
    ] = None,
    all_screens: Annotated[bool, typer.Option("--all", help="Every screen that is known.")] = False,
    guides: Annotated[
        bool, typer.Option("--guides", help="Draw safe areas, masks and the clearance inside them on the sheet.")
    ] = False,
    only: Only = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> int:
    """Draw what the devices will show.

    Worked out from the native files: as apply would leave them, or (with --now, and where there is no brief) as they are.
    Exit code 1 means that something is unknown.
    """
    from rivelt import opening
    from rivelt.proof.write import check_proof_name, is_page, write_proof

    warn_if_unfinished(source)
    check_proof_name(out)
    work = opening.open(source, only=only or (), editions=editions or ())
    tell_brief(work)
    warn_of_unread(work.project)
    made = work.prove(
        now=now,
        screens=screens or (),
        all_screens=all_screens,
        with_before=is_page(out) or beside,
    )
    with output.progress("screens") as progress:
        write_proof(made, out, guides=guides, on_progress=progress)
    output.machine({"page" if is_page(out) else "sheet": str(out), **_as_json(made)})
    report(made, out)
    is_clean = not made.blocked and not any(scene.unknowns for _, scene in made.scenes)
    return ExitCode.OK if is_clean else ExitCode.FINDINGS


def report(made: Proof, out: Path) -> None:
    """The scenes as a table, and where the sheet is."""
    from rivelt.brief.model import THE_BRIEF

    sites = {site for site, _ in made.scenes}
    columns: dict[str, Callable[[Site], str]] = {}
    if len({(site.target, site.name) for site in sites}) > len({(site.target, site.edition) for site in sites}):
        columns["site"] = lambda site: site.name
    if any(site.edition for site in sites):
        columns["edition"] = lambda site: site.edition or THE_BRIEF
    if any(site.variants for site in sites):
        columns["variants"] = lambda site: ", ".join(site.variants) or "all"
    rows = [
        (
            *(tell(site) for tell in columns.values()),
            scene.screen.system,
            scene.look,
            _ground(scene),
            _told(made, scene),
        )
        for site, scene in made.scenes
    ]
    output.table((*columns, "screen", "look", "ground", "what it shows"), rows)
    output.say()
    for site, error in made.blocked.items():
        output.warn(f"not shown: {site.label}: {error.message}")
    for handoff in made.handoffs:
        for step in handoff.steps:
            if step.is_flash:
                output.say(
                    f"Note: {handoff.site.target}{f' {handoff.site.edition}' * bool(handoff.site.edition)}, {handoff.look}: a flash from the launch screen to the {step.ground.moment} "
                    f"(colour difference {step.difference:.0f})."
                )
    state = "as apply would leave it" if made.is_planned else "as the project is now"
    output.say(f"The proof, {state}: {out}")
    codes = sorted({code for _, scene in made.scenes for code in made.codes_of(scene)})
    if codes:
        output.hint(f"Next: rivelt explain {codes[0]}")


def _told(made: Proof, scene: Scene) -> str:
    """What a screen shows, with the codes of what is wrong there."""
    codes = ", ".join(made.codes_of(scene))
    return f"{scene.title} ({codes})" if codes else scene.title


def _ground(scene: Scene) -> str:
    return scene.ground_in_words


def _as_json(made: Proof) -> dict[str, Any]:
    return {
        "planned": made.is_planned,
        "scenes": [
            {
                "target": site.target,
                "site": site.name,
                "edition": site.edition,
                "variants": list(site.variants),
                "screen": scene.screen.name,
                "system": scene.screen.system,
                "look": scene.look,
                "ground": scene.ground.hex if scene.ground else None,
                "shows": scene.title,
                "sources": list(
                    dict.fromkeys(source for layer in scene.layers if (source := getattr(layer, "source", "")))
                ),
                "unknown": list(scene.unknowns),
                "findings": list(made.codes_of(scene)),
                "layers": [_layer(layer) for layer in scene.layers],
            }
            for site, scene in made.scenes
        ],
        "handoffs": [
            {
                "target": handoff.site.target,
                "site": handoff.site.name,
                "look": handoff.look,
                "steps": [
                    {
                        "moment": step.ground.moment,
                        "ground": step.ground.colour.hex if step.ground.colour else None,
                        "source": step.ground.source,
                        "difference": None if step.difference is None else round(step.difference, 1),
                        "flash": step.is_flash,
                    }
                    for step in handoff.steps
                ],
            }
            for handoff in made.handoffs
        ],
    }


def _layer(layer: Layer) -> dict[str, Any]:
    """A layer as data: its kind, its rectangle in dp or pt, and what it is made of."""
    shown: dict[str, Any] = {"kind": type(layer).__name__.lower(), "rect": [round(value, 3) for value in layer.rect]}
    for name in ("source", "text", "reason"):
        if hasattr(layer, name):
            shown[name] = getattr(layer, name)
    colour = getattr(layer, "colour", None)
    return {**shown, "colour": colour.hex} if colour is not None else shown
