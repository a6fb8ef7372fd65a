"""Where the images of a web app go, so that its build serves them, and how the manifest names them."""

from __future__ import annotations

import posixpath

from msgspec import Struct

from rivelt.edit.splice import spliced
from rivelt.plan.model import EditFile
from rivelt.platforms.web.native.served import Root, Served, served
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent


class Placing(Struct, frozen=True):
    """Where images go: the folder that holds the folder of Rivelt's, and what addresses begin with as seen from the manifest.

    `edits`: what makes the build serve it. `note`: what is not known.
    """

    folder: str
    prefix: str = ""
    edits: tuple[EditFile, ...] = ()
    note: str = ""


def placing(project: Project, manifest: str, ours: str) -> Placing:
    """Return where the images of a manifest go: beside it where that is served, else into a folder that is.

    Args:
        project: the project.
        manifest: the path of the manifest.
        ours: the name of the folder of the images.
    """
    home, found = parent(manifest), served(project, manifest)
    if found.unknown:
        return Placing(home, note=f"whether {join(home, ours)} is served is not known: {found.unknown}")
    if found.is_plain or any(not root.folder or f"{home}/".startswith(f"{root.folder}/") for root in found.roots):
        return Placing(home)
    if found.roots:
        return _into(found, found.roots[0], manifest)
    if found.assets is None:
        return Placing(home, note=f"{found.by} serves no folder of files: see that {join(home, ours)} is served")
    document = project.json(found.by)
    entry = join(home, ours)
    entry = entry.removeprefix(f"{parent(found.by)}/") if parent(found.by) else entry
    is_there = any(item.value == entry for item in found.assets.items)
    after = document.data if is_there else spliced(document.data, [document.append_item(found.assets, entry)])
    edit = EditFile(found.by, document.data, after, f"{entry} among the assets of the build")
    return Placing(home, edits=(edit,) if not is_there else ())


def _into(found: Served, root: Root, manifest: str) -> Placing:
    """Into a folder that is served; the manifest's own address decides how it is named."""
    here = posixpath.dirname(found.url_of(manifest) or posixpath.basename(manifest))
    way = posixpath.relpath(f"/{root.url}", f"/{here}")
    return Placing(root.folder, "" if way == "." else f"{way}/")
