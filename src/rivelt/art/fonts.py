"""Which font families this machine has: text in a drawing is drawn with them."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path

_GENERIC = frozenset(
    [
        "serif",
        "sans-serif",
        "monospace",
        "cursive",
        "fantasy",
        "system-ui",
        "ui-serif",
        "ui-sans-serif",
        "ui-monospace",
        "ui-rounded",
        "math",
        "emoji",
        "fangsong",
    ]
)
_SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc"})
_COLLECTIONS = frozenset({".ttc", ".otc"})
_FAMILY, _TYPOGRAPHIC_FAMILY = 1, 16  # OpenType, "name" table


def missing_fonts(families: Iterable[str]) -> tuple[str, ...]:
    """Return those of some font families that this machine does not have; generic ones are always there."""
    wanted = {name: name.casefold() for name in families if name.lower() not in _GENERIC}
    if not wanted:
        return ()
    left = set(wanted.values())
    for path in _font_files():
        if not left:
            break
        left -= _families(path)
    return tuple(name for name, folded in wanted.items() if folded in left)


def _font_files() -> Iterator[Path]:
    for folder in _folders():
        for root, _, names in os.walk(folder):
            for name in sorted(names):
                if Path(name).suffix.lower() in _SUFFIXES:
                    yield Path(root, name)


def _folders() -> tuple[Path, ...]:
    home = Path.home()
    if sys.platform == "darwin":
        return home / "Library/Fonts", Path("/Library/Fonts"), Path("/System/Library/Fonts")
    if sys.platform == "win32":
        local = Path(os.environ.get("LOCALAPPDATA", home))
        return Path(os.environ.get("WINDIR", "C:/Windows"), "Fonts"), local / "Microsoft/Windows/Fonts"
    data = Path(os.environ.get("XDG_DATA_HOME") or home / ".local/share")
    return data / "fonts", home / ".fonts", Path("/usr/local/share/fonts"), Path("/usr/share/fonts")


def _families(path: Path) -> frozenset[str]:
    """The families in a font file, in lower case; none where it cannot be read."""
    from fontTools.ttLib import TTCollection, TTFont, TTLibError

    try:
        with (
            TTCollection(str(path), lazy=True)
            if path.suffix.lower() in _COLLECTIONS
            else TTFont(path, lazy=True) as found
        ):
            fonts = getattr(found, "fonts", None) or [found]
            records = [record for font in fonts for record in font["name"].names]
        names = (record for record in records if record.nameID in {_FAMILY, _TYPOGRAPHIC_FAMILY})
        return frozenset(record.toUnicode(errors="replace").casefold() for record in names)
    except (OSError, TTLibError, KeyError, ValueError, AssertionError):
        return frozenset()
