"""The rules of iOS and iPadOS."""

from __future__ import annotations

from rivelt.platforms.ios import rules_declared, rules_screen

CHECKS = rules_declared.BOOK.including(rules_screen.BOOK)
