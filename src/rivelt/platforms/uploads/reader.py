"""What uploaded images show, read from the finished files alone."""

from __future__ import annotations

import io
import zipfile

from rivelt.pixels.header import bitmap_size, corner_colour
from rivelt.platforms.site import Site
from rivelt.platforms.uploads.site import Upload, UploadsSite
from rivelt.project.snapshot import Snapshot, join
from rivelt.scene.model import Fill, Ground, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Look

_LARGEST = 100_000_000  # bytes of one image


def scene(snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
    """An uploaded image, if there is one of exactly this size."""
    assert isinstance(site, UploadsSite)
    upload = next(
        found for found in site.uploads
        if found.look == look and screen.system.startswith(f"{found.target},") and screen.name == f"{found.width} x {found.height}"
    )  # fmt: skip
    data = _content(snapshot, site, upload)
    size = bitmap_size(data) if data else None
    if data is None or size is None:
        return _untold(screen, look, f"{upload.path} is not there" if data is None else f"{upload.path} is no image")
    if size != (upload.width, upload.height):
        return _untold(screen, look, f"{upload.path} is {size.width} x {size.height} px")
    ground = corner_colour(data)
    path = join(site.out, upload.path)
    behind: tuple[Layer, ...] = (Fill(screen.frame, ground, path),) if ground else ()
    return Scene(screen, look, (*behind, Picture(screen.frame, data, path)), upload.path)


def after_launch(_snapshot: Snapshot, _site: Site, _screen: Screen, _look: Look) -> tuple[Ground, ...]:
    """Nothing is known: the service builds the app."""
    return ()


def _untold(screen: Screen, look: Look, reason: str) -> Scene:
    return Scene(screen, look, (Unknown(screen.frame, reason),), f"cannot tell: {reason}")


def _content(snapshot: Snapshot, site: UploadsSite, upload: Upload) -> bytes | None:
    if not site.is_archive:
        path = join(site.out, upload.path)
        return snapshot.read(path) if path in snapshot else None
    if site.out not in snapshot:
        return None
    try:
        with zipfile.ZipFile(io.BytesIO(snapshot.read(site.out))) as archive:
            entry = archive.getinfo(upload.path)
            return archive.read(entry) if entry.file_size <= _LARGEST else None
    except (zipfile.BadZipFile, KeyError, NotImplementedError, RuntimeError, OSError, EOFError):
        return None
