"""An app module as its variants see it: each variant for the site that decides on it, those that show the same as one."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

from rivelt.errors import RiveltError
from rivelt.platforms.android.facts import screens
from rivelt.platforms.android.native.effective import resolved, variants_of_site
from rivelt.platforms.android.native.variants import MAIN, Variant
from rivelt.platforms.android.reader.scene import scene, today
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.values import replace


def views(project: Project, site: AndroidSite, beside: Sequence[AndroidSite]) -> Sequence[AndroidSite]:
    """Return a site as each group of its variants sees it; see `rivelt.platforms.Platform.views`."""
    known = variants_of_site(project, site)
    siblings = [one for one in beside if one.module == site.module and one.manifest == site.manifest]
    mine = [variant for variant in known.every if _decider(variant, siblings or [site]).source_set == site.source_set]
    by_sets: dict[tuple[str, ...], list[Variant]] = {}
    for variant in mine:
        by_sets.setdefault(tuple(one.name for one in variant.sets if one.exists(project)), []).append(variant)
    groups: dict[Hashable, tuple[AndroidSite, list[str]]] = {}
    for sets, variants in by_sets.items():
        is_as_planned = sets in {(MAIN,), (site.source_set, MAIN)} and site.source_set in sets
        view = site if is_as_planned else _view(project, site, variants[0], known.libraries)
        groups.setdefault(_inputs(project, view), (view, []))[1].extend(variant.name for variant in variants)
    merged: dict[Hashable, tuple[AndroidSite, list[str]]] = {}
    for view, names in groups.values():
        key = _outcome(project, view) if len(groups) > 1 else ""
        merged.setdefault(key, (view, []))[1].extend(names)
    if len(merged) == 1:
        return tuple(view for view, _ in merged.values())
    return tuple(_named(project, view, names) for view, names in merged.values())


def _named(project: Project, view: AndroidSite, names: Sequence[str]) -> AndroidSite:
    return replace(view, variants=tuple(names), shows=lambda: today(project, view) if view.blocked is None else "")


def _decider(variant: Variant, sites: Sequence[AndroidSite]) -> AndroidSite:
    """The site that decides on a variant: that of its highest source set; the first one for a variant that is nobody's."""
    ranked = [(rank, index) for index, one in enumerate(sites) if (rank := variant.rank(one.source_set)) is not None]
    return sites[min(ranked)[1]] if ranked else sites[0]


def _view(project: Project, site: AndroidSite, variant: Variant, libraries: Sequence[str]) -> AndroidSite:
    activity = site.activity or None
    try:
        return resolved(project, site, variant.sets, libraries, _only_of_several(project, site, activity))
    except RiveltError as error:
        return replace(site, blocked=error)


def _only_of_several(project: Project, site: AndroidSite, activity: str | None) -> str | None:
    """The activity that was chosen, where the launcher starts several; elsewhere each variant has its own."""
    from rivelt.platforms.android.native.manifest import merged_manifest

    namespace = site.build.namespace if site.build else None
    manifest = merged_manifest(project, site.manifests or (site.manifest,), namespace)
    return activity if len(manifest.launchers) > 1 else None


def _inputs(project: Project, view: AndroidSite) -> Hashable:
    """What a view is made of: variants that have the same show the same."""
    return (
        tuple(path for path in view.manifests if path in project),
        tuple(folder for folder in view.all_res if project.below(folder)),
        view.source.path if view.source else None,
        view.blocked.message if view.blocked else None,
    )


def _outcome(project: Project, view: AndroidSite) -> Hashable:
    """What a view shows, and what its launch depends on."""
    if view.blocked is not None:
        return view.blocked.message
    shown = tuple(scene(project, view, screen, look).layers for screen in screens() for look in screen.looks)
    source = view.source.path if view.source else None
    return (shown, view.theme, view.app_theme, view.activity, source, view.launch_style)
