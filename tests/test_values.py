"""Plain values: what tells them from others."""

from __future__ import annotations

from typing import ClassVar

from hypothesis import given
from hypothesis import strategies as st
from msgspec import field

from rivelt.values import Keyed, replace


class Berth(Keyed, frozen=True):
    """A value with a field of each kind."""

    name: str
    depths: dict[str, int] = field(default_factory=dict)
    note: str = ""
    not_in_key: ClassVar[frozenset[str]] = frozenset({"note"})


class Slip(Berth, frozen=True):
    """The same fields, and one more."""

    slope: int = 0


BERTHS = st.builds(
    Berth,
    st.sampled_from(["north", "south"]),
    st.dictionaries(st.sampled_from("ab"), st.integers(0, 1)),
    st.sampled_from(["", "silted"]),
)


@given(BERTHS, BERTHS)
def test_values_are_told_apart_by_their_keys_alone(one: Berth, other: Berth) -> None:
    same = (one.name, one.depths) == (other.name, other.depths)
    assert (one == other) is same
    assert (one != other) is not same
    if same:
        assert hash(one) == hash(other)
        assert {one: 1}[other] == 1
    assert one != Slip(one.name, one.depths, one.note)
    deeper = replace(one, depths={"c": 2})
    assert deeper != one  # what was worked out of the first is not the copy's
    assert Slip("north", slope=1) != Slip("north")
