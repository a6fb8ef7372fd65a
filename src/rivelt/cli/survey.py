"""`rivelt survey`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Only, Project, Quiet, warn_if_unfinished, warn_of_unread
from rivelt.errors import ExitCode

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.scene.site import Site


def survey(
    project: Project = Path(),
    only: Only = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> int:
    """See what is there.

    The native projects, today's launch screen of each, and what Rivelt would touch.
    """
    from rivelt import opening
    from rivelt.brief.find import find_brief
    from rivelt.platforms import signs

    warn_if_unfinished(project)
    found = opening.open_folder(project, only=only or ())
    output.machine(
        {
            "root": str(found.root),
            "sites": [
                {
                    "target": site.target,
                    "site": site.name,
                    "today": site.today,
                    "facts": {name: value.replace("\n", ", ") for name, value in site.facts.items()},
                    "touches": list(site.touches),
                    "blocked": site.blocked.message if site.blocked else None,
                }
                for site in found.sites
            ],
            "unread": [{"path": one.path, "reason": one.reason} for one in found.project.unread],
        }
    )
    warn_of_unread(found.project, with_links=True)
    if not found.sites:
        output.say(f"No native project was found in {found.root}.")
        output.hint(f"Give the folder that holds {signs()} somewhere below it.")
        return ExitCode.FINDINGS
    _report(found.sites)
    output.say()
    has_brief = find_brief(project) is not None
    output.hint("Next: rivelt proof --now" if has_brief else "Next: rivelt brief --mark FILE --ground COLOUR")
    return ExitCode.FINDINGS if any(site.blocked for site in found.sites) else ExitCode.OK


def _report(sites: Sequence[Site]) -> None:
    """The sites as a table, then each with all that is known of it."""
    from rivelt.platforms import platform

    rows = [
        (
            platform(site.target).title,
            site.name,
            site.today if site.blocked is None else f"left alone: {site.blocked.message}",
        )
        for site in sites
    ]
    output.table(("platform", "site", "launch screen today"), rows)
    for site in sites:
        output.say()
        output.heading(f"{platform(site.target).title}: {site.name}")
        facts = list(site.facts.items())
        if site.blocked is not None:
            place = f" ({site.blocked.place})" if site.blocked.place else ""
            facts += [("left alone", site.blocked.message + place), ("to fix it", site.blocked.hint or "")]
        else:
            facts += [("apply would edit", "\n".join(site.touches))]
        output.pairs(facts)
