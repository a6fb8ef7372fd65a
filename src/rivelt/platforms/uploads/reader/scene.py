"""What uploaded images show, read from the finished files alone."""

from __future__ import annotations

import io
import zipfile

from rivelt.picture import ImageFile
from rivelt.pixels.planned import PlannedArchive
from rivelt.platforms.uploads.site import Upload, UploadsSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen
from rivelt.units import Look

_LARGEST = 100_000_000  # bytes of one image


def scene(project: Project, site: UploadsSite, screen: Screen, look: Look) -> Scene:
    """Return an uploaded image, if there is one of exactly this size."""
    upload = next((found for found in site.uploads if found.fits(screen, look)), None)
    if upload is None:
        return Scene.unknown(screen, look, f"no upload of {screen.name} px is asked for")
    image = _content(project, site, upload)
    if image is None:
        return Scene.unknown(screen, look, f"{upload.path} is not there")
    size = image.size
    if size is None:
        return Scene.unknown(screen, look, f"{upload.path} is not an image")
    if size != (upload.width, upload.height):
        return Scene.unknown(screen, look, f"{upload.path} is {size.width} x {size.height} px")
    path = join(site.out, upload.path)
    behind: tuple[Layer, ...] = (Fill(screen.frame, image.corner, path),) if image.corner else ()
    return Scene(screen, look, (*behind, Picture(screen.frame, image, path)), upload.path)


def _content(project: Project, site: UploadsSite, upload: Upload) -> ImageFile | None:
    if not site.is_archive:
        path = join(site.out, upload.path)
        return project.image(path) if path in project else None
    if site.out not in project:
        return None
    return project.remember(("upload", site.out, upload.path), lambda: _packed(project, site.out, upload.path))


def _packed(project: Project, archive: str, path: str) -> ImageFile | None:
    """An image in a ZIP file; None when it cannot be read."""
    content = project.content(archive)
    if isinstance(content, PlannedArchive):
        return content.images.get(path)
    try:
        with zipfile.ZipFile(io.BytesIO(project.read(archive))) as opened:
            entry = opened.getinfo(path)
            return ImageFile(opened.read(entry)) if entry.file_size <= _LARGEST else None
    except (zipfile.BadZipFile, KeyError, NotImplementedError, RuntimeError, OSError, EOFError):
        return None
