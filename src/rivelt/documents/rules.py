"""What `check` and `explain` print."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.documents.base import Code, Count, Document, FindingItem, Part, Root, Target
from rivelt.findings import Severity


class CheckSummary(Part, frozen=True, kw_only=True):
    """How many results there are of each verdict, and of those that are broken how many of each severity."""

    holds: Count
    broken: Count
    unknown: Count
    errors: Count
    warnings: Count
    notes: Count
    known: Annotated[Count, Meta(description="with --since: what is broken or unknown there as well")]


class CheckDocument(Document, frozen=True, kw_only=True):
    """What `rivelt check` prints: what the rules say of a project."""

    schema: Literal["rivelt.check/1"] = "rivelt.check/1"
    root: Root
    summary: CheckSummary
    planned: Annotated[bool, Meta(description="of the project as apply would leave it, not as it is")]
    ignored: Annotated[dict[str, str], Meta(description="rules that the brief leaves out, with the reasons")]
    since: (
        Annotated[str, Meta(description="the revision of --since: findings are then only those that it does not have")]
        | None
    )
    findings: Annotated[
        list[FindingItem], Meta(description="what is broken, most severe first; then what is unknown; then what holds")
    ]
    known: Annotated[
        list[FindingItem], Meta(description="what is broken or unknown in the revision of --since as well")
    ]


class RuleItem(Part, frozen=True, kw_only=True):
    """A rule, in words."""

    code: Code
    title: str
    severity: Severity
    targets: Annotated[list[Target], Meta(description="empty for a rule about all platforms")]
    owner: Annotated[str, Meta(description="the part of Rivelt that has it")]
    means: str
    sees: Annotated[str, Meta(description="what a person sees who launches the app")]
    why: str
    fix: str
    source: Annotated[str, Meta(description="address of the documentation that it is from, if there is one")]


class ExplainSummary(Part, frozen=True, kw_only=True):
    """How many rules are explained."""

    rules: Count


class ExplainDocument(Document, frozen=True, kw_only=True):
    """What `rivelt explain` prints: one rule, or all."""

    schema: Literal["rivelt.explain/1"] = "rivelt.explain/1"
    summary: ExplainSummary
    rules: list[RuleItem]
