"""Regular expressions that are compiled when they are first used.

A command uses half to two thirds of those in the modules that it loads, and compiling all of them takes a tenth of a short command's time.
"""

from __future__ import annotations

import re
from typing import Any, AnyStr, Generic, cast

_METHODS = ("search", "match", "fullmatch", "finditer", "findall", "split", "sub", "subn")


class Regex(Generic[AnyStr]):
    """A regular expression as `regex` gives it."""

    def __init__(self, pattern: AnyStr, flags: int) -> None:
        self.pattern: AnyStr = pattern
        self._flags = flags

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_") or name == "pattern":  # asked for by who copies or pickles it, before it has a pattern
            raise AttributeError(name)
        compiled = re.compile(self.pattern, self._flags)
        for method in _METHODS:  # from now on they are found at once
            setattr(self, method, getattr(compiled, method))
        return getattr(compiled, name)


def regex(pattern: AnyStr, flags: int = 0) -> re.Pattern[AnyStr]:
    """Return a regular expression with the methods of `re.Pattern`; a fault in it is raised when it is first used."""
    return cast("re.Pattern[AnyStr]", Regex(pattern, flags))
