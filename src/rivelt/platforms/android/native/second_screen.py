"""A launch screen of the app's own, after the system's: an activity that waits and starts another, or a composable that waits and navigates.

Recognised by the syntax trees of the sources: what runs late (after a time, or at the end of an animation or a film) is followed from the
activity's first methods through the functions that it calls.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field

from rivelt.edit.source.language import Source, walk
from rivelt.errors import Place
from rivelt.patterns import regex

if TYPE_CHECKING:
    from tree_sitter import Node

_BEGINNINGS = (
    "onCreate",
    "onPostCreate",
    "onStart",
    "onResume",
    "onPostResume",
    "onAttachedToWindow",
    "onWindowFocusChanged",
)
_PAUSES = frozenset({"delay", "sleep"})
"""Calls after which the rest of a block runs late."""
_LATER = frozenset(
    {
        "postDelayed",
        "postAtTime",
        "schedule",
        "scheduleAtFixedRate",
        "timer",
        "withEndAction",
        "doOnEnd",
        "doOnCompletion",
    }
)
"""Calls that run what they are given late."""
_LATE_METHODS = frozenset(
    {
        "onAnimationEnd",
        "onTransitionEnd",
        "onTransitionCompleted",
        "onCompletion",
        "onFinish",
        "onLottieLoaded",
        "onAnimationCompleted",
    }
)
"""Methods of listeners that run at the end of an animation, a film or a timer."""
_LATE_LISTENERS = frozenset(
    {"setOnCompletionListener", "addAnimatorListener", "setAnimationListener", "addTransitionListener"}
)
_BY_PEOPLE = regex(
    r"^(?:setOn\w*(?:Click|Touch|Key|Select|Checked|Editor|Menu|Refresh)\w*|onClick|set\w+Button|addOnTabSelectedListener)$"
)
"""Calls whose callbacks run when somebody touches something."""
_MOVES = frozenset({"startActivity", "startActivities"})
_ENDS = frozenset(
    {"finish", "finishAffinity", "finishAfterTransition", "finishAndRemoveTask", "FLAG_ACTIVITY_CLEAR_TASK"}
)
_CALLS = frozenset({"call_expression", "method_invocation", "constructor_invocation", "object_creation_expression"})
_FUNCTIONS = frozenset({"function_declaration", "method_declaration"})
_CALLBACKS = frozenset({"lambda_literal", "lambda_expression", "class_body", "object_literal", "anonymous_function"})
_REFERENCES = frozenset({"callable_reference", "method_reference", "identifier"})
_CLASS = regex(r"\b([A-Z]\w*)(?:::class\b|\.class\b)")
_NUMBER = regex(r"\b(\d[\d_]*)(?:L|\.(seconds|milliseconds)\b)?")
_STATEMENT_OBJECT = regex(rb"(?m)^([ \t]*)object(\s*:)")
_SHOWN_ONLY = frozenset({"onBackPressed", "onPause", "onStop", "onDestroy"})
_SHOWS = regex(
    r"^super\.|\bsetContentView\(|\.inflate\(|\benableEdgeToEdge\(|\b(?:getW|w)indow\b|\brequestWindowFeature\(|[aA]ctionBar\b|"
    r"\bfindViewById\b|\bloadAnimation\(|\bstartAnimation\(|\bsetAnimation\(|\binstallSplashScreen\("
)
"""Statements by which an activity shows itself."""
_DEEPEST = 12


class SecondScreen(Struct, frozen=True):
    """What is shown after the system's launch screen before the app begins.

    `kind`: an activity or a composable. `name`: its class, or the route it is at. `targets`: the classes or routes that it leads to.
    `milliseconds`: how long it is shown, None when that is not written as a number. `place`: where it begins.
    `does_more`: the first statement of an activity that does anything but show itself, wait and continue; "" without one.
    """

    kind: Literal["activity", "composable"]
    name: str
    targets: tuple[str, ...]
    milliseconds: int | None
    place: Place
    does_more: str = ""

    @property
    def duration(self) -> str:
        """How long it is shown, for people."""
        if self.milliseconds is None:
            return "for an unknown time"
        return f"for {self.milliseconds / 1000:g} s"


def second_activity(classes: Iterable[tuple[Source, str]], place: Place) -> SecondScreen | None:
    """Return the second launch screen that an activity is, or None.

    Args:
        classes: its class and those it inherits from that the project has, each in its file, the nearest first.
        place: where the activity begins.
    """
    found = [(source, name) for source, name in ((_readable(source), name) for source, name in classes)]
    functions: dict[str, tuple[Source, Node]] = {}
    for source, _ in found:
        for name, node in _functions(source):
            functions.setdefault(name, (source, node))
    walker = _Walker(functions)
    for name in _BEGINNINGS:
        walker.run(name)
    if not (walker.moves and walker.ends):
        return None
    own = {name for _, name in found}
    targets = tuple(dict.fromkeys(name for name in walker.classes if name not in own))
    return SecondScreen("activity", found[0][1], targets, walker.milliseconds, place, _more(found, walker))


def _more(classes: list[tuple[Source, str]], walker: _Walker) -> str:
    """The first statement of an activity, or the first method, that has nothing to do with waiting and going on."""
    if len(classes) > 1:
        return f"class {classes[0][1]} : {classes[1][1]}"
    source, _ = classes[0]
    for name, node in _functions(source):
        if (name, True) in walker.seen or name in _SHOWN_ONLY:
            continue
        if (name, False) not in walker.seen:
            return f"{name}()"
        for statement in _statements(node):
            text = source.text(statement)
            is_known = _SHOWS.search(text) is not None or any(
                at in range(statement.start_byte, statement.end_byte) for at in walker.late_at
            )
            call = statement.named_children[0] if statement.type == "expression_statement" else statement
            is_known |= call.type in _CALLS and called(source, call) in walker.functions
            if not is_known:
                return text.partition("\n")[0]
    return ""


def _statements(function: Node) -> Iterator[Node]:
    """The statements of a function; of one that is an expression, that."""
    body = function.child_by_field_name("body") or next(
        (it for it in function.children if it.type == "function_body"), None
    )
    if body is None:
        return
    inner = body if body.type == "block" else body.named_children[0] if body.named_children else None
    if inner is not None and inner.type == "block":
        yield from (child for child in inner.named_children if "comment" not in child.type)
    elif inner is not None:
        yield inner


def _readable(source: Source) -> Source:
    """The source, where the grammar stumbles over an object that is a statement with that as an assignment."""
    if not source.root.has_error:
        return source
    return type(source)(_STATEMENT_OBJECT.sub(rb"\1_ = object\2", source.data), source.path)


def _functions(source: Source) -> Iterator[tuple[str, Node]]:
    for node in walk(source.root):
        if node.type in _FUNCTIONS and not _is_inside_callback(node):
            yield source.text(node.child_by_field_name("name")), node


def _is_inside_callback(node: Node) -> bool:
    """Whether a method belongs to an anonymous class."""
    parent = node.parent
    while parent is not None and parent.type not in {"class_declaration", "companion_object", "object_declaration"}:
        if parent.type in {"object_literal", "object_creation_expression", "lambda_literal", "lambda_expression"}:
            return True
        parent = parent.parent
    return False


class _Walker(Struct):
    """Follows what an activity does, and notes what of it is done late."""

    functions: Mapping[str, tuple[Source, Node]]
    moves: bool = False
    ends: bool = False
    classes: list[str] = field(default_factory=list)
    milliseconds: int | None = None
    late_at: list[int] = field(default_factory=list)
    seen: set[tuple[str, bool]] = field(default_factory=set)

    def run(self, name: str, *, is_late: bool = False, depth: int = 0) -> None:
        """Follow a function of the activity's own."""
        if name not in self.functions or (name, is_late) in self.seen or depth > _DEEPEST:
            return
        self.seen.add((name, is_late))
        source, node = self.functions[name]
        body = node.child_by_field_name("body") or next(
            (it for it in node.children if it.type == "function_body"), None
        )
        if body is not None:
            self._visit(source, body, is_late=is_late, depth=depth)

    def _visit(self, source: Source, node: Node, *, is_late: bool, depth: int) -> bool:
        """Follow a node; return whether what comes after it in its block is late."""
        if depth > _DEEPEST * 4:
            return is_late
        if node.type in _FUNCTIONS and source.text(node.child_by_field_name("name")) in _LATE_METHODS:
            is_late = True
            self.late_at.append(node.start_byte)
        if node.type in _CALLS:
            return self._call(source, node, is_late=is_late, depth=depth)
        if is_late and node.type in {"identifier", "field_access"} and source.text(node).rpartition(".")[2] in _ENDS:
            self.ends = True
        now = is_late
        for child in node.children:
            after = self._visit(source, child, is_late=now, depth=depth + 1)
            # What follows a pause is late as far as the block goes that it stands in.
            now = now or (after and child.is_named)
        return now and node.type not in _CALLBACKS

    def _call(self, source: Source, node: Node, *, is_late: bool, depth: int) -> bool:
        name = called(source, node)
        if _BY_PEOPLE.match(name):
            return is_late
        if is_late:
            self.moves |= name in _MOVES
            self.ends |= name in _ENDS
        self.classes += _CLASS.findall(source.text(node)) if name == "Intent" else []
        runs_late = name in _LATER or name in _LATE_LISTENERS or self._is_after_timer(source, node, name)
        if name in _PAUSES:
            self.late_at.append(node.start_byte)
        if name in _PAUSES or name in _LATER or name == "CountDownTimer":
            self._note_time(source, node)
        for child in node.children:
            late_here = is_late or (
                runs_late and child.type in {"value_arguments", "argument_list", "annotated_lambda"}
            )
            if late_here and not is_late:
                self.late_at.append(node.start_byte)
                self._referred(source, child, depth)
            self._visit(source, child, is_late=late_here, depth=depth + 1)
        self.run(name, is_late=is_late, depth=depth + 1)
        return is_late or name in _PAUSES

    def _is_after_timer(self, source: Source, node: Node, name: str) -> bool:
        """Whether a stream that begins with a timer is listened to."""
        return (
            name in {"subscribe", "doOnComplete", "doOnNext"}
            and re.search(r"\.(?:timer|delay)\s*\(", source.text(node).partition("{")[0]) is not None
        )

    def _referred(self, source: Source, arguments: Node, depth: int) -> None:
        """Follow functions and variables that are given by name to a call that runs them late."""
        for argument in arguments.named_children:
            inner = (
                argument.named_children[0]
                if argument.type == "value_argument" and argument.named_children
                else argument
            )
            if inner.type not in _REFERENCES:
                continue
            name = source.text(inner).rpartition(":")[2].strip()
            self.run(name, is_late=True, depth=depth + 1)
            value = _variable(source, name)
            if value is not None and ("variable", True) not in self.seen:
                self._visit(source, value, is_late=True, depth=depth + 1)

    def _note_time(self, source: Source, node: Node) -> None:
        arguments = next((it for it in node.children if it.type in {"value_arguments", "argument_list"}), None)
        if self.milliseconds is not None or arguments is None:
            return
        for argument in arguments.named_children:
            text = source.text(argument)
            if len(text) < 60 and (found := milliseconds_of(source, text)) is not None:
                unit = re.search(r"\b(SECONDS|MINUTES)\b", source.text(arguments))
                self.milliseconds = found * {"SECONDS": 1000, "MINUTES": 60_000}[unit[1]] if unit is not None else found
                return


def called(source: Source, node: Node) -> str:
    """Return the simple name of what a call calls, or of the class that it makes."""
    named = node.child_by_field_name("name") or node.child_by_field_name("type") or _first_named(node)
    while named is not None and named.type == "call_expression":  # `f(x) { }` calls what `f(x)` calls
        named = _first_named(named)
    if named is not None and named.type == "navigation_expression" and named.named_children:
        named = named.named_children[-1]
    return source.text(named).partition("<")[0].rpartition(".")[2].strip()


def _first_named(node: Node) -> Node | None:
    """The first part of a node; None in a broken source, where there may be none."""
    return next(iter(node.named_children), None)


def _variable(source: Source, name: str) -> Node | None:
    """The value that a variable of a file is declared with."""
    for node in walk(source.root):
        if node.type == "variable_declarator" and source.text(node.child_by_field_name("name")) == name:
            return node.child_by_field_name("value")
        if node.type == "property_declaration":
            declared = next((it for it in node.children if it.type == "variable_declaration"), None)
            if declared is not None and source.text(declared).partition(":")[0].strip() == name:
                return node.named_children[-1]
    return None


def milliseconds_of(source: Source, text: str) -> int | None:
    """Return a time written as a number or a constant of the file, in milliseconds; None when it is not known."""
    found = _NUMBER.fullmatch(text.strip()) if not text.strip().isidentifier() else None
    if found is None and re.fullmatch(r"[\w.]+", text.strip()):
        name = text.strip().rpartition(".")[2]
        assigned = re.search(
            rf"\b{re.escape(name)}\b\s*(?::\s*\w+\s*)?=\s*([\w.]+)", source.data.decode("utf-8", "replace")
        )
        found = _NUMBER.fullmatch(assigned[1]) if assigned is not None else None
    if found is None:
        return None
    number = int(found[1].replace("_", ""))
    return number * 1000 if found[2] == "seconds" else number
