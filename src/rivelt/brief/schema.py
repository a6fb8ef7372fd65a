"""The keys of `rivelt.toml`: the one list that validation, messages and the JSON Schema are made from.

`None` means "left out". Colours and paths are plain text here; `rivelt.brief.load` gives them their meaning.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

FILE_NAME = "rivelt.toml"

Text = Annotated[str, Field(min_length=1)]
_COLOUR = 'any CSS colour, such as "#F3EBDD"'
_ART = 'the path of an SVG, PNG, JPEG or WebP file, such as "art/mark.svg"'


class _Table(BaseModel):
    """A table of the brief: frozen, strict about types, closed to unknown keys."""

    model_config = ConfigDict(frozen=True, strict=True, extra="forbid")


class AppTable(_Table):
    """The app, and where its native projects are."""

    name: Annotated[Text | None, Field(description="the app's name, as text")] = None
    project: Annotated[Text, Field(description='a folder, relative to the brief, such as "."')] = "."
    targets: Annotated[list[str] | None, Field(description='a list such as ["android", "ios"]', min_length=1)] = None


class LookTable(_Table):
    """What the screen shows in one look. What [dark] leaves out is taken from [light]."""

    ground: Annotated[Text | None, Field(description=_COLOUR)] = None
    mark: Annotated[Text | None, Field(description=_ART)] = None
    imprint: Annotated[Text | None, Field(description=_ART)] = None


class LayoutTable(_Table):
    """How large, and how far from the edges."""

    mark_size: Annotated[
        Annotated[float, Field(gt=0, le=1000)] | Literal["fit"],
        Field(description='a number of dp/pt above 0, at most 1000 (the longer side), or "fit"'),
    ] = "fit"
    clearance: Annotated[
        float,
        Field(
            description="the free ring inside a circular mask, as a share of its diameter, from 0 to 0.4", ge=0, le=0.4
        ),
    ] = 0.06


class BriefFile(_Table):
    """The whole file."""

    app: AppTable = AppTable()
    light: LookTable = LookTable()
    dark: LookTable = LookTable()
    layout: LayoutTable = LayoutTable()


TABLES: dict[str, type[BaseModel]] = {"app": AppTable, "light": LookTable, "dark": LookTable, "layout": LayoutTable}


def json_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of the brief, for editors."""
    schema = BriefFile.model_json_schema()
    schema["title"] = f"The brief of Rivelt ({FILE_NAME})"
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
