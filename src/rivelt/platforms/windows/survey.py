"""What Windows packages a project holds, and what each shows at launch today."""

from __future__ import annotations

from dataclasses import replace

from rivelt.brief.model import Brief
from rivelt.errors import RiveltError
from rivelt.platforms.windows.facts import screens
from rivelt.platforms.windows.native.images import variants
from rivelt.platforms.windows.native.listing import PROJECT_FILES
from rivelt.platforms.windows.native.manifest import Manifest, read_manifest
from rivelt.platforms.windows.reader.scene import scene
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.project import Project
from rivelt.project.snapshot import parent

_MADE_BY_BUILDS = {"bin", "obj", "apppackages", "debug", "release", "x64", "x86", "arm64"}
_PACKED = "AppxManifest.xml"


def survey(project: Project, _brief: Brief | None = None) -> list[WindowsSite]:
    """The packages: one for each package manifest that a person keeps."""
    sources = [path for path in project.find("*.appxmanifest") if not _is_built(path)]
    homes = {parent(path) for path in sources}
    sources += [
        path
        for path in project.find(f"*{_PACKED}")
        if path.rpartition("/")[2] == _PACKED and not _is_built(path) and parent(path) not in homes
    ]
    return [_site(project, path) for path in sorted(sources)]


def _is_built(path: str) -> bool:
    return bool({part.lower() for part in parent(path).split("/")} & _MADE_BY_BUILDS)


def _site(project: Project, path: str) -> WindowsSite:
    home = parent(path)
    files = tuple(found for found in project.below(home) if found.endswith(PROJECT_FILES) and parent(found) == home)
    homes = (home,) if home else ()
    site = WindowsSite(
        "windows", path, manifest=path, project_files=files, homes=homes, path=path, names=(path, home or ".")
    )
    try:
        manifest = read_manifest(project, path)
        facts = _facts(project, manifest, home, files)
        today = scene(project, site, screens()[0], "light").title
        return replace(site, today=today, facts=facts, touches=(path, *files))
    except RiveltError as error:
        return replace(site, blocked=error)


def _facts(project: Project, manifest: Manifest, home: str, files: tuple[str, ...]) -> dict[str, str]:
    first = manifest.launches[0]
    found = variants(project, home, first.image) if first.image else []
    facts = {
        "applications": str(len(manifest.launches)) if len(manifest.launches) > 1 else "",
        "launch element": first.schema if first.element is not None else f"none (it would be in {first.schema})",
        "image": first.image or "",
        "files": "\n".join(variant.path for variant in found) or ("none" if first.image else ""),
        "background": first.background or "none",
        "images are listed in": ", ".join(files) or "no project file",
    }
    return {key: value for key, value in facts.items() if value}
