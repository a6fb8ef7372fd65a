"""Source languages: one module each, found by the ending of a file's name.

A language is added as one module here: a subclass of `rivelt.edit.source.language.Source` named `Language`, with its `endings`.
"""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pathlib import PurePosixPath
from pkgutil import iter_modules
from typing import TYPE_CHECKING

from rivelt.edit.text import read_text
from rivelt.errors import BadInput, Place

if TYPE_CHECKING:
    from rivelt.edit.source.language import Source


@cache
def languages() -> dict[str, type[Source]]:
    """Return the languages by the endings of their files (".kt")."""
    found: dict[str, type[Source]] = {}
    for module in sorted(iter_modules(__path__), key=lambda module: module.name):
        language = getattr(import_module(f"{__name__}.{module.name}"), "Language", None)
        if language is not None:
            found |= dict.fromkeys(language.endings, language)
    return found


def read_source(data: bytes, path: str) -> Source:
    """Return a source file, parsed; parts with syntax errors are left to those who look at them.

    Raises:
        BadInput: it is not UTF-8 text, or of no known language.
    """
    language = languages().get(PurePosixPath(path).suffix)
    if language is None:
        raise BadInput("not a source file of a known language", place=Place(path))
    read_text(data, path)
    return language(data, path)
