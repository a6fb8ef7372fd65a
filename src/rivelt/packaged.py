"""Files that are installed beside the modules of a package."""

from __future__ import annotations

import pkgutil


def packaged(package: str, name: str) -> bytes:
    """Return a file of a package, by its path relative to the package with "/".

    Raises:
        FileNotFoundError: the package has no such file.
    """
    data = pkgutil.get_data(package, name)  # `importlib.resources` would load `zipfile` and `tempfile` for one read
    if data is None:
        raise FileNotFoundError(f"{package} has no file {name}")
    return data
