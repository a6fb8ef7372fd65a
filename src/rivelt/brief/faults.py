"""What is wrong with a value of a brief: which part of it, what it must be, and which allowed value was probably meant."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable, Iterator
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import msgspec

from rivelt.errors import BadInput, Place

_CLOSE = 0.5
"""How alike two names must be (`difflib`, 0 to 1) for one to be taken for the other."""


def nearest(name: str, known: Iterable[str]) -> str | None:
    """Return the known name that a misspelt one is most like, if it is like one at all."""
    return next(iter(difflib.get_close_matches(name, list(known), n=1, cutoff=_CLOSE)), None)


def description(annotation: Any) -> str:
    """Return what the model says that a key holds.

    Raises:
        StopIteration: it says nothing.
    """
    if get_origin(annotation) is Annotated:
        found = [str(meta.description) for meta in get_args(annotation)[1:] if getattr(meta, "description", None)]
        return found[0] if found else description(get_args(annotation)[0])
    return next(text for part in get_args(annotation) if (text := description(part)))


def faults(name: str, value: object, annotation: Any, place: Callable[[str], Place]) -> Iterator[BadInput]:
    """Yield an error for each part of a value that its annotation does not allow: for the value itself where all its parts are allowed."""
    whole = description(annotation)
    for part, found, allowed in _parts(name, value, annotation):
        choices = tuple(_choices(allowed))
        about, wanted = (part, _listed(choices)) if part != name and choices else (name, whole)
        near = nearest(found, choices) if isinstance(found, str) else None
        hint = f'Did you mean "{near}"?' if near else None
        yield BadInput(f"`{about}` must be {wanted}; found {_shown(found)}", place=place(part), hint=hint)


def _parts(name: str, value: object, annotation: Any) -> Iterator[tuple[str, object, Any]]:
    """The innermost parts that are not allowed, each with what is allowed there."""
    found: list[tuple[str, object, Any]] = []
    if isinstance(value, dict | list):
        for kind in _plain_kinds(annotation):
            if isinstance(value, dict) and get_origin(kind) is dict:
                inner = [(f"{name}.{key}", one, get_args(kind)[1]) for key, one in value.items()]
            elif isinstance(value, list) and get_origin(kind) is list:
                inner = [(f"{name}[{number}]", one, get_args(kind)[0]) for number, one in enumerate(value)]
            else:
                continue
            for part in inner:
                if not _is_allowed(*part[1:]):
                    found += _parts(*part)
    yield from found or [(name, value, annotation)]


def _is_allowed(value: object, annotation: Any) -> bool:
    try:
        msgspec.convert(value, type=annotation, strict=True)
    except msgspec.ValidationError:
        return False
    return True


def _plain_kinds(annotation: Any) -> Iterator[Any]:
    """The types that an annotation is made of, without what is said of them."""
    origin = get_origin(annotation)
    if origin is Annotated:
        yield from _plain_kinds(get_args(annotation)[0])
    elif origin in {Union, UnionType}:
        for part in get_args(annotation):
            yield from _plain_kinds(part)
    else:
        yield annotation


def _choices(annotation: Any) -> Iterator[str]:
    for kind in _plain_kinds(annotation):
        if get_origin(kind) is Literal:
            yield from (choice for choice in get_args(kind) if isinstance(choice, str))


def _listed(choices: tuple[str, ...]) -> str:
    quoted = [f'"{choice}"' for choice in choices]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} or {quoted[-1]}"


def _shown(value: object) -> str:
    text = {True: "true", False: "false"}.get(value) if isinstance(value, bool) else repr(value)
    return text if text and len(text) < 60 else f"{str(text)[:57]}..."
