"""Options that several commands share, declared once."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, TypeAlias

import typer

from rivelt.cli import complete, output

if TYPE_CHECKING:
    from rivelt.job import Job
    from rivelt.project.project import Project as ProjectFiles

_MOST_UNREAD = 10


def _be_quiet(value: bool) -> bool:
    output.settings.is_quiet = output.settings.is_quiet or value
    return value


def _be_machine_readable(value: bool) -> bool:
    output.settings.is_json = output.settings.is_json or value
    return value


def _show_tracebacks(value: bool) -> bool:
    output.settings.is_debug = output.settings.is_debug or value
    return value


def _say_more(value: bool) -> bool:
    output.settings.is_verbose = output.settings.is_verbose or value
    return value


def warn_if_unfinished(source: Path | None) -> None:
    """Say, before a project is looked at, that an earlier apply was stopped halfway in it."""
    from rivelt.disk.tree import undo_command
    from rivelt.workspace.history import applied_project, unfinished

    start = source or Path()
    if state := unfinished(start):
        what = "apply" if state == "applying" else "undo"
        command = undo_command(applied_project(start if start.is_dir() else start.parent))
        output.warn(
            f"an earlier {what} was stopped halfway: files of both states are here; take it back with: {command}"
        )


def tell_brief(work: Job, *, with_sites: bool = False) -> None:
    """Name the briefs that are not in the current folder; `with_sites`: and the sites of each, where there are several briefs."""
    from rivelt.brief.find import shown_path
    from rivelt.editions import brief_key
    from rivelt.platforms.choose import listed

    output.at(work.root)
    for brief in work.briefs:
        sites = (
            [site.label for site in work.all_sites if site.brief == brief_key(brief, work.root)] if with_sites else []
        )
        if with_sites or brief.folder != Path.cwd():
            output.warn(f"using {shown_path(brief.path)}{f' for {listed(sites)}' if sites else ''}")


def warn_of_unread(project: ProjectFiles, *, with_links: bool = False) -> None:
    """Say what in a project is unknown, because it cannot be read; `with_links`: which links lead out of it as well."""
    unread = [one for one in project.unread if one.kind != "outside" or (with_links and not one.is_of_a_tool)]
    most = len(unread) if output.settings.is_verbose else _MOST_UNREAD
    for one in unread[:most]:
        output.warn(f"not read: {one.path}: {one.reason}")
    if len(unread) > most:
        output.warn(f"not read: {len(unread) - most} more; see them all with: rivelt survey --verbose")


Json: TypeAlias = Annotated[
    bool, typer.Option("--json", callback=_be_machine_readable, help="Print JSON for machines, and nothing else.")
]
Quiet: TypeAlias = Annotated[bool, typer.Option("--quiet", "-q", callback=_be_quiet, help="Print only errors.")]
Verbose: TypeAlias = Annotated[
    bool, typer.Option("--verbose", "-v", callback=_say_more, help="Print everything, not only what matters most.")
]
Debug: TypeAlias = Annotated[
    bool, typer.Option("--debug", callback=_show_tracebacks, is_eager=True, help="Show tracebacks of errors.")
]
Force: TypeAlias = Annotated[
    bool, typer.Option("--force", help="Continue even where somebody's changes would be lost.")
]
Only: TypeAlias = Annotated[
    list[str] | None,
    typer.Option(
        "--only",
        metavar="TARGET",
        help="Only this target, such as ios; may be repeated.",
        autocompletion=complete.TARGETS,
    ),
]
Editions: TypeAlias = Annotated[
    list[str] | None,
    typer.Option(
        "--edition",
        metavar="NAME",
        help='Only this edition, "main" for the brief itself; may be repeated.',
        autocompletion=complete.EDITIONS,
    ),
]
BriefPaths: TypeAlias = Annotated[
    list[Path] | None,
    typer.Argument(
        metavar="[BRIEF...]",
        help="Briefs, or folders in which or above which they are. Default: the nearest rivelt.toml.",
        show_default=False,
    ),
]
BriefPath: TypeAlias = Annotated[
    Path | None,
    typer.Argument(
        metavar="[BRIEF]",
        help="The brief, or a folder in which or above which it is. Default: the nearest rivelt.toml.",
        show_default=False,
    ),
]
Project: TypeAlias = Annotated[
    Path,
    typer.Argument(
        metavar="[PROJECT]", help="The folder of the native projects. Default: this folder.", show_default=False
    ),
]
BriefOrProject: TypeAlias = Annotated[
    Path | None,
    typer.Argument(
        metavar="[BRIEF | PROJECT]",
        help="A brief, or a project's folder. Default: the nearest rivelt.toml.",
        show_default=False,
    ),
]
