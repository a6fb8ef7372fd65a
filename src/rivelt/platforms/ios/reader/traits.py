"""Variations of a storyboard for size classes: the values of attributes, and what is installed.

Interface Builder keeps them as `<variation key="heightClass=regular-widthClass=compact">` below the element that varies.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from rivelt.edit.xml import Node
from rivelt.platforms.ios.facts import size_classes
from rivelt.scene.model import Screen

_DEFAULT = "default"


class Traits(Struct, frozen=True):
    """The size classes of a screen, as storyboards write them."""

    held: frozenset[str]

    @classmethod
    def of(cls, screen: Screen) -> Traits:
        """Return those of a screen."""
        width, height = size_classes(screen)
        return cls(frozenset({f"widthClass={width}", f"heightClass={height}"}))

    def attribute(self, node: Node, name: str) -> str | None:
        """Return an attribute's value: that of the variation that names most of the size classes, else the element's own."""
        value = node.get(name)
        for variation in self._fitting(node):
            value = variation.get(name) or value
        return value

    def excluded(self, node: Node, kind: str) -> frozenset[str]:
        """Return the ids of the `kind` ("subviews", "constraints") of an element that are not installed."""
        left_out: set[str] = set()
        for variation in self._fitting(node):
            for mask in variation.all("mask"):
                if mask.get("key") == kind:
                    left_out |= {reference.get("reference") or "" for reference in mask.all("exclude")}
                    left_out -= {reference.get("reference") or "" for reference in mask.all("include")}
        return frozenset(left_out)

    def _fitting(self, node: Node) -> Iterator[Node]:
        """The variations that hold, the general ones first."""
        fitting = []
        for variation in node.all("variation"):
            key = variation.get("key") or _DEFAULT
            named = set() if key == _DEFAULT else set(key.split("-"))
            if named <= self.held:
                fitting.append((len(named), variation))
        fitting.sort(key=lambda found: found[0])
        yield from (variation for _, variation in fitting)
