"""What Windows packages a project holds, and what each shows at launch today."""

from __future__ import annotations

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.windows.facts import every_screen, screens, windows_facts
from rivelt.platforms.windows.native.images import variants
from rivelt.platforms.windows.native.listing import HOME, PROJECT_FILES, SHARED_LISTS
from rivelt.platforms.windows.native.manifest import Manifest, read_manifest
from rivelt.platforms.windows.reader.scene import scene
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.values import replace

_MADE_BY_BUILDS = {"bin", "obj", "apppackages", "debug", "release", "x64", "x86", "arm64"}
_PACKED = "AppxManifest.xml"


def survey(project: Project, _brief: Brief | None = None) -> list[WindowsSite]:
    """Return the packages: one for each package manifest that a person keeps."""
    return _surveyed(project)


@remembered
def _surveyed(project: Project) -> list[WindowsSite]:
    sources = [path for path in project.find("*.appxmanifest") if not _is_built(path)]
    homes = {parent(path) for path in sources}
    sources += [
        path
        for path in project.find(f"*{_PACKED}")
        if path.rpartition("/")[2] == _PACKED and not _is_built(path) and parent(path) not in homes
    ]
    made = [_site(project, path) for path in sorted(sources)]
    return [*made, *(_template(path) for path in project.find("*.appxmanifest.in") if not _is_built(path))]


def _template(path: str) -> WindowsSite:
    """A manifest that a build makes from a template: it is named for what it is, and left alone."""
    hint = "Write the launch element into the template by hand, or run Rivelt on what the build makes."
    error = BadInput("this is a template, from which a build makes the package manifest", place=Place(path), hint=hint)
    return WindowsSite("windows", path, manifest=path, path=path, names=(path, parent(path) or "."), blocked=error)


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
        if manifest.placeholder is not None:
            hint = "Set it where the build takes it from."
            message = f"the launch screen is a placeholder that a build fills in: {manifest.placeholder}"
            raise BadInput(message, place=manifest.document.place(manifest.launches[0].visual), hint=hint)
        kind = manifest.kind
        site = replace(site, project_files=(*files, *_shared(project, files)))
        if kind.version != windows_facts().kinds[0].version:
            site = replace(site, screens=screens(kind), every_screen=every_screen(kind))
        facts = _facts(project, manifest, home, files)
        return replace(
            site,
            shows=lambda: scene(project, site, screens(kind)[0], "light").title,
            facts=facts,
            touches=(path, *files),
        )
    except RiveltError as error:
        return replace(site, blocked=error)


def _shared(project: Project, files: tuple[str, ...]) -> tuple[str, ...]:
    """The lists of shared projects that project files import: what they list is in the package too."""
    found: dict[str, None] = {}
    for path in files:
        try:
            nodes = project.xml(path).root.walk()
        except RiveltError:
            continue
        for node in nodes:
            imported = (node.get("Project") or "") if node.local == "Import" else ""
            if imported.endswith(SHARED_LISTS):
                inside = HOME.sub("", imported).replace("\\", "/").split("/")
                there = join(parent(path), *inside)
                found |= {there: None} if there in project and there not in files else {}
    return tuple(found)


def _facts(project: Project, manifest: Manifest, home: str, files: tuple[str, ...]) -> dict[str, str]:
    first = manifest.launches[0]
    found = variants(project, home, first.image) if first.image else []
    facts = {
        "applications": str(len(manifest.launches)) if len(manifest.launches) > 1 else "",
        "made for": first.kind.name,
        "optional": "yes: the system may leave the launch screen out" if first.is_optional else "",
        "launch element": first.schema if first.element is not None else f"none (it would be in {first.schema})",
        "image": first.image or "",
        "files": "\n".join(variant.path for variant in found) or ("none" if first.image else ""),
        "background": first.background or "none",
        "images are listed in": ", ".join(files) or "no project file",
    }
    return {key: value for key, value in facts.items() if value}
