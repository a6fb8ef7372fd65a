"""`rivelt proof --since`: what is different since a commit."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from rivelt.cli import output
from rivelt.cli.options import tell_brief, warn_of_unread
from rivelt.disk.tree import relative_to
from rivelt.errors import BadInput, ExitCode

if TYPE_CHECKING:
    from rivelt.job import Job
    from rivelt.review.model import Review


class Asked(NamedTuple):
    """What was asked for; see the options of `rivelt proof`."""

    source: Path | None
    out: Path | None
    since: str
    at: str | None
    screens: tuple[str, ...]
    all_screens: bool
    now: bool
    only: tuple[str, ...]
    editions: tuple[str, ...]


def review(asked: Asked, *, is_markdown: bool) -> int:
    """Draw what is different, and print it."""
    from rivelt.review.write import MARKDOWN, check_review_name

    is_stdout = asked.out is not None and output.is_stdout(asked.out)
    if asked.out is not None and not is_stdout:
        check_review_name(asked.out)
        if is_markdown and asked.out.suffix.lower() not in MARKDOWN:
            hint = f"Name it {asked.out.stem}.md"
            raise BadInput(f"--format markdown writes Markdown; {asked.out.name} is not its name", hint=hint)
    work, made = _worked_out(asked)
    out = asked.out
    if out is None and not output.settings.is_json:
        out = work.home / ("proof.md" if is_markdown else "proof.png")
    written = _draw(made, out, is_markdown=is_markdown, is_stdout=is_stdout)
    output.machine(made.document(tuple(relative_to(path, work.root) for path in written)))
    if is_markdown and not output.settings.is_json:
        _print_markdown(made, out, is_stdout=is_stdout)
    elif not is_stdout:
        report(made, out)
    return ExitCode.OK if made.is_clean else ExitCode.FINDINGS


def _worked_out(asked: Asked) -> tuple[Job, Review]:
    from rivelt import opening
    from rivelt.project.files import DISK
    from rivelt.review.collect import Wanted
    from rivelt.review.collect import review as reviewed
    from rivelt.review.earlier import earlier
    from rivelt.revision.tree import Revision

    folder = (asked.source or Path()) if asked.source is None or asked.source.is_dir() else asked.source.parent
    before = Revision.of(folder, asked.since, other=asked.at or "HEAD")
    files = DISK if asked.at is None else Revision.of(folder, asked.at)
    work = opening.open(asked.source, only=asked.only, editions=asked.editions, files=files)
    tell_brief(work)
    warn_of_unread(work.project)
    found = earlier(work, before)
    if found.job is not None:
        for one in found.job.project.unread:
            if one.kind != "outside":
                output.warn(f"not read in {asked.since}: {one.path}: {one.reason}")
    wanted = Wanted(asked.screens, asked.all_screens, asked.now)
    with output.progress("screens") as progress:
        made = reviewed(work, found, wanted, since=asked.since, at=asked.at or "", on_progress=progress)
    return work, made


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
