"""App targets by the file that describes them: an Xcode project, or what one is made from."""

from __future__ import annotations

from collections.abc import Sequence

from rivelt.platforms.ios.native.generated import described_targets, generator_of
from rivelt.platforms.ios.native.targets import Target, app_targets
from rivelt.project.project import Project


def targets_of(project: Project, path: str) -> Sequence[Target]:
    """Return the iOS app targets that a file describes.

    Raises:
        BadInput: it cannot be read.
    """
    generator = generator_of(path)
    return app_targets(project, path) if generator is None else described_targets(project, path, generator)


def target_of(project: Project, path: str, name: str) -> Target | None:
    """Return the iOS app target of a name, or None.

    Raises:
        BadInput: the file that describes it cannot be read.
    """
    return next((target for target in targets_of(project, path) if target.name == name), None)
