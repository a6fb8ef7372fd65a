"""The commented starter brief; what it says of a key comes from the model."""

from __future__ import annotations

import json
import textwrap
from collections.abc import Mapping, Sequence

from msgspec import Struct, field

from rivelt.brief.load import description_of
from rivelt.brief.model import TABLES
from rivelt.templating import Templates

_TEMPLATES = Templates("rivelt.brief")


class Starter(Struct, frozen=True):
    """What a starter brief is filled with; None leaves a commented line in its place.

    Paths are relative to the brief; colours are CSS text. `choices`: for targets with several sites the key that chooses, and all their
    names. `editions`: those that flavours and targets suggest, with the keys that would choose each. `schema`: the name of the JSON Schema beside
    it, "" for none.
    """

    name: str
    project: str
    targets: tuple[str, ...]
    mark: str | None
    ground: str
    imprint: str | None = None
    dark_ground: str | None = None
    dark_mark: str | None = None
    dark_imprint: str | None = None
    choices: Mapping[str, tuple[str, Sequence[str]]] = field(default_factory=dict)
    editions: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    schema: str = ""


def starter_text(starter: Starter, platform_tables: Mapping[str, type[Struct]]) -> str:
    """Return the text of the starter brief.

    Args:
        starter: what it is filled with.
        platform_tables: the table of each platform, by target.
    """
    tables = {**TABLES, **platform_tables}

    def line(dotted: str, head: str = "") -> str:
        """A key with its default, below a comment that describes it; `head` is what the key's own line begins with."""
        name, _, key = dotted.partition(".")
        table = tables[name]
        value = getattr(table(), key)
        described = "\n".join(
            textwrap.wrap(description_of(table, key), 100, initial_indent="# ", subsequent_indent="#   ")
        )
        return f"{described[:2]}{described[2:3].upper()}{described[3:]}.\n{head}{key} = {json.dumps(value)}"

    return _TEMPLATES.render("rivelt.toml.j2", brief=starter, line=line, targets=list(platform_tables))
