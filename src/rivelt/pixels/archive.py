"""ZIP files of finished images: the same files give the same bytes."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping

_FIRST_DAY = (1980, 1, 1, 0, 0, 0)  # the earliest date that the format can say: archives hold no time
_PLAIN_FILE = 0o644 << 16


def zipped(files: Mapping[str, bytes]) -> bytes:
    """Return files by path as a ZIP, in the order of their paths; stored as they are, since images are compressed already."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        for path, content in sorted(files.items()):
            entry = zipfile.ZipInfo(path, _FIRST_DAY)
            entry.external_attr = _PLAIN_FILE
            entry.create_system = 3  # Unix, on every machine
            archive.writestr(entry, content)
    return buffer.getvalue()
