"""What the live page lets a person set: the keys of the brief, what they are now, and what they may be."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, Literal, TypeAlias

from msgspec import Struct

from rivelt.brief.model import DERIVE, NO_DISC, THE_BRIEF
from rivelt.colour import Colour
from rivelt.errors import BadInput
from rivelt.live.draft import Value
from rivelt.units import LOOKS, Look

if TYPE_CHECKING:
    from rivelt.brief.model import Brief

Kind: TypeAlias = Literal["colour", "disc", "size", "share", "focus", "switch", "source"]

MASK_SIZES = (24.0, 400.0)  # dp or pt
_CLEARANCES = (0.0, 0.4)


class Control(Struct, frozen=True, kw_only=True):
    """One thing that can be set.

    `value`: as the brief has it; None: left out. `shown`: what counts, in words. `why`: why it cannot be set, "" where it can.
    """

    key: str
    kind: Kind
    label: str
    value: Value = None
    shown: str = ""
    least: float = 0.0
    most: float = 1.0
    options: tuple[str, ...] = ()
    why: str = ""


def controls_of(brief: Brief) -> list[Control]:
    """Return what can be set in a brief, or in one of its editions, in the order in which it is shown."""
    found = [_ground(brief, look) for look in LOOKS]
    layout = brief.layout
    found.append(
        Control(
            key="layout.mark_size",
            kind="size",
            label="mark size",
            value=layout.mark_size,
            shown="as large as the masks allow" if layout.mark_size == "fit" else f"{layout.mark_size:g}",
            least=MASK_SIZES[0],
            most=MASK_SIZES[1],
        )
    )
    found.append(
        Control(
            key="layout.clearance",
            kind="share",
            label="clearance",
            value=layout.clearance,
            shown=f"{layout.clearance:.2f}",
            least=_CLEARANCES[0],
            most=_CLEARANCES[1],
        )
    )
    found += (_disc(brief, look) for look in LOOKS)
    has_backdrop = any(shown.backdrop for shown in brief.looks.values())
    found.append(
        Control(
            key="layout.focus",
            kind="focus",
            label="focus of the backdrop",
            value=list(layout.focus),
            shown=f"{layout.focus[0]:.2f}, {layout.focus[1]:.2f}",
            why="" if has_backdrop else "the brief has no backdrop",
        )
    )
    found.append(_imprint(brief))
    found += (_derive(brief, role) for role in ("mark", "imprint") if brief.looks["light"].art(role))
    return found


def _ground(brief: Brief, look: Look) -> Control:
    value = brief.source.get(look, {}).get("ground")
    shown = brief.looks[look].ground
    return Control(
        key=f"{look}.ground",
        kind="colour",
        label=f"{look} ground",
        value=value if isinstance(value, str) else None,
        shown=shown.hex,
        why="",
    )


def _disc(brief: Brief, look: Look) -> Control:
    disc = brief.looks[look].disc
    return Control(
        key=f"{look}.disc",
        kind="disc",
        label=f"{look} disc",
        value=disc.hex if disc is not None else NO_DISC,
        shown=disc.hex if disc is not None else NO_DISC,
        why="" if brief.looks[look].mark else "the brief has no mark",
    )


def _imprint(brief: Brief) -> Control:
    path = brief.looks["light"].imprint
    return Control(
        key="light.imprint",
        kind="switch",
        label="imprint",
        value=path is not None,
        shown=path or "none",
        why="the edition has the brief's own imprint" if brief.edition and "light.imprint" not in brief.given else "",
    )


def _derive(brief: Brief, role: str) -> Control:
    own = brief.source.get("dark", {}).get(role)
    value = "same" if own is None else DERIVE if own == DERIVE else "own"
    is_of_brief = bool(brief.edition) and own is not None and f"dark.{role}" not in brief.given
    options = (*(() if is_of_brief else ("same",)), DERIVE, *(("own",) if value == "own" else ()))
    return Control(
        key=f"dark.{role}", kind="source", label=f"dark {role}", value=value, shown=own or "", options=options
    )


def changed(key: str, value: Any, brief: Brief, written: Brief) -> dict[str, Value]:
    """Return what setting a control changes in the brief, by dotted keys.

    Args:
        key: the control's.
        value: what the page sent, which may be anything.
        brief: the brief, or the edition, as it is shown.
        written: the same as it is on disk: what the switches go back to.

    Raises:
        BadInput: it is not a value of that control.
    """
    control = next((one for one in controls_of(brief) if one.key == key), None)
    if control is None:
        raise BadInput(f"there is no control {key!r}", hint="Reload the page.")
    if control.why:
        raise BadInput(control.why, hint="Change it in the file.")
    match control.kind:
        case "colour":
            return {key: _colour(value)}
        case "disc":
            light = brief.looks["light"].disc
            if value == NO_DISC:
                is_left_out = not brief.edition and (key == "light.disc" or light is None)
                return {key: None if is_left_out else NO_DISC}
            return {key: _colour(value)}
        case "size":
            return {key: "fit" if value == "fit" else _number(value, *MASK_SIZES)}
        case "share":
            return {key: _number(value, *_CLEARANCES)}
        case "focus":
            if not isinstance(value, list) or len(value) != 2:
                raise BadInput("a focus is two numbers from 0 to 1", hint="Give both.")
            return {key: [round(_number(one, 0, 1), 3) for one in value]}
        case "switch":
            return _switched(value, written)
        case "source":
            return _sourced(key, value, written, control)


def _colour(value: Any) -> str:
    if not isinstance(value, str) or len(value) > 200:
        raise BadInput("a colour is text", hint="Give any CSS colour.")
    try:
        found = Colour.parse(value)
    except ValueError as error:
        raise BadInput(str(error), hint="Give any CSS colour, such as #F3EBDD.") from error
    if not found.is_opaque:
        raise BadInput(
            f"{value} is not opaque: the systems paint it on nothing", hint=f"Give {Colour(*found[:3]).hex}."
        )
    return value.strip()


def _number(value: Any, least: float, most: float) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not least <= value <= most:
        raise BadInput(f"{value!r} is not a number from {least:g} to {most:g}", hint="Give another.")
    return round(float(value), 3)


def _switched(value: Any, written: Brief) -> dict[str, Value]:
    """The imprint taken out, or put back as the file has it."""
    if not isinstance(value, bool):
        raise BadInput("an imprint is on or off", hint="Give true or false.")
    if not value:
        return {"light.imprint": None, "dark.imprint": None}
    paths = {look: written.source.get(look, {}).get("imprint") for look in LOOKS}
    if paths["light"] is None:
        raise BadInput("the brief names no imprint", hint='Add one by hand: imprint = "art/imprint.svg" under [light].')
    return {f"{look}.imprint": path for look, path in paths.items()}


def _sourced(key: str, value: Any, written: Brief, control: Control) -> dict[str, Value]:
    own: Mapping[str, Any] = written.source.get("dark", {})
    path = own.get(key.partition(".")[2])
    if value == "own" and path not in {None, DERIVE}:
        return {key: path}
    if value not in {"same", DERIVE} or value not in control.options:
        raise BadInput(f"{value!r} is not one of: {', '.join(control.options)}", hint="Choose one of these.")
    return {key: None if value == "same" else DERIVE}


def in_edition(changes: Mapping[str, Value], edition: str) -> dict[str, Value]:
    """Return changes as they are written in an edition of the brief."""
    prefix = "" if edition in {"", THE_BRIEF} else f"edition.{edition}."
    return {f"{prefix}{key}": value for key, value in changes.items()}
