"""A web app manifest, wherever it is written: in a file of its own, or in code."""

from __future__ import annotations

from rivelt.edit.jsontext import JsonDocument
from rivelt.platforms.web.native.in_code import CODE, CodeManifest, read_code_manifest
from rivelt.project.project import Project


def manifest_of(project: Project, path: str) -> JsonDocument | CodeManifest:
    """Return the manifest of a file.

    Raises:
        BadInput: it holds none that can be read.
    """
    return read_code_manifest(project, path) if path.endswith(CODE) else project.json(path)
