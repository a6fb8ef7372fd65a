"""The rules of Android."""

from __future__ import annotations

from rivelt.platforms.android import rules_code, rules_images, rules_theme

CHECKS = rules_theme.BOOK.including(rules_images.BOOK, rules_code.BOOK)
