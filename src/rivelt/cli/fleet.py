"""`rivelt fleet`."""

from __future__ import annotations

from contextlib import suppress
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import complete, interrupt, output
from rivelt.cli.findings import FailOn
from rivelt.cli.options import Debug, Json, Only, Quiet, Verbose
from rivelt.cli.output import weight_in_words
from rivelt.errors import BadInput, ExitCode, Stopped
from rivelt.findings import SEVERITIES

if TYPE_CHECKING:
    from rivelt.documents.fleet import BrandItem
    from rivelt.fleet.run import Outcome, Wanted, Wish

_NEEDED = ("pandas", "pyarrow", "matplotlib")
_MOST_ROWS = 40
_MOST_CODES = 4


TablePath = Annotated[
    Path, typer.Argument(metavar="TABLE", help="A .csv, .xlsx, .parquet or .json file with a row for each brand.")
]
Out = Annotated[Path, typer.Option("--out", metavar="DIR", help="The folder of results.")]
BaseBrief = Annotated[
    Path | None,
    typer.Option(
        "--brief",
        metavar="BRIEF",
        help="The brief that rows are laid over. Default: the nearest rivelt.toml.",
        show_default=False,
    ),
]
Make = Annotated[
    str,
    typer.Option(
        "--make",
        metavar="WHAT",
        help="What is made of each brand, with commas: plates, check, proof, patch, apply.",
        autocompletion=complete.WISHES,
    ),
]
Zipped = Annotated[bool, typer.Option("--zip", help="Put the plates of a brand into one ZIP file.")]
Strict = Annotated[bool, typer.Option("--strict", help="Make nothing where a row is bad.")]
Jobs = Annotated[
    int | None,
    typer.Option(
        "--jobs",
        min=1,
        max=512,
        metavar="N",
        help="How many processes work. Default: one for each core.",
        show_default=False,
    ),
]
Scheduler = Annotated[
    str | None,
    typer.Option(
        "--scheduler",
        metavar="ADDRESS",
        help="Work on the Dask cluster of this scheduler, such as tcp://10.0.0.5:8786.",
        show_default=False,
    ),
]


def fleet(
    table: TablePath,
    out: Out = Path("fleet"),
    brief: BaseBrief = None,
    make: Make = "plates,check,proof",
    only: Only = None,
    zipped: Zipped = False,
    strict: Strict = False,
    jobs: Jobs = None,
    scheduler: Scheduler = None,
    fail_on: Annotated[
        FailOn, typer.Option("--fail-on", help="From which severity on the exit code is 1.")
    ] = FailOn.WARNING,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Make many brands from one table, on all cores or on a cluster.

    A row is laid over the brief: columns are keys, such as light.ground and dark.mark; `name` names the brands, and $name stands for it.
    Started again, only what is missing or changed is made.
    """
    missing = [name for name in (*_NEEDED, *(["distributed"] if scheduler else [])) if find_spec(name) is None]
    if missing:
        message = f"fleets need {missing[0]}, which is not installed"
        raise BadInput(message, hint="Install it with: pip install 'rivelt[fleet]'")
    from rivelt.fleet.results import write_results
    from rivelt.fleet.run import Wanted

    found = _run(
        Wanted(
            table,
            out,
            _wishes(make),
            brief=brief,
            only=tuple(only or ()),
            is_zip=zipped,
            processes=jobs,
            scheduler=scheduler,
            is_strict=strict,
        )
    )
    with output.progress("contact sheet") as progress:
        written = write_results(found, progress)
    output.machine(found.document(written))
    _tell(found, out)
    return ExitCode.FINDINGS if _is_worth_a_look(found, fail_on) else ExitCode.OK


def _run(wanted: Wanted) -> Outcome:
    """Make the brands.

    Raises:
        Stopped: the person stopped it; what is made stays.
    """
    from rivelt.fleet.run import run

    made = 0
    with suppress(KeyboardInterrupt), interrupt.once(), output.progress("brands", is_timed=True) as progress:

        def count(done: int, total: int) -> None:
            nonlocal made
            made = done
            interrupt.raise_if_asked()
            progress(done, total)

        return run(wanted, count)
    raise Stopped(
        f"stopped; {made} brand{'s are' if made != 1 else ' is'} made",
        hint="Run the same command again to continue: what is made is not made again.",
    )


def _wishes(text: str) -> tuple[Wish, ...]:
    from rivelt.brief.faults import nearest
    from rivelt.fleet.run import WISHES

    words = [word.strip() for word in text.split(",") if word.strip()]
    for word in words:
        if word not in WISHES:
            near = nearest(word, WISHES)
            hint = f"Did you mean {near}?" if near else f"There are: {', '.join(WISHES)}."
            raise BadInput(f"--make knows no {word}", hint=hint)
    if not words:
        raise BadInput("--make names nothing", hint=f"There are: {', '.join(WISHES)}.")
    return tuple(wish for wish in WISHES if wish in words)


def _is_worth_a_look(found: Outcome, fail_on: FailOn) -> bool:
    """Whether a brand was not made, or a finding (or what is unknown) is severe enough."""
    if any(item.problems for item in found.items) or found.brands.problems:
        return True
    if fail_on is FailOn.NEVER:
        return False
    limit = SEVERITIES.index(fail_on.value)
    worst = [item.values["worst"] for item in found.items if item.values.get("worst")]
    return any(SEVERITIES.index(one) <= limit for one in worst)


def _tell(found: Outcome, out: Path) -> None:
    """Print what came of it: the table, or of many brands those that need a look."""
    for note in found.notes:
        output.warn(note)
    for cell in found.brands.problems:
        output.error(cell)
    items = found.items
    wanted = (
        items
        if len(items) <= _MOST_ROWS or output.settings.is_verbose
        else [one for one in items if _needs_a_look(one)]
    )
    if wanted:
        headers = ("brand", "", "plates", "findings", "contrast light", "dark", "fit")
        output.table(headers, [_row(item) for item in wanted[: None if output.settings.is_verbose else _MOST_ROWS]])
        output.say()
    for item in wanted:
        for problem in item.problems if item.status == "failed" else ():
            output.warn(f"{item.brand}: {problem.message}", *([f"  {problem.hint}"] if problem.hint else []))
    summary = found.document().summary
    parts = [f"{summary.made} made", f"{summary.kept} kept as they were" if summary.kept else ""]
    parts += [f"{summary.failed} not made" if summary.failed else "", f"{summary.bad} bad rows" if summary.bad else ""]
    output.say(
        f"{summary.brands} brands: {', '.join(part for part in parts if part)}; {weight_in_words(summary.bytes)} of plates."
    )
    if summary.unreadable_dark:
        output.say(f"Hard to see in the dark: {summary.unreadable_dark}.")
    if found.applied:
        from rivelt.disk.tree import undo_command

        output.say(f"Applied: {found.applied} files of the project were changed.")
        output.hint(f"Take it back: {undo_command(found.brands.good[0].brief.project)}")
    output.hint(
        f"The contact sheet: {out / 'fleet.png'}; to filter and sort: {out / 'fleet.html'}; the table: {out / 'fleet.csv'}"
    )


def _needs_a_look(item: BrandItem) -> bool:
    return bool(item.problems) or any(item.values.get(name) for name in ("errors", "warnings", "unknown"))


def _row(item: BrandItem) -> tuple[str, ...]:
    values = item.values
    codes = str(values.get("codes") or "").split()
    more = f" and {len(codes) - _MOST_CODES} more" if len(codes) > _MOST_CODES else ""
    unknown = f"{values['unknown']} unknown" if values.get("unknown") else ""
    told = ", ".join(part for part in (" ".join(codes[:_MOST_CODES]) + more, unknown) if part)
    return (
        item.brand,
        {"made": "made", "kept": "kept", "failed": "not made", "bad": f"row {item.row} is bad"}[item.status],
        weight_in_words(values["bytes"]) if "bytes" in values else "",
        told,
        *(f"{values[name]:.1f}:1" if name in values else "" for name in ("contrast_light", "contrast_dark")),
        f"{values['fit']:.0%}" if "fit" in values else "",
    )
