"""An Android app module."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, ClassVar, Literal, TypeAlias

from rivelt.scene.site import Site

if TYPE_CHECKING:
    from rivelt.errors import RiveltError
    from rivelt.platforms.android.native.activity import ActivitySource
    from rivelt.platforms.android.native.build import Build
    from rivelt.platforms.android.native.frameworks import Framework

Way: TypeAlias = Literal["compat", "platform"]


class AndroidSite(Site, frozen=True):
    """An Android app module.

    `theme`: the theme reference that the launcher starts with. `app_theme`: the one that the app uses after launch.
    `source_set`: the one that is written to. `manifests`, `all_res`: what Android merges, the first wins, the main manifest is the last.
    `given_theme`: the latter as the brief names it. `app_theme_problem`: why it is unknown, `app_theme` being "" then.
    `res`: where resources are written. `launch_style`: the style, by name, that a framework's engine activity starts with and switches
    away from by itself; it is edited in place.
    `framework`: the one whose activity starts the app. `device`: the kind of device that it is made for alone; "" for phones and tablets. `code_build`: the build of the activity's source, where that belongs to another module.
    """

    module: str = ""
    manifest: str = ""
    source_set: str = "main"
    manifests: tuple[str, ...] = ()
    res: str = ""
    all_res: tuple[str, ...] = ()
    activity: str = ""
    theme: str | None = None
    app_theme: str = ""
    given_theme: str | None = None
    app_theme_problem: RiveltError | None = None
    launch_style: str | None = None
    source: ActivitySource | None = None
    build: Build | None = None
    code_build: Build | None = None
    manifest_min_sdk: int | None = None
    device: str = ""
    framework: Framework | None = None
    not_in_key: ClassVar[frozenset[str]] = Site.not_in_key | {
        "app_theme_problem",
        "source",
        "build",
        "code_build",
        "framework",
    }

    @property
    def min_sdk(self) -> int | None:
        """The lowest API level that the app runs on, if it could be read."""
        return (self.build.min_sdk if self.build else None) or self.manifest_min_sdk

    @property
    def builds(self) -> tuple[Build, ...]:
        """The builds that need the compatibility library: the module's, and that of the activity's source if it is another."""
        return tuple(build for build in (self.build, self.code_build) if build is not None)

    @property
    def versions(self) -> Mapping[str, str]:
        """The versions of the module's libraries, by "group:name", as far as they are known."""
        return self.build.versions if self.build else {}

    @property
    def compile_sdk(self) -> int | None:
        """The API level that the app is compiled with, if it could be read."""
        return self.build.compile_sdk if self.build else None
