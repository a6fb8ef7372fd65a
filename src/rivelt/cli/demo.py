"""`rivelt demo`."""

from __future__ import annotations

import shlex
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Quiet, Verbose
from rivelt.disk.tree import relative_to, resolved, undo_command
from rivelt.errors import ExitCode

if TYPE_CHECKING:
    from rivelt.documents.project import DemoStep
    from rivelt.job import Job


def demo(
    folder: Annotated[Path, typer.Argument(metavar="[DIR]", help="The folder to lay the sample app out in.")] = Path(
        "skerryline-demo"
    ),
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> None:
    """Do the whole job on a sample app.

    Skerryline ships with Rivelt. Prints each step with the command that does it and a line of its result; --verbose prints all of it.
    """
    from rivelt import opening
    from rivelt.demo.layout import lay_out
    from rivelt.documents.project import DemoDocument, DemoSummary

    lay_out(folder)
    root = resolved(folder)
    output.say(f"Skerryline, a sample app for Android, iOS, Windows and the web, is now in {folder}")
    output.at(root)
    tour = _Tour(folder, opening.open(folder))
    for step in (tour.survey, tour.measure, tour.page, tour.apply, tour.sheet, tour.check):
        step()
    sheet, page = folder / "proof.png", folder / "proof.html"
    output.machine(
        DemoDocument(
            root=str(root),
            summary=DemoSummary(steps=len(tour.steps)),
            steps=tour.steps,
            sheet=relative_to(sheet, root),
            page=relative_to(page, root),
        )
    )
    output.say()
    output.say(f"Look at the proof, {sheet}, or open {page} in a browser: before and after.")
    output.hint("Next, in the folder of your own app: rivelt survey")


class _Tour:
    """The steps of the demo, one after the other on one job, so that nothing is read, decoded or worked out twice."""

    def __init__(self, folder: Path, job: Job) -> None:
        self._folder = folder
        self._brief = folder / "rivelt.toml"
        self._job = job
        self.steps: list[DemoStep] = []

    def survey(self) -> None:
        """Print what is there."""
        from rivelt import opening
        from rivelt.cli.survey import report

        found = opening.survey(self._folder)
        self._job.project = found.project  # what has been read and parsed for this is what the other steps need
        targets = dict.fromkeys(site.target for site in found.sites)
        touched = {path for site in found.sites for path in site.touches}
        result = f"{len(found.sites)} native projects ({', '.join(targets)}); apply would edit {len(touched)} files"
        code = ExitCode.FINDINGS if any(site.blocked for site in found.sites) else ExitCode.OK
        self._tell("What is there", ["survey", self._folder], result, code, lambda: report(found))

    def measure(self) -> None:
        """Print what the art measures."""
        from rivelt.cli.measure import report

        found = self._job.measure()
        contrast = min((one.median for art in found.art for one in art.contrast.values()), default=None)
        least = "" if contrast is None else f"; the lowest median contrast to a ground is {contrast:.1f}:1"
        code = ExitCode.FINDINGS if any(one.severity != "note" for one in found.findings) else ExitCode.OK
        result = (
            f"{len(found.art) + len(found.backdrops)} files of art, {_counted(len(found.findings), 'finding')}{least}"
        )
        self._tell("What the art measures", ["measure", self._brief], result, code, lambda: report(found))

    def page(self) -> None:
        """Print what the app shows today and would show, before anything is written."""
        self._prove("What it shows today, and what it would show: a page for the browser", "proof.html", now=False)

    def apply(self) -> None:
        """Make it so."""
        from rivelt.cli.apply import counted, report
        from rivelt.workspace.commit import apply as write

        changes = self._job.changes()
        write(changes)
        self._job = self._job.after(changes)
        steps = _counted(len(changes.manual_steps), "step")
        undo = undo_command(changes.root)
        result = f"{counted(changes)}; {steps} left to do by hand; take it back with: {undo}"
        self._tell(
            "Make it so",
            ["apply", self._brief],
            result,
            ExitCode.OK,
            lambda: report(changes, [self._brief], is_applied=True),
        )

    def sheet(self) -> None:
        """Print what the app shows now."""
        self._prove("What the app shows now", "proof.png", now=True)

    def check(self) -> None:
        """Print what the rules say."""
        from rivelt.cli.findings import report
        from rivelt.rules.formats import in_words

        found = self._job.check()
        code = ExitCode.FINDINGS if found.reaches("warning") else ExitCode.OK
        self._tell("What the rules say", ["check", self._brief], in_words(found), code, lambda: report(found))

    def _prove(self, title: str, name: str, *, now: bool) -> None:
        from rivelt.cli.proof import draw, report

        out = self._folder / name
        made = self._job.prove(now=now, with_before=not now)
        draw(made, out, guides=False)
        unknown = sum(bool(scene.unknowns) for _, scene in made.scenes)
        marked = {code for _, scene in made.scenes for code in made.codes_of(scene)}
        wrong = f"{_counted(len(marked), 'rule')} broken on them, {unknown} unknown"
        result = f"{_counted(len(made.scenes), 'screen')}, {wrong}: {out}"
        command: list[str | Path] = ["proof", self._brief, *(["--now"] if now else []), "--out", out]
        code = ExitCode.FINDINGS if unknown or made.blocked else ExitCode.OK
        self._tell(title, command, result, code, lambda: report(made, out, self._brief))

    def _tell(
        self, title: str, command: list[str | Path], result: str, code: ExitCode, everything: Callable[[], None]
    ) -> None:
        """A heading, the command that does the step, ready to be copied, and its result."""
        from rivelt.documents.project import DemoStep

        words = ["rivelt", *map(str, command)]
        self.steps.append(DemoStep(title=title, command=words, result=result, exit_code=code))
        output.say()
        output.heading(title)
        output.say(f"$ {shlex.join(words)}", output.ACCENT, is_verbatim=True)
        if output.settings.is_verbose:
            everything()
        else:
            output.say(f"  {result}.")


def _counted(number: int, noun: str) -> str:
    return f"{number or 'no'} {noun}{'s' * (number != 1)}"
