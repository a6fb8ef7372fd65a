"""The scenes of a project: every site on every screen, in both looks."""

from __future__ import annotations

from rivelt.errors import BadInput, raise_all
from rivelt.platforms import platform
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot
from rivelt.proof.model import Proof
from rivelt.units import LOOKS


def collect(name: str, brief: str, snapshot: Snapshot, sites: tuple[Site, ...], *, is_planned: bool) -> Proof:
    """Work out the scenes of the sites that are not blocked.

    Args:
        name: the app's name.
        brief: the brief as people see it.
        snapshot: the project's files, as they are or as they would be.
        sites: the sites of the project.
        is_planned: whether the files are as they would be.

    Raises:
        BadInput: no site can be shown.
    """
    scenes = tuple(
        (site, platform(site.target).scene(snapshot, site, screen, look))
        for site in sites
        if site.blocked is None
        for screen in platform(site.target).screens()
        for look in LOOKS
    )
    blocked = {site: site.blocked for site in sites if site.blocked is not None}
    if not scenes:
        raise_all([site.blame(error) for site, error in blocked.items()])
        hint = "Give the folder that holds AndroidManifest.xml or an .xcodeproj somewhere below it."
        raise BadInput("no native project was found", hint=hint)
    return Proof(name, brief, is_planned, scenes, blocked)
