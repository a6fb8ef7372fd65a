"""A composable that waits and navigates on: the start of the app's navigation as a second launch screen."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TYPE_CHECKING

from rivelt.edit.source.language import Source, walk
from rivelt.errors import Place
from rivelt.platforms.android.native.second_screen import SecondScreen, called, milliseconds_of
from rivelt.project.project import Project

if TYPE_CHECKING:
    from tree_sitter import Node


def second_composable(project: Project, paths: Iterable[str]) -> SecondScreen | None:
    """Return the start destination that waits and then navigates by itself, or None.

    Args:
        project: the project.
        paths: the sources of the app.

    Raises:
        BadInput: a source that may declare the navigation cannot be read.
    """
    for path in paths:
        if b"NavHost" not in project.read(path):
            continue
        source = project.source(path)
        for node in walk(source.root):
            if node.type == "call_expression" and called(source, node) == "NavHost":
                found = _start_of(project, source, node)
                if found is not None:
                    return found
    return None


def _start_of(project: Project, source: Source, host: Node) -> SecondScreen | None:
    """How the start destination of a host is a second launch screen."""
    start = next((_given(source, node, "startDestination") for node in walk(host) if node.type == "value_argument"), "")
    start = start or next(filter(None, (_given(source, node, "startDestination") for node in walk(host))), "")
    if not start:
        return None
    for node in walk(host):
        # The grammar takes `composable<Start> { }` for a comparison.
        if node.type not in {"call_expression", "binary_expression"} or not source.text(node).startswith("composable"):
            continue
        head = source.text(node).partition("{")[0]
        if not re.search(rf"[(<=\s]{re.escape(start)}[\s),>]", head):
            continue
        content = next((it for it in node.children if it.type in {"annotated_lambda", "lambda_literal"}), None)
        if content is None:
            continue
        waiting = _waits(project, source, content, frozenset(), 0)
        if waiting is not None:
            place = Place.at(source.path, source.data, node.start_byte)
            return SecondScreen("composable", start, waiting[0], waiting[1], place)
    return None


def _given(source: Source, argument: Node, name: str) -> str:
    """The value of a named argument; "" when it is another."""
    text = source.text(argument)
    found = re.match(rf"{name}\s*=\s*(.+)", text, re.DOTALL) if argument.type == "value_argument" else None
    return found[1].strip() if found else ""


def _waits(
    project: Project, source: Source, content: Node, moving: frozenset[str], depth: int
) -> tuple[tuple[str, ...], int | None] | None:
    """Where a composable navigates to after a pause, and how long that is.

    `moving`: names of the parameters that are given something that navigates.
    """
    for node in walk(content):
        if node.type != "call_expression":
            continue
        name = called(source, node)
        if name == "LaunchedEffect":
            found = _after_pause(source, node, moving)
            if found is not None:
                return found
        elif depth < 3 and name[:1].isupper():
            found = _waits_in_function(project, source, node, name, depth)
            if found is not None:
                return found
    return None


def _after_pause(source: Source, effect: Node, moving: frozenset[str]) -> tuple[tuple[str, ...], int | None] | None:
    calls = [node for node in walk(effect) if node.type == "call_expression"]
    pauses = [node for node in calls if called(source, node) in {"delay", "animateTo", "snapTo"}]
    if not pauses:
        return None
    for node in calls:
        name = called(source, node)
        if node.start_byte > pauses[0].start_byte and (name in {"navigate", "replaceAll"} or name in moving):
            text = source.text(pauses[0])
            time = milliseconds_of(source, text.partition("(")[2].rpartition(")")[0]) if "delay" in text[:6] else None
            return _routes(source, node), time
    return None


def _routes(source: Source, call: Node) -> tuple[str, ...]:
    found = re.search(r"navigate\s*\(\s*(?:route\s*=\s*)?([^,)\s{]+)", source.text(call))
    return (found[1],) if found else ()


def _waits_in_function(
    project: Project, source: Source, call: Node, name: str, depth: int
) -> tuple[tuple[str, ...], int | None] | None:
    """The same of a composable that is called; what it is given may be what navigates."""
    arguments = source.text(call)
    for path in project.naming(name):
        if not path.endswith(".kt") or not re.search(rf"\bfun\s+{re.escape(name)}\s*\(".encode(), project.read(path)):
            continue
        other = project.source(path)
        for node in walk(other.root):
            if node.type != "function_declaration" or other.text(node.child_by_field_name("name")) != name:
                continue
            body = next((it for it in node.children if it.type == "function_body"), None)
            found = (
                _waits(project, other, body, _moving(other, node, arguments), depth + 1) if body is not None else None
            )
            if found is not None:
                return (found[0] or _routes(source, call), found[1])
    return None


def _moving(source: Source, function: Node, arguments: str) -> frozenset[str]:
    """The parameters of a function that a call gives something that navigates: by name, or the last one by a lambda behind the brackets."""
    if "navigate" not in arguments:
        return frozenset()
    names = [
        source.text(node.named_children[0])
        for node in walk(function, depth=3)
        if node.type == "parameter" and node.named_children
    ]
    by_name = {
        name for name in names if re.search(rf"\b{re.escape(name)}\s*=\s*\{{?[^,]*navigate", arguments, re.DOTALL)
    }
    return frozenset(by_name or set(names[-1:]))
