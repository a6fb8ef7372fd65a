"""Source languages: one module each, found by the ending of a file's name.

A language is added as one module here, with a class named `Language` and its `endings`: a subclass of `SyntaxFile`
(`rivelt.edit.source.language`) where it is only read, of `Source` where code is put into it.
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
    from rivelt.edit.source.apple import AppleSource
    from rivelt.edit.source.csharp import Language as CSharp
    from rivelt.edit.source.language import Source, SyntaxFile
    from rivelt.edit.source.script import Language as Script


@cache
def languages() -> dict[str, type[SyntaxFile]]:
    """Return the languages by the endings of their files (".kt")."""
    found: dict[str, type[SyntaxFile]] = {}
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
    from rivelt.edit.source.language import Source

    found = _read(data, path)
    if not isinstance(found, Source):
        raise BadInput("not a source file of a known language", place=Place(path))
    return found


def read_apple_source(data: bytes, path: str) -> AppleSource:
    """Return a Swift or Objective-C file, parsed.

    Raises:
        BadInput: it is not UTF-8 text, or of another language.
    """
    from rivelt.edit.source.apple import AppleSource

    found = _read(data, path)
    if not isinstance(found, AppleSource):
        raise BadInput("not a Swift or Objective-C file", place=Place(path))
    return found


def read_csharp(data: bytes, path: str) -> CSharp:
    """Return a C# file, parsed.

    Raises:
        BadInput: it is not UTF-8 text, or of another language.
    """
    from rivelt.edit.source.csharp import Language as CSharp

    found = _read(data, path)
    if not isinstance(found, CSharp):
        raise BadInput("not a C# file", place=Place(path))
    return found


def read_script(data: bytes, path: str) -> Script:
    """Return a JavaScript or TypeScript file, parsed.

    Raises:
        BadInput: it is not UTF-8 text, or of another language.
    """
    from rivelt.edit.source.script import Language as Script

    found = _read(data, path)
    if not isinstance(found, Script):
        raise BadInput("not a JavaScript or TypeScript file", place=Place(path))
    return found


def _read(data: bytes, path: str) -> SyntaxFile:
    language = languages().get(PurePosixPath(path).suffix)
    if language is None:
        raise BadInput("not a source file of a known language", place=Place(path))
    read_text(data, path)
    return language(data, path)
