"""The keys of `rivelt.toml` that every platform shares: what validation, messages and the JSON Schema are made from.

The keys of one platform, such as those of [android], are listed in the `options` module of its package.

`None` means "left out". Colours and paths are plain text here; `rivelt.brief.load` gives them their meaning.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from msgspec import Meta, Struct

FILE_NAME = "rivelt.toml"

Colour = Annotated[str, Meta(description='any CSS colour, such as "#F3EBDD"', min_length=1)]
ArtPath = Annotated[
    str,
    Meta(
        description='the path of an SVG, PNG, JPEG or WebP file, such as "art/mark.svg"; under [dark] also "derive"',
        min_length=1,
    ),
]


class AppTable(Struct, frozen=True, kw_only=True):
    """[app]: the app, and where its native projects are."""

    name: Annotated[str, Meta(description="the app's name, as text")] | None = None
    project: Annotated[str, Meta(description='a folder, relative to the brief, such as "."', min_length=1)] = "."
    small_files: Annotated[
        bool, Meta(description="true or false: whether much more time is spent on smaller image files")
    ] = False
    targets: Annotated[list[str], Meta(description='a list such as ["android", "ios"]', min_length=1)] | None = None


Disc = Annotated[str, Meta(description='any CSS colour, or "none"', min_length=1)]


class LookTable(Struct, frozen=True, kw_only=True):
    """[light] or [dark]: what the screen shows in one look. What [dark] leaves out is taken from [light]."""

    ground: Colour | None = None
    mark: ArtPath | None = None
    imprint: ArtPath | None = None
    backdrop: ArtPath | None = None
    disc: Disc | None = None


class LayoutTable(Struct, frozen=True, kw_only=True):
    """[layout]: how large, how far from the edges, and round which middle."""

    mark_size: (
        Annotated[
            float,
            Meta(description='a number of dp/pt above 0 (the longer side), or "fit"', gt=0, le=1000),
        ]
        | Literal["fit"]
    ) = "fit"
    clearance: Annotated[
        float,
        Meta(
            description="the free ring inside a circular mask, as a share of its diameter, from 0 to 0.4", ge=0, le=0.4
        ),
    ] = 0.06
    centre: (
        Annotated[
            Literal["circle", "box", "mass"],
            Meta(description='what is centred: "circle" (the smallest round it), "box" (its bounds) or "mass"'),
        ]
        | None
    ) = None
    focus: (
        Annotated[
            list[Annotated[float, Meta(ge=0, le=1)]],
            Meta(
                description="two numbers from 0 to 1: a point of the backdrop, such as [0.5, 0.35]",
                min_length=2,
                max_length=2,
            ),
        ]
        | None
    ) = None
    trim: Annotated[bool, Meta(description="true or false: whether transparent margins of the art are left out")] = True
    enlarge: Annotated[bool, Meta(description="true or false: whether a bitmap may be enlarged more than twice")] = (
        False
    )


class HandoffTable(Struct, frozen=True, kw_only=True):
    """[handoff]: what comes after the launch screen, for the proof."""

    first_ground: Colour | None = None
    dark_first_ground: Colour | None = None


class CheckTable(Struct, frozen=True, kw_only=True):
    """[check]: which rules are left out, and why, and how grave the others are."""

    ignore: Annotated[
        dict[str, Annotated[str, Meta(min_length=1)]],
        Meta(
            description='codes of rules, each with the reason for leaving it out, such as { AND09 = "old phones only" }'
        ),
    ] = {}  # msgspec copies it
    severity: Annotated[
        dict[str, Literal["error", "warning", "note"]],
        Meta(description='codes of rules, each with "error", "warning" or "note"'),
    ] = {}


class BriefFile(Struct, frozen=True, kw_only=True):
    """The whole file."""

    app: AppTable = AppTable()
    light: LookTable
    dark: LookTable = LookTable()
    layout: LayoutTable = LayoutTable()
    handoff: HandoffTable = HandoffTable()
    check: CheckTable = CheckTable()


TABLES: dict[str, type[Struct]] = {
    "app": AppTable,
    "light": LookTable,
    "dark": LookTable,
    "layout": LayoutTable,
    "handoff": HandoffTable,
    "check": CheckTable,
}


def shipped_schema() -> str:
    """The JSON Schema that ships with the package, as text."""
    from importlib.resources import files

    return files("rivelt.brief").joinpath("rivelt.schema.json").read_text(encoding="utf-8").rstrip("\n")


def json_schema(platform_tables: Mapping[str, type[Struct]]) -> dict[str, Any]:
    """The JSON Schema (2020-12) of the brief, for editors.

    Args:
        platform_tables: the table of each platform, by target.
    """
    import msgspec

    fields = [(target, table, msgspec.field(default_factory=table)) for target, table in platform_tables.items()]
    whole = msgspec.defstruct("Brief", fields, bases=(BriefFile,), frozen=True, kw_only=True)
    (schema,), components = msgspec.json.schema_components([whole], ref_template="#/$defs/{name}")
    for component in components.values():
        component["additionalProperties"] = False
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"The brief of Rivelt ({FILE_NAME})",
        **schema,
        "$defs": components,
    }
