"""The little of CSS that drawings use: style sheets with simple selectors, style attributes, and inheritance."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import NamedTuple

from rivelt.edit.xml import Node
from rivelt.patterns import regex

INHERITED = frozenset(
    [
        "fill",
        "fill-opacity",
        "fill-rule",
        "stroke",
        "stroke-width",
        "stroke-opacity",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-dasharray",
        "stroke-dashoffset",
        "color",
        "visibility",
        "clip-rule",
    ]
)
PROPERTIES = INHERITED | frozenset(
    {
        "opacity",
        "display",
        "clip-path",
        "mask",
        "filter",
        "mix-blend-mode",
        "stop-color",
        "stop-opacity",
        "vector-effect",
    }
)
_COMMENT = regex(r"/\*.*?\*/", re.DOTALL)
_RULE = regex(r"([^{}]+)\{([^{}]*)\}")
_SELECTOR = regex(r"(?P<tag>[\w-]+|\*)?(?P<rest>(?:[.#][\w-]+)*)")


class Rule(NamedTuple):
    """Declarations for the elements that one simple selector matches."""

    tag: str
    identifier: str
    classes: frozenset[str]
    order: int
    declarations: Mapping[str, str]

    @property
    def weight(self) -> tuple[int, int, int, int]:
        """Specificity, then order."""
        return (bool(self.identifier), len(self.classes), bool(self.tag), self.order)

    def matches(self, node: Node) -> bool:
        """Whether the selector matches an element."""
        return (
            self.tag in {"", node.local}
            and self.identifier in {"", node.get("id") or ""}
            and self.classes <= set((node.get("class") or "").split())
        )


def parse_sheet(text: str) -> tuple[list[Rule], list[str]]:
    """Return the rules of a style sheet, and the selectors that are not simple ones."""
    rules: list[Rule] = []
    strange: list[str] = []
    for selectors, body in _RULE.findall(_COMMENT.sub("", text)):
        found = declarations(body)
        for selector in (part.strip() for part in selectors.split(",")):
            match = _SELECTOR.fullmatch(selector)
            if not match or not selector:
                strange.append(selector)
                continue
            names = re.findall(r"[.#][\w-]+", match["rest"])
            tag = "" if match["tag"] in {None, "*"} else match["tag"]
            identifier = next((name[1:] for name in names if name[0] == "#"), "")
            classes = frozenset(name[1:] for name in names if name[0] == ".")
            rules.append(Rule(tag, identifier, classes, len(rules), found))
    return rules, strange


def declarations(text: str) -> dict[str, str]:
    """Return `name: value; ...` as a dictionary, in lower-case names."""
    pairs = (part.partition(":") for part in _COMMENT.sub("", text).split(";"))
    return {name.strip().lower(): value.replace("!important", "").strip() for name, _, value in pairs if value.strip()}


def computed(node: Node, inherited: Mapping[str, str], rules: list[Rule]) -> dict[str, str]:
    """Return the properties of an element: inherited, then attributes, then sheets by weight, then its style attribute."""
    result = {name: value for name, value in inherited.items() if name in INHERITED}
    own = {name: value for name in PROPERTIES if (value := node.get(name)) is not None}
    for rule in sorted((rule for rule in rules if rule.matches(node)), key=lambda rule: rule.weight):
        own.update(rule.declarations)
    own.update(declarations(node.get("style") or ""))
    for name, value in own.items():
        if name in PROPERTIES and value.strip() != "inherit":
            result[name] = value.strip()
        elif value.strip() == "inherit" and name in inherited:
            result[name] = inherited[name]
    return result
