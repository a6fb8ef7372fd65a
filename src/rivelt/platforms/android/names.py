"""The names of what Rivelt generates for Android, and the mark by which generated files are known."""

from __future__ import annotations

from msgspec import Struct

from rivelt.plan.names import RESOURCE, safe_name

PREFIX = "rivelt_"
MADE_BY = b"Made by rivelt"
"""What stands in the first lines of every file that Rivelt generates."""


class Names(Struct, frozen=True):
    """The resource names of one app: each a field, made from one prefix by `of`."""

    prefix: str
    mark: str
    imprint: str
    window: str
    disc: str
    backdrop: str
    motion: str
    ground: str
    status_bar: str
    navigation_bar: str
    launch: str
    app: str
    waiting: str

    @classmethod
    def of(cls, prefix: str = PREFIX) -> Names:
        """Return the names with a prefix that a person chose, made safe for Android."""
        safe = safe_name(prefix, RESOURCE)
        parts = [name for name in cls.__struct_fields__ if name != "prefix"]
        return cls(safe, **{part: f"{safe}{part}" for part in parts})

    @property
    def values_file(self) -> str:
        """The file of colours and styles in each values folder."""
        return f"{self.prefix}launch.xml"


def is_generated(data: bytes) -> bool:
    """Return whether a text file says in its first lines that Rivelt made it."""
    return MADE_BY in data[:300]
