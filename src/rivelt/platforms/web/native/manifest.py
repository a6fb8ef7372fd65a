"""The web app manifest: what it says of the launch screen."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from rivelt.patterns import regex

_TELLING = {"start_url", "display", "icons", "short_name", "background_color", "theme_color", "scope"}
_WINDOWS = {"window-controls-overlay", "tabbed"}
_SIZE = regex(r"(\d+)x\d+")
INSTALLED = {"standalone", "fullscreen", "minimal-ui"}


def looks_like_manifest(value: Mapping[str, Any]) -> bool:
    """Whether a JSON object is a web app manifest, and not that of a browser extension or of anything else."""
    return "manifest_version" not in value and len(_TELLING & value.keys()) > 1


def display_of(manifest: Mapping[str, Any]) -> object:
    """Return the display mode of an app: the first of `display_override` that has a window of its own, else `display`."""
    override = manifest.get("display_override")
    for mode in override if isinstance(override, list) else []:
        if mode in INSTALLED or mode in _WINDOWS:
            return "standalone" if mode in _WINDOWS else mode
    return manifest.get("display")


def is_installable(values: Mapping[str, Any]) -> bool:
    """Return whether the app gets a window of its own."""
    return display_of(values) in INSTALLED


def icon_sizes(icons: Iterable[Mapping[str, Any]]) -> tuple[set[int], bool]:
    """Return the sides in px that some icons say they have, and whether one fits every size."""
    words = [word for icon in icons for word in str(icon.get("sizes", "")).lower().split()]
    return {int(found[1]) for word in words if (found := _SIZE.fullmatch(word))}, "any" in words
