"""The JSON Schemas of all documents, made from their types."""

from __future__ import annotations

import inspect
from typing import Any

import msgspec

from rivelt.documents.art import MeasureDocument, PlatesDocument
from rivelt.documents.base import Document, ErrorDocument
from rivelt.documents.fleet import FleetDocument
from rivelt.documents.project import BriefDocument, DemoDocument, SurveyDocument
from rivelt.documents.replay import ReplayDocument
from rivelt.documents.review import ReviewDocument
from rivelt.documents.rules import CheckDocument, ExplainDocument
from rivelt.documents.scenes import ProofDocument
from rivelt.documents.work import ApplyDocument, HistoryDocument, RemoveDocument, UndoDocument

DOCUMENTS: tuple[type[Document], ...] = (
    SurveyDocument,
    BriefDocument,
    MeasureDocument,
    PlatesDocument,
    ProofDocument,
    ReviewDocument,
    ApplyDocument,
    UndoDocument,
    HistoryDocument,
    RemoveDocument,
    CheckDocument,
    ExplainDocument,
    ReplayDocument,
    FleetDocument,
    DemoDocument,
    ErrorDocument,
)


def name_of(document: type[Document]) -> str:
    """Return the name and version of a kind of document, such as "rivelt.check/1"."""
    fields = msgspec.structs.fields(document)
    return str(next(field.default for field in fields if field.name == "schema"))


def schemas(*, is_strict: bool = False) -> dict[str, dict[str, Any]]:
    """Return a JSON Schema (2020-12) for each kind of document, by its name and version.

    Args:
        is_strict: allow no key but those of this version; later ones of the same version may have more.
    """
    return {name_of(document): _schema(document, is_strict=is_strict) for document in DOCUMENTS}


def _schema(document: type[Document], *, is_strict: bool) -> dict[str, Any]:
    (whole,), parts = msgspec.json.schema_components([document], ref_template="#/$defs/{name}")
    for part in parts.values():
        part["required"] = list(part["properties"])  # every key is always there
        for value in part["properties"].values():
            value.pop("default", None)
        part.pop("title", None)
        if is_strict:
            part["additionalProperties"] = False
    top = parts.pop(whole["$ref"].rpartition("/")[2])
    name = name_of(document)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": f"urn:rivelt:{name.removeprefix('rivelt.').replace('/', ':')}",
        "title": name,
        **top,
        "description": inspect.cleandoc(document.__doc__ or ""),
        "$defs": dict(sorted(parts.items())),
    }
