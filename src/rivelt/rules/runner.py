"""The one runner of rules: for check and measure, for the marks on a proof, and for apply's last look."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import TypeVar

from msgspec import Struct, field

from rivelt.errors import RiveltError
from rivelt.findings import Finding, Severity
from rivelt.rules.rulebook import Rule, Rulebook, Said, unknown

X = TypeVar("X")


class Choice(Struct, frozen=True):
    """Which rules are wanted, and the severities that a brief gives some of them. `codes` is None for all rules."""

    codes: frozenset[str] | None = None
    severities: Mapping[str, Severity] = field(default_factory=dict)

    def wants(self, code: str) -> bool:
        """Return whether a rule is wanted."""
        return self.codes is None or code in self.codes

    def severity_of(self, rule: Rule[X]) -> Severity:
        """Return the severity of a rule."""
        return self.severities.get(rule.code, rule.words.severity)


def judge(
    book: Rulebook[X], subject: X, choice: Choice, *, site: str = "", path: str | None = None
) -> Iterator[Finding]:
    """Yield what the wanted rules of a book say of a subject: for each rule its findings, or that it holds.

    Args:
        book: the rules.
        subject: what they look at.
        choice: which of them are wanted.
        site: the label of the site that the subject is, if it is one.
        path: the file that is to blame where a rule names none.
    """
    for code, rule in book.rules.items():
        if choice.wants(code):
            yield from findings(rule, said_by(rule, subject), choice, site=site, path=path)


def findings(
    rule: Rule[X], said: Iterable[Said], choice: Choice, *, site: str = "", path: str | None = None
) -> Iterator[Finding]:
    """Yield what a rule says as findings, each once; that it holds, where it says nothing."""
    severity = choice.severity_of(rule)
    found: dict[Finding, None] = {}
    for one in said:
        weight = severity if rule.code in choice.severities else one.severity or severity
        place = one.place
        found[
            Finding(
                rule.code,
                weight,
                one.verdict,
                one.message,
                one.fix,
                place.path if place else path,
                place.line if place else None,
                place.column if place else None,
                site,
                one.screen,
                one.look,
            )
        ] = None
    yield from found or [Finding(rule.code, severity, "holds", path=path, site=site)]


def said_by(rule: Rule[X], subject: X) -> Iterator[Said]:
    """Yield what a rule says; an input that cannot be read means that it cannot be judged."""
    try:
        yield from rule.check(subject)
    except RiveltError as error:
        yield unknown(error.message, error.place)
