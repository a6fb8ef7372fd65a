"""Media queries, as far as launch screens use them (W3C, "Media Queries Level 5")."""

from __future__ import annotations

import re

from rivelt.scene.model import Screen
from rivelt.units import Look

_FEATURE = re.compile(r"\(\s*([a-z-]+)\s*(?::\s*([^()]*?)\s*)?\)")
_TYPES = {"", "screen", "all", "only screen", "only all"}
_BOUND = re.compile(r"(-webkit-)?(min-|max-)?(.*)")
_LENGTH = re.compile(r"(\d+(?:\.\d+)?)(?:px|dppx|x)?")


def matches(query: str, screen: Screen, look: Look) -> bool | None:
    """Return whether a screen in a look fits a media query; None when it is not understood."""
    verdicts = [_all_of(part.strip().lower(), screen, look) for part in query.split(",")]
    if True in verdicts:
        return True
    return None if None in verdicts else False


def _all_of(query: str, screen: Screen, look: Look) -> bool | None:
    parts = re.split(r"\s+and\s+(?=\()", query)
    if not query.startswith("("):
        kind, parts = parts[0], parts[1:]
        if kind not in _TYPES:
            return False if kind in {"print", "speech"} else None
    verdicts = [_feature(part, screen, look) for part in parts]
    if False in verdicts:
        return False
    return None if None in verdicts else True


def _feature(text: str, screen: Screen, look: Look) -> bool | None:
    found = _FEATURE.fullmatch(text.strip())
    if found is None:
        return None
    name, wanted = found[1], found[2] or ""
    words = {
        "orientation": "landscape" if screen.width > screen.height else "portrait",
        "prefers-color-scheme": look,
        "display-mode": "standalone",
    }
    if name in words:
        return wanted == words[name]
    short, long = sorted((screen.width, screen.height))
    is_window = screen.variant == "window"
    lengths = {
        # A phone or pad on its side keeps the width and height it has upright.
        "device-width": screen.width if is_window else short,
        "device-height": screen.height if is_window else long,
        "width": screen.width,
        "height": screen.height,
        "-webkit-device-pixel-ratio": screen.scale,
        "resolution": screen.scale,
    }
    parts = _BOUND.fullmatch(name)
    assert parts is not None  # it matches everything
    bound, plain = parts[2] or "", (parts[1] or "") + parts[3]
    length = _LENGTH.fullmatch(wanted)
    if plain not in lengths or length is None:
        return None
    value, given = lengths[plain], float(length[1])
    return {"": value == given, "min-": value >= given, "max-": value <= given}[bound]
