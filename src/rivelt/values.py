"""Plain values: structs of msgspec, whose classes cost a fiftieth of what dataclasses do when a module is loaded."""

from __future__ import annotations

from functools import cached_property
from typing import Any, ClassVar, TypeVar

from msgspec import Struct, structs

S = TypeVar("S", bound=Struct)


class Keyed(Struct, frozen=True, eq=False, dict=True, repr_omit_defaults=True):
    """A frozen value with fields that do not tell it from others of its kind (`not_in_key`), such as what is worked out from the rest."""

    not_in_key: ClassVar[frozenset[str]] = frozenset()

    @cached_property
    def _key(self) -> tuple[Any, ...]:
        return tuple(getattr(self, name) for name in self.__struct_fields__ if name not in self.not_in_key)

    def __eq__(self, other: object) -> bool:
        return self is other or (type(self) is type(other) and self._key == other._key)

    def __ne__(self, other: object) -> bool:
        return not self == other  # a struct's own would not ask `__eq__`

    @cached_property
    def _hash(self) -> int:
        return hash(tuple(one for one in self._key if not isinstance(one, dict)))

    def __hash__(self) -> int:
        return self._hash


def replace(value: S, /, **changes: Any) -> S:
    """Return a copy of a value with some fields changed."""
    return structs.replace(value, **changes)
