"""`rivelt proof`."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NamedTuple

import typer

from rivelt.cli import complete, output
from rivelt.cli.options import (
    BriefOrProject,
    Debug,
    Editions,
    Json,
    Only,
    Quiet,
    Verbose,
    tell_brief,
    warn_if_unfinished,
    warn_of_unread,
)
from rivelt.disk.tree import relative_to
from rivelt.errors import BadInput, ExitCode

if TYPE_CHECKING:
    from collections.abc import Callable

    from rivelt.proof.model import Proof
    from rivelt.scene.model import Scene
    from rivelt.scene.site import Site


Out = Annotated[
    Path | None,
    typer.Option(
        "--out",
        metavar="FILE",
        help="The sheet (.png) or page (.html) to write; - prints the sheet. Under --json nothing is drawn without it.",
        show_default="proof.png, next to the brief",
    ),
]


class Form(StrEnum):
    """How what is different is written."""

    MARKDOWN = "markdown"


class Chosen(NamedTuple):
    """Which screens of what are wanted; see the options."""

    source: Path | None
    screens: tuple[str, ...]
    all_screens: bool
    now: bool
    only: tuple[str, ...]
    editions: tuple[str, ...]


Now = Annotated[bool, typer.Option("--now", help="The project as it is, not as apply would leave it.")]
Beside = Annotated[bool, typer.Option("--beside", help="The project as it is beside what apply would make of it.")]
Guides = Annotated[
    bool, typer.Option("--guides", help="Draw safe areas, masks and the clearance inside them on the sheet.")
]
At = Annotated[
    str | None, typer.Option("--at", metavar="REV", help="With --since: show this commit, not the working tree.")
]
FormOption = Annotated[
    Form | None,
    typer.Option("--format", help="With --since: Markdown for a pull request, with thumbnails beside it."),
]
Live = Annotated[
    bool, typer.Option("--live", help="Serve it to the browser, renewed at each save, with controls for the brief.")
]
Browser = Annotated[
    bool, typer.Option("--browser/--no-browser", help="With --live: open the browser.", show_default=False)
]
Since = Annotated[
    str | None,
    typer.Option(
        "--since",
        metavar="REV",
        help="Show what is different since a commit of git; main... is where this branch left main.",
        show_default=False,
    ),
]
Screens = Annotated[
    list[str] | None,
    typer.Option(
        "--screens",
        metavar="WORDS",
        help='Only these, such as "iPad", "API 34" or "phones"; may be repeated.',
        autocompletion=complete.SCREENS,
    ),
]


def proof(
    source: BriefOrProject = None,
    out: Out = None,
    now: Now = False,
    beside: Beside = False,
    screens: Screens = None,
    all_screens: Annotated[bool, typer.Option("--all", help="Every screen that is known.")] = False,
    guides: Guides = False,
    only: Only = None,
    editions: Editions = None,
    since: Since = None,
    at: At = None,
    form: FormOption = None,
    live: Live = False,
    browser: Browser = True,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Draw what the devices will show.

    Worked out from the native files: as apply would leave them, or (with --now, and where there is no brief) as they are.
    Exit code 1 means that something is unknown. With --since, only the screens that are different since a commit are shown, before,
    after, and with the pixels that differ marked; exit code 1 means that there are some.
    """
    warn_if_unfinished(source)
    chosen = Chosen(source, tuple(screens or ()), all_screens, now, tuple(only or ()), tuple(editions or ()))
    if live:
        from rivelt.cli.live import live as serve

        if out is not None or since is not None or now or beside or guides or editions or output.settings.is_json:
            hint = "Leave out all but --only, --screens, --all and --no-browser."
            raise BadInput("--live shows all of that in the browser", hint=hint)
        return serve(chosen, opens_browser=browser)
    if since is not None:
        from rivelt.cli.review import review

        if beside or guides:
            raise BadInput("--since shows before and after by itself", hint="Leave --beside and --guides out.")
        return review(chosen, out, since, at, is_markdown=form is Form.MARKDOWN)
    if at is not None or form is not None:
        option = "--at" if at is not None else "--format"
        raise BadInput(f"{option} needs --since", hint="Give the commit to compare with: --since main")
    return _proved(chosen, out, beside=beside, guides=guides)


def _proved(chosen: Chosen, out: Path | None, *, beside: bool, guides: bool) -> int:
    from rivelt import opening
    from rivelt.proof.write import check_proof_name, is_page

    if out is not None and str(out) != "-":
        check_proof_name(out)
    work = opening.open(chosen.source, only=chosen.only, editions=chosen.editions)
    tell_brief(work)
    warn_of_unread(work.project)
    made = work.prove(
        now=chosen.now,
        screens=chosen.screens,
        all_screens=chosen.all_screens,
        with_before=beside or (out is not None and is_page(out)),
    )
    if out is None and not output.settings.is_json:
        out = work.home / "proof.png"
    if out is not None:
        draw(made, out, guides=guides)
    output.machine(made.document(() if out is None else (relative_to(out, work.root),)))
    report(made, out, chosen.source)
    is_clean = not made.blocked and not any(scene.unknowns for _, scene in made.scenes)
    return ExitCode.OK if is_clean else ExitCode.FINDINGS


def draw(made: Proof, out: Path, *, guides: bool) -> None:
    """Draw the proof into a file or, for "-", onto standard output."""
    from rivelt.proof.write import draw_sheet_bytes, write_proof

    with output.progress("screens") as progress:
        if output.is_stdout(out):
            output.binary(draw_sheet_bytes(made, guides=guides, on_progress=progress))
        else:
            write_proof(made, out, guides=guides, on_progress=progress)


def report(made: Proof, out: Path | None, source: Path | None = None) -> None:
    """Print the scenes as a table, and where the sheet is."""
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
    output.say(f"The proof, {state}: {output.shown_file(out) if out is not None else 'not drawn'}")
    codes = sorted({code for _, scene in made.scenes for code in made.codes_of(scene)})
    if codes:
        output.next_step("explain", codes[0])
    else:
        output.next_step("apply" if made.is_planned else "check", given=[source])


def _told(made: Proof, scene: Scene) -> str:
    """What a screen shows, with the codes of what is wrong there."""
    codes = ", ".join(made.codes_of(scene))
    return f"{scene.title} ({codes})" if codes else scene.title


def _ground(scene: Scene) -> str:
    return scene.ground_in_words
