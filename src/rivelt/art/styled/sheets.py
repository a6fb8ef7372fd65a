"""Style sheets as rules: selectors, declarations, and the media queries that decide which of them hold (CSS Syntax 3, Selectors 4)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any

import cssselect2
import tinycss2
from msgspec import Struct, field

from rivelt.art.styled.refusal import Unresolved
from rivelt.media.features import Device
from rivelt.media.queries import fits
from rivelt.patterns import regex
from rivelt.units import Size

_SILENT = frozenset({"charset", "namespace", "font-face", "keyframes", "-webkit-keyframes", "page", "property"})
_DESCENDANT = regex(r"[^\s>+~,(]\s+[^\s>+~,)]")
_IN_A_ROW = regex(r"~(?!=)|:(?:nth|last|only|first|empty)-", re.IGNORECASE)
_INSIDE = regex(r":has\(", re.IGNORECASE)
_TYPES = frozenset({"", "text/css"})
# A drawing is shown at many sizes: a rule holds for it only where it holds at all of them, in the light look.
_DEVICES = tuple(
    Device.of(view, view, scale, "light")
    for view in (Size(1, 20_000), Size(20_000, 1), Size(500, 500))
    for scale in (0.5, 4.0)
)


class Declaration(Struct, frozen=True):
    """One declaration: `tokens` are those of its value."""

    name: str
    tokens: tuple[Any, ...]
    is_important: bool


class Sheets(Struct):
    """All style sheets of a drawing."""

    matcher: cssselect2.Matcher = field(default_factory=cssselect2.Matcher)
    selectors: list[str] = field(default_factory=list)

    def work(self, elements: int, depth: int, siblings: int) -> float:
        """Return how many comparisons matching takes at the most, in a drawing of so many elements."""
        total = 0.0
        for selector in self.selectors:
            gaps = len(_DESCENDANT.findall(selector))
            rows = len(_IN_A_ROW.findall(selector))
            inside = len(_INSIDE.findall(selector))
            exponent = min(gaps, 20), min(rows, 20), min(inside, 20)
            total += float(depth) ** exponent[0] * float(siblings) ** exponent[1] * float(elements) ** exponent[2]
        return total * elements

    def add(self, text: str, kind: str = "", media: str = "") -> None:
        """Take the text of a `<style>` with the values of its `type` and `media`.

        Raises:
            Unresolved: it holds something that cannot be decided.
        """
        if kind.strip().lower() in _TYPES and (not media.strip() or _holds(media)):
            self._take(tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True))

    def _take(self, rules: Sequence[Any]) -> None:
        for rule in rules:
            if rule.type == "at-rule":
                self._at_rule(rule)
            elif rule.type == "qualified-rule":
                self._rule(rule)

    def _at_rule(self, rule: Any) -> None:
        if rule.lower_at_keyword == "media" and rule.content is not None:
            inside = tinycss2.parse_rule_list(rule.content, skip_comments=True, skip_whitespace=True)
            if all(map(_only_moves, inside)) or _holds(tinycss2.serialize(rule.prelude)):
                self._take(inside)
        elif rule.lower_at_keyword not in _SILENT:
            raise Unresolved(f"its style has an @{rule.at_keyword} rule")

    def _rule(self, rule: Any) -> None:
        found = tuple(declarations(rule.content))
        shown = tinycss2.serialize(rule.prelude).strip()
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude)
        except cssselect2.SelectorError as error:
            raise Unresolved(f"its style has the selector {shown[:40]!r}, which is not understood") from error
        for selector in selectors:
            if selector.pseudo_element is None:
                self.selectors.append(shown)
                self.matcher.add_selector(selector, found)


def declarations(content: Sequence[Any] | str) -> Iterator[Declaration]:
    """Yield the declarations of a style attribute, or of a rule.

    Raises:
        Unresolved: rules stand among them.
    """
    for one in tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True):
        if one.type == "declaration":
            name = one.name if one.name.startswith("--") else one.lower_name
            yield Declaration(name, tuple(one.value), one.important)
        elif one.type != "error":
            raise Unresolved("its style has nested rules")


def _only_moves(rule: Any) -> bool:
    """Whether a rule says nothing of the drawing at rest."""
    if rule.type == "at-rule":
        return rule.lower_at_keyword in _SILENT
    names = [one.name for one in declarations(rule.content)] if rule.type == "qualified-rule" else [""]
    return all(name.startswith(("animation", "transition")) for name in names)


def _holds(queries: str) -> bool:
    verdicts = {fits(queries, device) for device in _DEVICES}
    if len(verdicts) == 1 and None not in verdicts:
        return verdicts == {True}
    raise Unresolved(f"its style depends on the screen: @media {queries.strip()[:60]}")
