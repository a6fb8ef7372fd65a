"""A brief with changes that are not written yet: its text with the comments kept, the difference, and the way back."""

from __future__ import annotations

import difflib
import hashlib
import tomllib
from collections.abc import Mapping, MutableMapping
from typing import Any, NamedTuple, TypeAlias

import tomlkit
from tomlkit.exceptions import TOMLKitError

from rivelt.errors import BadInput, Place

Value: TypeAlias = str | float | bool | list[float] | None
"""What a key is set to; None takes it out."""

_BOM = b"\xef\xbb\xbf"


class Drafted(NamedTuple):
    """The text of a brief as the changes leave it, and how it differs from the file. `digest`: of the text before and after."""

    data: bytes
    diff: str
    digest: str


def drafted(data: bytes, name: str, changes: Mapping[str, Value]) -> Drafted:
    """Return a brief with some keys changed; all else, comments too, stays as it is.

    Args:
        data: the bytes of the file.
        name: what messages and the difference call it.
        changes: the values by dotted keys, such as "light.ground" or "edition.tern.dark.ground".

    Raises:
        BadInput: the file is no TOML, or the keys cannot be set in the way it is written.
    """
    if not changes:
        return Drafted(data, "", _digest(data, data))
    body = data.removeprefix(_BOM)
    try:
        document = tomlkit.parse(body.decode())
        for key, value in changes.items():
            _set(document, key.split("."), value)
        text = tomlkit.dumps(document)
    except (TOMLKitError, UnicodeDecodeError, TypeError, AttributeError, KeyError, ValueError) as error:
        raise BadInput(f"the brief cannot be edited: {error}", place=Place(name), hint="Edit it by hand.") from error
    if b"\r\n" in body:
        text = text.replace("\r\n", "\n").replace("\n", "\r\n")
    after = data[: len(data) - len(body)] + text.encode()
    _prove(body, text, name, changes)
    lines = difflib.unified_diff(
        data.decode("utf-8", "replace").splitlines(),
        after.decode("utf-8", "replace").splitlines(),
        name,
        name,
        n=2,
        lineterm="",
    )
    return Drafted(after, "\n".join(lines), _digest(data, after))


def _digest(before: bytes, after: bytes) -> str:
    return hashlib.sha256(hashlib.sha256(before).digest() + hashlib.sha256(after).digest()).hexdigest()


def _set(table: MutableMapping[str, Any], path: list[str], value: Value) -> None:
    """Set a key, or take it out; tables that are not there yet are made for it."""
    name, *rest = path
    if not rest:
        if value is None:
            table.pop(name, None)
        else:
            table[name] = _item(value)
        return
    if name not in table:
        if value is None:
            return
        is_super = len(rest) > 1
        table[name] = tomlkit.table(is_super)
    _set(table[name], rest, value)


def _item(value: Value) -> Any:
    if isinstance(value, float) and value.is_integer():
        value = int(value)
    return tomlkit.item(value)


def _prove(before: bytes, after: str, name: str, changes: Mapping[str, Value]) -> None:
    """Make sure that the text says what was asked for, and nothing else has another value.

    Raises:
        BadInput: it does not.
    """
    wanted = tomllib.loads(before.decode())
    for key, value in changes.items():
        _set_plain(wanted, key.split("."), value)
    if _pruned(tomllib.loads(after)) != _pruned(wanted):
        raise BadInput(
            "the brief cannot be edited: it would say something else", place=Place(name), hint="Edit it by hand."
        )


def _set_plain(table: dict[str, Any], path: list[str], value: Value) -> None:
    for name in path[:-1]:
        table = table.setdefault(name, {})
    if value is None:
        table.pop(path[-1], None)
    else:
        table[path[-1]] = value


def _pruned(table: dict[str, Any]) -> dict[str, Any]:
    """A table without empty tables in it."""
    found = {key: _pruned(value) if isinstance(value, dict) else value for key, value in table.items()}
    return {key: value for key, value in found.items() if value != {}}
