"""The JSON Schema of the brief, for editors; made from the model."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from rivelt.brief.model import FILE_NAME, TABLES


def shipped_schema() -> str:
    """Return the JSON Schema that ships with the package, as text."""
    from importlib.resources import files

    return files("rivelt.brief").joinpath("rivelt.schema.json").read_text(encoding="utf-8").rstrip("\n")


def json_schema(platform_tables: Mapping[str, type[Struct]]) -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of the brief.

    Args:
        platform_tables: the table of each platform, by target.
    """
    import msgspec

    tables = {**TABLES, **platform_tables}
    fields: list[Any] = [
        (name, table) if name == "light" else (name, table, msgspec.field(default_factory=table))
        for name, table in tables.items()
    ]
    whole = msgspec.defstruct("Brief", fields, frozen=True, kw_only=True)
    (schema,), components = msgspec.json.schema_components([whole], ref_template="#/$defs/{name}")
    for component in components.values():
        component["additionalProperties"] = False
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"The brief of Rivelt ({FILE_NAME})",
        **schema,
        "$defs": components,
    }
