"""`rivelt survey`."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.cli import output
from rivelt.cli.options import Debug, Editions, Json, Only, Project, Quiet, Verbose, warn_if_unfinished, warn_of_unread
from rivelt.errors import ExitCode

if TYPE_CHECKING:
    from rivelt.opening import Surveyed
    from rivelt.plan.owner import Owner


def survey(
    project: Project = Path(),
    only: Only = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """See what is there.

    The native projects, today's launch screen of each in every variant, which brief and edition they are of, and what Rivelt would touch.
    """
    from rivelt import opening
    from rivelt.platforms import signs

    warn_if_unfinished(project)
    found = opening.survey(project, only=only or (), editions=editions or ())
    output.at(found.root)
    output.machine(found.document)
    warn_of_unread(found.project, with_links=True)
    for problem in found.problems:
        output.warn(f"{output.place(problem.place)}{problem.message}")
    if not found.sites:
        output.say(f"No native project was found in {found.root}.")
        output.hint(f"Give the folder that holds {signs()} somewhere below it.")
        return ExitCode.FINDINGS
    report(found)
    output.say()
    if found.has_brief:
        output.next_step("proof", "--now", given=[project])
    else:
        output.next_step("brief", "--mark", "FILE", "--ground", "COLOUR", given=[project])
    is_unknown = any(one.kind != "outside" for one in found.project.unread)
    is_clean = not (found.problems or is_unknown or any(site.blocked for site in found.sites))
    return ExitCode.OK if is_clean else ExitCode.FINDINGS


def report(found: Surveyed) -> None:
    """Print the sites as a table, then each with all that is known of it."""
    from rivelt.platforms import platform

    sites, owners = found.sites, {id(site): found.owners_of(site) for site in found.sites}
    has_owners, has_variants = any(owners.values()), any(site.variants for site in sites)
    has_briefs = len({one.brief for its in owners.values() for one in its}) > 1
    rows = [
        (
            platform(site.target).title,
            site.name,
            *([_owners_in_words(owners[id(site)], has_briefs=has_briefs)] if has_owners else []),
            *([", ".join(site.variants) or "all"] if has_variants else []),
            site.today if site.blocked is None else f"left alone: {site.blocked.message}",
        )
        for site in sites
    ]
    columns = ("platform", "site", *(["edition"] * has_owners), *(["variants"] * has_variants), "launch screen today")
    output.table(columns, rows)
    told: set[tuple[str, str]] = set()
    for site in sites:
        if (site.target, site.name) in told:
            continue
        told.add((site.target, site.name))
        output.say()
        output.heading(f"{platform(site.target).title}: {site.name}")
        facts = list(site.facts.items())
        if site.blocked is not None:
            facts += [
                ("left alone", output.place(site.blocked.place) + site.blocked.message),
                ("to fix it", site.blocked.hint or ""),
            ]
        else:
            facts += [("apply would edit", "\n".join(map(output.of_project, site.touches)) or "none of your files")]
        output.pairs(facts)


def _owners_in_words(owners: Sequence[Owner], *, has_briefs: bool) -> str:
    """The editions that a site is of; with several briefs in the project, each with its brief."""
    from rivelt.brief.model import THE_BRIEF

    names = (one.edition or THE_BRIEF for one in owners)
    return (
        ", ".join(f"{one.brief}: {name}" if has_briefs else name for one, name in zip(owners, names, strict=True))
        or "none"
    )
