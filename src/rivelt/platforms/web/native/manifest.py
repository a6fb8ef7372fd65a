"""The web app manifest: what it says of the launch screen."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rivelt.edit.jsontext import JsonDocument

_TELLING = {"start_url", "display", "icons", "short_name", "background_color", "theme_color", "scope"}
INSTALLED = {"standalone", "fullscreen", "minimal-ui"}


def looks_like_manifest(value: Mapping[str, Any]) -> bool:
    """Whether a JSON object is a web app manifest, and not that of a browser extension or of anything else."""
    return "manifest_version" not in value and len(_TELLING & value.keys()) > 1


def is_installable(manifest: JsonDocument) -> bool:
    """Whether the app gets a window of its own."""
    return manifest.value.get("display") in INSTALLED
