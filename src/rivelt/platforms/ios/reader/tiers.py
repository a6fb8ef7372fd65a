"""Linear constraints with priorities in strict tiers, as UIKit orders them, and how far a solution leaves values open.

A required constraint always holds; of the others, one of a higher priority is never given up for any number of lower ones
(Apple: NSLayoutConstraint.Priority). Each tier is a linear program, solved with the Cassowary algorithm: the sum of its errors is
made as small as the tiers above allow, and then kept.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import Enum
from typing import TypeAlias

import kiwisolver

Linear: TypeAlias = "kiwisolver.Expression | kiwisolver.Term"

_FAR = 1e5
"""Farther than anything on a screen, in points: where a value that is open is pulled to."""

_SLACK = 1e-6
"""Points that the optimum of a tier may be off, so that rounding never makes the next tier unsolvable."""


class Relation(Enum):
    """How the two sides of a constraint compare."""

    EQUAL = "equal"
    AT_LEAST = "greaterThanOrEqual"
    AT_MOST = "lessThanOrEqual"


class Tiers:
    """Constraints that are collected, and then solved by `solve`."""

    def __init__(self) -> None:
        self._solver = kiwisolver.Solver()
        self._wishes: dict[float, list[tuple[Linear, Relation]]] = {}

    def require(self, expression: Linear, relation: Relation = Relation.EQUAL) -> bool:
        """Add a required constraint, `expression` compared with 0; return whether it agrees with those before it."""
        try:
            self._solver.addConstraint(_compared(expression, relation))
        except kiwisolver.UnsatisfiableConstraint:
            return False
        return True

    def wish(self, expression: Linear, priority: float, relation: Relation = Relation.EQUAL) -> None:
        """Add a constraint that gives way to those of higher priorities."""
        self._wishes.setdefault(priority, []).append((expression, relation))

    def solve(self) -> None:
        """Solve one tier after the other, the highest priority first."""
        for priority in sorted(self._wishes, reverse=True):
            errors = [self._error_of(expression, relation) for expression, relation in self._wishes[priority]]
            total: Linear = sum((1 * error for error in errors[1:]), 1 * errors[0])
            least = (total <= 0) | "strong"
            self._solver.addConstraint(least)
            self._solver.updateVariables()
            reached = sum(error.value() for error in errors)
            self._solver.removeConstraint(least)
            self._solver.addConstraint(total <= reached + _SLACK)
        self._solver.updateVariables()

    def _error_of(self, expression: Linear, relation: Relation) -> kiwisolver.Variable:
        error = kiwisolver.Variable()
        self._solver.addConstraint(error >= 0)
        if relation is not Relation.AT_MOST:
            self._solver.addConstraint(error + expression >= 0)
        if relation is not Relation.AT_LEAST:
            self._solver.addConstraint(error - expression >= 0)
        return error

    def is_open(self, values: Iterable[kiwisolver.Variable], tolerance: float) -> bool:
        """Return whether any of some values could be another one by more than `tolerance`, with all constraints kept as well as they are."""
        return any(self._pulled(value, _FAR) - self._pulled(value, -_FAR) > tolerance for value in values)

    def _pulled(self, value: kiwisolver.Variable, to: float) -> float:
        pull = (value == to) | "weak"
        self._solver.addConstraint(pull)
        self._solver.updateVariables()
        reached = value.value()
        self._solver.removeConstraint(pull)
        return reached


def _compared(expression: Linear, relation: Relation) -> kiwisolver.Constraint:
    match relation:
        case Relation.AT_LEAST:
            return expression >= 0
        case Relation.AT_MOST:
            return expression <= 0
        case Relation.EQUAL:
            return expression == 0
