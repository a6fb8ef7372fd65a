"""`rivelt explain`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Quiet

if TYPE_CHECKING:
    from rivelt.check.catalogue import Rule

_PARTS = (
    ("What it means", "means"),
    ("What a person sees", "sees"),
    ("Why it matters", "why"),
    ("How to mend it", "mend"),
)


def explain(
    code: Annotated[
        str | None,
        typer.Argument(metavar="[CODE]", help="The rule, such as AND08. Left out: all of them.", show_default=False),
    ] = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> None:
    """Tell what a finding means, why it matters, how to mend it."""
    from rivelt import job

    if code is None:
        known = job.rules()
        output.machine([_as_json(rule) for rule in known.values()])
        output.table(("code", "severity", "rule"), [(rule.code, rule.severity, rule.title) for rule in known.values()])
        return
    rule = job.explain(code)
    output.machine(_as_json(rule))
    output.heading(f"{rule.code}  {rule.title}")
    output.say(f"{rule.severity}; {', '.join(rule.targets)}")
    for title, name in _PARTS:
        output.say()
        output.heading(title)
        output.paragraph(getattr(rule, name))


def _as_json(rule: Rule) -> dict[str, object]:
    names = ("code", "title", "severity", "targets", "owner", "means", "sees", "why", "mend")
    return {name: list(value) if isinstance(value := getattr(rule, name), tuple) else value for name in names}
