"""What every platform's own table in the brief has in common."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct


class PlatformOptions(Struct, frozen=True, kw_only=True):
    """The table of one platform."""

    def files(self) -> Mapping[str, str]:
        """The keys whose values are paths of files that planning needs, relative to the brief, with those paths."""
        return {}
