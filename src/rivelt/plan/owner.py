"""Who makes a file or an edit: (brief, edition, site)."""

from __future__ import annotations

from typing import NamedTuple


class Owner(NamedTuple):
    """Who makes a file or an edit.

    `brief`: the brief's path relative to the project's root; "" for one that a lock file of an older format did not name. `edition`: its
    name, "" for the brief itself. `site`: target and name, such as "android android/app".
    """

    brief: str
    edition: str
    site: str

    @property
    def target(self) -> str:
        """The target of its site."""
        return self.site.partition(" ")[0]

    def __str__(self) -> str:
        whose = f"edition {self.edition} of {self.brief}" if self.edition else self.brief or "an earlier brief"
        return f"{whose} ({self.site})"
