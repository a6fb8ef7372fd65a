"""The uploads of a brief, as a site: nothing on disk shows them, only the brief does."""

from __future__ import annotations

import re

from rivelt.brief.model import Brief
from rivelt.disk.tree import in_tool_folder
from rivelt.errors import BadInput, RiveltError
from rivelt.plan.names import safe_path
from rivelt.platforms.uploads.facts import upload_screen
from rivelt.platforms.uploads.native.images import uploads
from rivelt.platforms.uploads.options import UploadsTable
from rivelt.platforms.uploads.site import UploadsSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.values import replace


def survey(project: Project, brief: Brief | None = None) -> list[UploadsSite]:
    """Return one site, if the brief has a table [uploads] or names the target."""
    if brief is None or not ("uploads" in brief.places or "uploads" in (brief.targets or ())):
        return []
    given = brief.table("uploads", UploadsTable).out
    out = join("", safe_path(given.replace("\\", "/")))
    problem = None
    if out.startswith("../") or out in {"", ".."} or given.startswith(("/", "\\")) or re.match("[A-Za-z]:", given):
        problem = "leads out of the project"
    elif in_tool_folder(out):
        problem = "leads into the folder of a tool"
    if problem is not None:
        at, hint = brief.place("uploads.out"), 'Give a folder in the project, such as "uploads".'
        return [
            UploadsSite("uploads", brief.path.name, blocked=BadInput(f"`uploads.out` {problem}", place=at, hint=hint))
        ]
    try:
        return [_site(project, brief, out)]
    except RiveltError as error:
        return [UploadsSite("uploads", brief.path.name, blocked=error)]


def _site(project: Project, brief: Brief, out: str) -> UploadsSite:
    wanted = uploads(brief)
    is_archive = out.lower().endswith(".zip")
    there = out in project if is_archive else any(join(out, upload.path) in project for upload in wanted)
    margin = brief.table("uploads", UploadsTable).safe_margin
    screens = dict.fromkeys(
        upload_screen(upload.target, upload.width, upload.height, upload.density, margin) for upload in wanted
    )
    looks = tuple(dict.fromkeys(upload.look for upload in wanted))
    return UploadsSite(
        "uploads",
        brief.path.name,
        shows=lambda: "images of an earlier run" if there else "nothing yet",
        screens=tuple(replace(screen, looks=looks) for screen in screens),
        uploads=wanted,
        out=out,
        exists=there,
        is_archive=is_archive,
    )
