"""The JSON Schema of the brief, for editors; made from the model."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

from msgspec import Meta, Struct

from rivelt.brief.model import EDITION_NAME, FILE_NAME, TABLES
from rivelt.packaged import packaged

SCHEMA_ID = "urn:rivelt:brief:1"
"""What the schema is called; it is a name, not an address."""

SCHEMA_FILE = "rivelt.schema.json"
"""The schema beside a brief, which the first line of the brief names for editors."""

_EDITIONS = "other versions of the same app by name, such as a flavour: only what differs from the brief"


def shipped_schema() -> str:
    """Return the JSON Schema that ships with the package, as text."""
    return packaged("rivelt.brief", "rivelt.schema.json").decode().rstrip("\n")


def json_schema(platform_tables: Mapping[str, type[Struct]]) -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of the brief.

    Args:
        platform_tables: the table of each platform, by target.
    """
    import msgspec

    tables = {**TABLES, **platform_tables}
    optional: list[Any] = [(name, table, msgspec.field(default_factory=table)) for name, table in tables.items()]
    edition = msgspec.defstruct("Edition", optional, frozen=True, kw_only=True)
    names = Annotated[str, Meta(pattern=f"^{EDITION_NAME.pattern}$")]
    editions: Any = Annotated[dict[names, edition], Meta(description=_EDITIONS)]  # type: ignore[valid-type]
    fields: list[Any] = [
        (name, table) if name == "light" else (name, table, default) for name, table, default in optional
    ]
    fields.append(("edition", editions, msgspec.field(default_factory=dict)))
    whole = msgspec.defstruct("Brief", fields, frozen=True, kw_only=True)
    (schema,), components = msgspec.json.schema_components([whole], ref_template="#/$defs/{name}")
    for component in components.values():
        component["additionalProperties"] = False
        for value in component["properties"].values():
            _tidy(value)
        if not component["required"]:
            del component["required"]
    components["AppTable"]["properties"]["targets"]["items"] = {"enum": list(platform_tables)}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": SCHEMA_ID,
        "title": f"The brief of Rivelt ({FILE_NAME})",
        **schema,
        "$defs": components,
    }


def _tidy(value: dict[str, Any]) -> None:
    """Say what a property is where it stands, once, and leave out null, which TOML does not have."""
    if value.get("default", "") is None:
        del value["default"]
    kinds = [kind for kind in value.get("anyOf", ()) if kind != {"type": "null"}]
    if not kinds:
        return
    said = next((kind["description"] for kind in kinds if "description" in kind), None)
    for kind in kinds:
        if kind.get("description") == said:
            kind.pop("description", None)
    if len(kinds) == 1:
        del value["anyOf"]
        value.update(kinds[0])
    else:
        value["anyOf"] = kinds
    if said is not None and "description" not in value:
        value["description"] = said


def is_shipped(data: bytes) -> bool:
    """Return whether a file is a schema that a version of Rivelt has written, and may be replaced by a newer one."""
    import json

    try:
        found = json.loads(data)
    except ValueError:
        return False
    return isinstance(found, dict) and found.get("$id") == SCHEMA_ID
