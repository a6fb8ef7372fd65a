"""`rivelt explain`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

import typer

from rivelt.cli import complete, output
from rivelt.cli.options import Debug, Json, Quiet, Verbose

if TYPE_CHECKING:
    from collections.abc import Collection

    from rivelt.documents.rules import ExplainDocument
    from rivelt.rules.rulebook import Rule

_PARTS = (
    ("What it means", "means"),
    ("What a person sees", "sees"),
    ("Why it matters", "why"),
    ("How to fix it", "fix"),
)


def explain(
    code: Annotated[
        str | None,
        typer.Argument(
            metavar="[CODE]",
            help="The rule, such as AND08. If omitted, all of them.",
            show_default=False,
            autocompletion=complete.CODES,
        ),
    ] = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> None:
    """Say what a finding means, why it matters, and how to fix it."""
    from rivelt.platforms.rulebooks import catalogue
    from rivelt.platforms.rulebooks import explain as find

    if code is None:
        known = catalogue()
        output.machine(_document(known.values()))
        output.table(
            ("code", "severity", "rule"),
            [(rule.code, rule.words.severity, rule.words.title) for rule in known.values()],
        )
        return
    rule = find(code)
    output.machine(_document([rule]))
    output.heading(f"{rule.code}  {rule.words.title}")
    output.say(f"{rule.words.severity}; {', '.join(_targets(rule))}")
    for title, name in _PARTS:
        output.say()
        output.heading(title)
        output.paragraph(getattr(rule.words, name))
    if rule.words.source:
        output.say()
        output.say(f"See also {rule.words.source}")


def _targets(rule: Rule[Any]) -> tuple[str, ...]:
    from rivelt.platforms import TARGETS

    return rule.targets or TARGETS


def _document(rules: Collection[Rule[Any]]) -> ExplainDocument:
    from rivelt.documents.rules import ExplainDocument, ExplainSummary

    return ExplainDocument(summary=ExplainSummary(rules=len(rules)), rules=[rule.item for rule in rules])
