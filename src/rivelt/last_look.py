"""Apply's last look: the rules judge the project exactly as it would be written, in every variant, before anything is written."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.errors import Refused, RiveltError
from rivelt.platforms import TARGETS, platform
from rivelt.platforms.rulebooks import catalogue
from rivelt.proposal import Proposal, refuse_nothing
from rivelt.rules.books import SITES
from rivelt.rules.runner import Choice
from rivelt.workspace.lockfile import LOCK_NAME

if TYPE_CHECKING:
    from rivelt.evidence import Evidence
    from rivelt.findings import Finding
    from rivelt.scene.site import Site
    from rivelt.workspace.change import Changes


class Passed(Struct, frozen=True):
    """A proposal that passed the last look, without the sites that it would break; and the changes it makes on disk."""

    proposal: Proposal
    changes: Changes

    def to_write(self, *, force: bool = False) -> Changes:
        """Return the changes, after checking that they overwrite nobody's edits.

        Args:
            force: replace generated files even if a person has edited them since.

        Raises:
            Refused: generated files were edited by a person; their diffs are in `details`.
        """
        if not force:
            self.proposal.refuse_loss(self.changes)
        return self.changes


def last_look(
    proposal: Proposal,
    before: Evidence,
    after: Callable[[Changes], Evidence],
    choice_of: Callable[..., Choice],
    *,
    prune: bool = False,
) -> Passed:
    """Return a proposal without the sites in which apply would introduce an error, and its changes.

    A site with a new error is stopped with the rule's words; others go on.

    Args:
        proposal: what would be done, its plates rendered.
        before: the project as it is.
        after: returns the project as it is once some changes are written.
        choice_of: returns the rules that a brief selects, with their severities.
        prune: remove launch images that nothing uses any more.

    Raises:
        Refused: no site is left.
    """
    work = proposal.work
    choices = {key: _errors_of(choice_of(brief=edition.brief)) for key, edition in work.by_key.items()}
    stopped: dict[Site, RiveltError] = {}
    while True:
        changes = proposal.changes(prune=prune)
        if all(change.path == LOCK_NAME for change in changes.files):
            return Passed(proposal, changes)
        there = after(changes)
        new = {
            site: found
            for site in proposal.sites
            if (found := _new_error(site, before, there, choices[site.brief, site.edition]))
        }
        if not new:
            return Passed(proposal, changes)
        stopped |= {site: _stopped_by(found) for site, found in new.items()}
        proposal = proposal.without(stopped)
        refuse_nothing(proposal)


def _errors_of(choice: Choice) -> Choice:
    """The wanted rules on sites whose breaking is an error."""
    on_sites = {code for book in (SITES, *(platform(target).rules for target in TARGETS)) for code in book.rules}
    wanted = {code: rule for code, rule in catalogue().items() if code in on_sites and choice.wants(code)}
    errors = {code for code, rule in wanted.items() if choice.severity_of(rule) == "error"}
    return Choice(frozenset(errors), choice.severities)


def _new_error(site: Site, before: Evidence, after: Evidence, errors: Choice) -> Finding | None:
    """The first error of a site that apply would bring, in any variant; one that it only moves, such as to another line, was there before."""
    broken = [found for found in after.judge_owner(site.owner, errors) if found.verdict == "broken"]
    if not broken:
        return None
    known = {found.code for found in before.judge_owner(site.owner, errors) if found.verdict == "broken"}
    return next((found for found in broken if found.code not in known), None)


def _stopped_by(found: Finding) -> Refused:
    rule = catalogue()[found.code]
    message = f"apply would break it: {found.message} ({found.code}: {rule.words.title})"
    return Refused(message, place=found.place, hint=found.fix or rule.words.fix)
