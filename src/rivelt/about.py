"""What Rivelt says of itself: its documentation, and its name for other tools."""

from __future__ import annotations

from pathlib import Path

from rivelt import __version__

ADDRESS = f"pkg:generic/rivelt@{__version__}"
"""Which tool this is, and which version, as a package URL (purl): it is the same on every machine."""


def documentation() -> Path:
    """Return the first page of the documentation: it is installed with the package, and is beside it in a checkout."""
    package = Path(__file__).parent
    installed = package / "docs" / "README.md"
    return installed if installed.is_file() else package.parents[1] / "docs" / "README.md"
