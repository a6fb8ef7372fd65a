"""What documents share: a versioned base, shapes, problems and findings."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal, TypeAlias

import msgspec
from msgspec import Meta, Struct

from rivelt.errors import ExitCode, RiveltError
from rivelt.findings import Finding, Severity, Verdict
from rivelt.units import Circle as CircleShape
from rivelt.units import Rect

Root: TypeAlias = Annotated[str, Meta(description="absolute path of the folder that all paths are relative to")]
RelativePath: TypeAlias = Annotated[str, Meta(description="relative to the root, with / between its parts")]
Colour: TypeAlias = Annotated[
    str, Meta(description="#RRGGBB, or #RRGGBBAA where it is not opaque", pattern="^#[0-9A-F]{6}([0-9A-F]{2})?$")
]
Code: TypeAlias = Annotated[str, Meta(description="of a rule, see `rivelt explain`", pattern="^[A-Z]{3}[0-9]{2}$")]
LookName: TypeAlias = Annotated[str, Meta(description="light or dark", pattern="^(light|dark)$")]
Target: TypeAlias = Annotated[str, Meta(description="the platform, such as android")]
SiteName: TypeAlias = Annotated[
    str, Meta(description="of the native project: its path, or its path and the name of its target")
]
Edition: TypeAlias = Annotated[str, Meta(description='name of the edition, "" for the brief itself')]
Count: TypeAlias = Annotated[int, Meta(ge=0)]
Bytes: TypeAlias = Annotated[int, Meta(ge=0, description="in bytes")]


class Part(Struct, frozen=True, kw_only=True):
    """A part of a document. Every key is always there."""


class Document(Part, frozen=True, kw_only=True):
    """A whole document. Its first key, `schema`, is its name and version: a version gains keys, but never loses or changes one."""

    def to_dict(self) -> dict[str, Any]:
        """Return it as plain data: dicts, lists, strings, numbers, booleans and None."""
        found: dict[str, Any] = msgspec.to_builtins(self)
        return found


class Box(Part, frozen=True, kw_only=True):
    """An upright rectangle: its top left corner and its size."""

    x: float
    y: float
    width: float
    height: float

    @classmethod
    def of(cls, rect: Rect, digits: int = 3) -> Box:
        """Return a rectangle, rounded."""
        x, y, width, height = (round(value, digits) + 0.0 for value in rect)
        return cls(x=x, y=y, width=width, height=height)


class Point(Part, frozen=True, kw_only=True):
    """A position."""

    x: float
    y: float


class Dimensions(Part, frozen=True, kw_only=True):
    """A width and a height."""

    width: float
    height: float


class Circle(Part, frozen=True, kw_only=True):
    """A circle: its centre and its diameter."""

    x: float
    y: float
    diameter: float

    @classmethod
    def of(cls, circle: CircleShape, digits: int = 3) -> Circle:
        """Return a circle, rounded."""
        x, y, diameter = (round(value, digits) + 0.0 for value in (*circle.centre, 2 * circle.radius))
        return cls(x=x, y=y, diameter=diameter)


class FindingItem(Part, frozen=True, kw_only=True):
    """One result of a rule."""

    code: Code
    severity: Severity
    verdict: Verdict
    message: Annotated[str, Meta(description="what is wrong, or why it is unknown; empty where the rule holds")]
    fix: Annotated[str, Meta(description="how to fix it")]
    path: RelativePath | None
    line: Annotated[int, Meta(ge=1)] | None
    column: Annotated[int, Meta(ge=1, description="1-based, in characters")] | None
    site: Annotated[str, Meta(description='the site it is about ("android android/app"), "" for art and for the brief')]
    screen: Annotated[str, Meta(description='the screen that shows it, "" where that does not matter')]
    look: Annotated[str, Meta(description='the look that shows it, "" where that does not matter')]

    @classmethod
    def of(cls, finding: Finding) -> FindingItem:
        """Return a finding."""
        return cls(**finding.to_dict())


class Problem(Part, frozen=True, kw_only=True):
    """Why something could not be done."""

    message: str
    path: Annotated[str, Meta(description="the file to blame, relative to the root where it is below it")] | None
    line: Annotated[int, Meta(ge=1)] | None
    column: Annotated[int, Meta(ge=1)] | None
    hint: Annotated[str, Meta(description="what to do next")] | None
    trail: Annotated[list[str], Meta(description="what led there, outermost first")]
    details: Annotated[str, Meta(description="longer evidence, such as a diff")]

    @classmethod
    def of(cls, error: RiveltError, placed: Callable[[str], str] = str) -> Problem:
        """Return one error; `placed` makes its path relative to the root of the document."""
        found = {**error.to_dict(), "errors": None}
        path = found["path"]
        return msgspec.convert({**found, "path": placed(path) if isinstance(path, str) else None}, cls)


class ErrorSummary(Part, frozen=True, kw_only=True):
    """How a command ended that printed no result."""

    errors: Count
    exit_code: Annotated[int, Meta(description="2 bad input or usage, 3 refused, 70 a bug of Rivelt's, 130 stopped")]


class ErrorDocument(Document, frozen=True, kw_only=True):
    """What any command prints instead of its result where it fails: all errors at once."""

    schema: Literal["rivelt.error/1"] = "rivelt.error/1"
    root: Root
    summary: ErrorSummary
    errors: list[Problem]

    @classmethod
    def of(
        cls, error: RiveltError, exit_code: ExitCode | int, root: str, placed: Callable[[str], str] = str
    ) -> ErrorDocument:
        """Return the errors that one is made of; `placed` makes the path of each relative to the root."""
        errors = [Problem.of(part, placed) for part in error.parts]
        return cls(root=root, summary=ErrorSummary(errors=len(errors), exit_code=int(exit_code)), errors=errors)
