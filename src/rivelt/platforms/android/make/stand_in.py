"""A launch theme for the variants that nobody makes a launch screen for, but whose activity makes the library's call all the same."""

from __future__ import annotations

from rivelt.errors import RiveltError
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.android.make.launch_theme import Theme
from rivelt.platforms.android.make.manifest import main_manifest
from rivelt.platforms.android.make.styles import plain_style
from rivelt.platforms.android.native.effective import resolved, variants_of_site
from rivelt.platforms.android.native.theme import launch_theme
from rivelt.platforms.android.native.variants import Variant, Variants
from rivelt.platforms.android.site import AndroidSite, Way
from rivelt.project.project import Project
from rivelt.project.snapshot import join


def stand_in(
    project: Project, site: AndroidSite, theme: Theme, way: Way, made_by_others: frozenset[str]
) -> tuple[list[EditFile], list[WriteFile]]:
    """Return what gives the other variants of a site's module a launch theme: the main manifest's line, and a plain style in `main`.

    The style is a fallback: whoever makes a launch screen for `main` has it in its place. Nothing where the library is not used, no other
    variant shares the activity, or they start with a launch theme of the app's own.

    Args:
        project: the project.
        site: a site of a source set other than main.
        theme: its launch theme.
        way: how the launch screen is made.
        made_by_others: the paths of what other owners make.
    """
    variants = variants_of_site(project, site)
    others = [variant for variant in variants.every if variant.rank(site.source_set) is None]
    if way != "compat" or not any(_shares_call(project, site, variant, variants) for variant in others):
        return [], []
    main = resolved(project, site, (variants.main,), variants.libraries, site.activity)
    path = join(variants.main.res[0], "values", theme.names.values_file)
    is_made = path in made_by_others
    if launch_theme(project, main).is_of_library() and main.theme != f"@style/{theme.names.launch}":
        return [], []
    edits = main_manifest(project, site, theme.names)
    return edits, [] if is_made else [
        WriteFile(path, plain_style(theme), "launch theme of the other variants", is_fallback=True)
    ]


def _shares_call(project: Project, site: AndroidSite, variant: Variant, variants: Variants) -> bool:
    """Whether the install call that a site needs is made in another variant too."""
    try:
        view = resolved(project, site, variant.sets, variants.libraries, site.activity)
    except RiveltError:  # that variant starts with another activity, or cannot be built
        return False
    mine = {source.path for source in site.source.everywhere} if site.source else set()
    return view.source is not None and view.source.path in mine
