"""`rivelt proof --since`: what is different since a commit."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.cli import output
from rivelt.cli.options import tell_brief, warn_of_unread
from rivelt.disk.tree import relative_to
from rivelt.errors import BadInput, ExitCode

if TYPE_CHECKING:
    from rivelt.cli.proof import Chosen
    from rivelt.job import Job
    from rivelt.review.model import Review


def review(chosen: Chosen, out: Path | None, since: str, at: str | None, *, is_markdown: bool) -> int:
    """Draw what is different, and print it."""
    from rivelt.review.write import MARKDOWN, check_review_name

    is_stdout = out is not None and output.is_stdout(out)
    if out is not None and not is_stdout:
        check_review_name(out)
        if is_markdown and out.suffix.lower() not in MARKDOWN:
            hint = f"Name it {out.stem}.md"
            raise BadInput(f"--format markdown writes Markdown; {out.name} is not its name", hint=hint)
    work, made = _worked_out(chosen, since, at)
    if out is None and not output.settings.is_json:
        out = work.home / ("proof.md" if is_markdown else "proof.png")
    written = _draw(made, out, is_markdown=is_markdown, is_stdout=is_stdout)
    output.machine(made.document(tuple(relative_to(path, work.root) for path in written)))
    if is_markdown and not output.settings.is_json:
        _print_markdown(made, out, is_stdout=is_stdout)
    elif not is_stdout:
        report(made, out)
    return ExitCode.OK if made.is_clean else ExitCode.FINDINGS


def _worked_out(chosen: Chosen, since: str, at: str | None) -> tuple[Job, Review]:
    from rivelt.review.collect import Wanted
    from rivelt.review.since import both, compared

    work, before = both(chosen.source, since=since, at=at, only=chosen.only, editions=chosen.editions)
    tell_brief(work)
    warn_of_unread(work.project)
    for one in before.job.project.unread if before.job is not None else ():
        if one.kind != "outside":
            output.warn(f"not read in {since}: {one.path}: {one.reason}")
    wanted = Wanted(chosen.screens, chosen.all_screens, chosen.now)
    with output.progress("screens") as progress:
        return work, compared(work, before, wanted, since=since, at=at, on_progress=progress)


def _draw(made: Review, out: Path | None, *, is_markdown: bool, is_stdout: bool) -> tuple[Path, ...]:
    from rivelt.review.write import review_png, write_review

    if out is None or (is_stdout and is_markdown):
        return ()
    with output.progress("screens") as progress:
        if is_stdout:
            output.binary(review_png(made, progress))
            return ()
        return write_review(made, out, on_progress=progress)


def _print_markdown(made: Review, out: Path | None, *, is_stdout: bool) -> None:
    """Print what a comment is to say; its pictures are where the file is that was written, if one was."""
    from urllib.parse import quote

    from rivelt.review.markdown import as_markdown

    folder = None if out is None or is_stdout else quote(out.with_suffix("").name)
    output.plain(as_markdown(made, folder))
    if out is not None and not is_stdout:
        output.warn(f"written: {output.shown_file(out)}, its pictures in {output.shown_file(out.with_suffix(''))}")


def report(made: Review, out: Path | None) -> None:
    """Print the screens that are different as a table, and where the sheet is."""
    from rivelt.review.sheet import counted, notes_of

    sites = {change.site.label for change in made.changes}
    is_planned = any(change.state != "as it is" for change in made.changes)
    rows = [
        (
            *((change.site.label,) if len(sites) > 1 else ()),
            change.screen.system,
            change.look,
            *((change.state,) if is_planned else ()),
            ", ".join(change.in_words),
        )
        for change in made.changes
    ]
    columns = (*(("site",) if len(sites) > 1 else ()), "screen", "look", *(("state",) if is_planned else ()))
    output.table((*columns, "what is different"), rows)
    if rows:
        output.say()
    for words in notes_of(made):
        output.say(f"{words[:1].upper()}{words[1:]}")
    for finding in made.new_findings:
        output.finding(finding, ())
    output.say(f"{made.since} to {made.later}: {counted(made)}.")
    if out is not None:
        output.say(f"The proof: {output.shown_file(out)}")
    if any(change.state != "as it is" for change in made.changes) and not made.at:
        output.next_step("apply")
    elif made.new_findings:
        output.next_step("explain", made.new_findings[0].code)
