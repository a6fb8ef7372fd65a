"""What a brief may say to iOS alone."""

from __future__ import annotations

from rivelt.platforms.options import PlatformOptions


class IosTable(PlatformOptions, frozen=True, kw_only=True):
    """[ios]: what only iOS and iPadOS have."""


Options = IosTable
