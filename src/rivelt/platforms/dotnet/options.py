"""What a brief may say to .NET single projects alone."""

from __future__ import annotations

from typing import Annotated

from msgspec import Meta

from rivelt.brief.model import PlatformOptions

_Name = Annotated[str, Meta(min_length=1)]


class DotnetTable(PlatformOptions, frozen=True, kw_only=True):
    """[dotnet]: what only .NET single projects have."""

    project: (
        Annotated[
            str,
            Meta(
                description='the path of a project file, such as "src/Skerryline.csproj", or a list of paths and patterns; if omitted, all',
                min_length=1,
            ),
        ]
        | Annotated[list[_Name], Meta(min_length=1)]
        | None
    ) = None
    picture: Annotated[
        str,
        Meta(
            description='what the generated picture is called, without its ending, such as "rivelt_logo": small letters, digits and underscores alone, which every platform accepts',
            pattern=r"^[a-z][a-z0-9_]{0,39}$",
        ),
    ] = "rivelt_logo"

    @property
    def chosen(self) -> tuple[str, tuple[str, ...]]:
        """The project files that are meant."""
        return "project", (self.project,) if isinstance(self.project, str) else tuple(self.project or ())
