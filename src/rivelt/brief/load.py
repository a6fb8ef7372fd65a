"""From the text of `rivelt.toml` to a `Brief`, or to every problem it has, each with its place."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Annotated, Any, TypeVar, get_args, get_origin, get_type_hints

import msgspec

from rivelt.brief.model import (
    DERIVE,
    NO_DISC,
    REQUIRED,
    ROLES,
    TABLES,
    AppTable,
    Brief,
    CheckTable,
    LayoutTable,
    LookBrief,
    PlatformOptions,
)
from rivelt.brief.places import key_places
from rivelt.colour import Colour
from rivelt.disk.tree import resolved
from rivelt.edit.toml import read_toml
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.units import LOOKS, Look

T = TypeVar("T", bound=msgspec.Struct)
_CLOSE = 0.5
"""How alike two names must be (`difflib`, 0 to 1) for one to be taken for the other."""
_LIGHT_KEYS = TABLES["light"].__struct_fields__


def read_brief(
    data: bytes, path: Path, *, shown_path: str, platform_tables: Mapping[str, type[PlatformOptions]]
) -> Brief:
    """Understand a brief.

    Args:
        data: the bytes of the file.
        path: the file's absolute path; its folder is what relative paths in it start from.
        shown_path: the path as messages show it.
        platform_tables: the targets that exist, each with what its table may hold.

    Raises:
        BadInput: it cannot be read, or has a problem; `Problems` when it has several.
    """
    table = read_toml(data, shown_path, hint='Text needs quotes: ground = "#F3EBDD".')
    places = key_places(data.decode("utf-8-sig"), shown_path)
    problems: list[RiveltError] = []
    values = _validated(table, {**TABLES, **platform_tables}, places, shown_path, problems)
    problems.extend(_missing(table, places, shown_path))
    looks = _looks(values, places, problems)
    for key in ("imprint", "backdrop"):
        if values.get(f"dark.{key}") and not values.get(f"light.{key}"):
            hint = f"Give [light] its {key} too: a screen cannot lose it when the look changes."
            problems.append(BadInput(f"`dark.{key}` stands alone", place=places.get(f"dark.{key}"), hint=hint))
    for role in ROLES:
        if values.get(f"light.{role}") == DERIVE:
            at = places.get(f"light.{role}")
            problems.append(
                BadInput(f"`light.{role}` cannot be derived", place=at, hint="Give [light] a file of its own.")
            )
    first_grounds = _first_grounds(values, places, problems)
    targets = _targets(values.get("app.targets"), tuple(platform_tables), places, problems)
    raise_all(sorted(problems, key=lambda problem: (problem.place or Place("")).line or 0))
    app = _table(AppTable, "app", values)
    project = _project_folder(path.parent, app.project, places.get("app.project"))
    return Brief(
        path=path,
        name=app.name or project.name,
        project=project,
        targets=targets,
        looks=looks,
        app=app,
        layout=_table(LayoutTable, "layout", values),
        check=_table(CheckTable, "check", values),
        first_grounds=first_grounds,
        options={target: _table(kind, target, values) for target, kind in platform_tables.items()},
        places=places,
    )


def _table(kind: type[T], name: str, values: Mapping[str, Any]) -> T:
    """A table of the file with its defaults filled in."""
    given = {key: values[dotted] for key in kind.__struct_fields__ if (dotted := f"{name}.{key}") in values}
    return kind(**given)


def _validated(
    table: Mapping[str, Any],
    tables: Mapping[str, type[msgspec.Struct]],
    places: Mapping[str, Place],
    shown_path: str,
    problems: list[RiveltError],
) -> dict[str, Any]:
    """Every known key that has a valid value, by its dotted name; what is wrong goes to `problems`."""
    values: dict[str, Any] = {}
    for name, content in table.items():
        at = places.get(name, Place(shown_path))
        if name not in tables:
            problems.append(_unknown(name, "table" if isinstance(content, dict) else "key", tables, at))
            continue
        if not isinstance(content, dict):
            problems.append(
                BadInput(f"`{name}` must be a table", place=at, hint=f"Write [{name}] on a line of its own.")
            )
            continue
        hints = get_type_hints(tables[name], include_extras=True)
        for key, value in content.items():
            dotted = f"{name}.{key}"
            where = places.get(dotted, at)
            if key not in hints:
                problems.append(_unknown(dotted, "key", [f"{name}.{known}" for known in hints], where))
                continue
            try:
                values[dotted] = msgspec.convert(value, type=hints[key], strict=True)
            except msgspec.ValidationError:
                message = f"`{dotted}` must be {_description(hints[key])}; found {_shown(value)}"
                problems.append(BadInput(message, place=where))
    return values


def _unknown(name: str, kind: str, known: Iterable[str], at: Place) -> BadInput:
    near = _nearest(name, known)
    hint = f"Did you mean `{near}`?" if near else f"Known here: {', '.join(known)}."
    return BadInput(f"unknown {kind} `{name}`", place=at, hint=hint)


def description_of(table: type[msgspec.Struct], key: str) -> str:
    """Return the words of the model for what a key of a table holds."""
    return _description(get_type_hints(table, include_extras=True)[key])


def _description(annotation: Any) -> str:
    if get_origin(annotation) is Annotated:
        return next(str(meta.description) for meta in get_args(annotation)[1:] if getattr(meta, "description", None))
    return next(text for part in get_args(annotation) if (text := _description(part)))


def _shown(value: object) -> str:
    text = {True: "true", False: "false"}.get(value) if isinstance(value, bool) else repr(value)
    return text if text and len(text) < 60 else f"{str(text)[:57]}..."


def _missing(table: Mapping[str, Any], places: Mapping[str, Place], shown_path: str) -> Iterable[RiveltError]:
    light = table.get("light", {})
    if not isinstance(light, dict):
        return
    for dotted, sample in REQUIRED.items():
        key = dotted.partition(".")[2]
        if key in light or (key == "ground" and "backdrop" in light):  # it is taken from the picture's border
            continue
        if any(name not in _LIGHT_KEYS and _nearest(name, _LIGHT_KEYS) == key for name in light):
            continue  # it is there, misspelt, and is reported as an unknown key
        hint = f'Add {key} = "{sample}" under [light].'
        yield BadInput(f"`{dotted}` is missing", place=places.get("light", Place(shown_path)), hint=hint)


def _nearest(name: str, known: Iterable[str]) -> str | None:
    return next(iter(difflib.get_close_matches(name, list(known), n=1, cutoff=_CLOSE)), None)


def _looks(
    values: Mapping[str, Any], places: Mapping[str, Place], problems: list[RiveltError]
) -> dict[Look, LookBrief]:
    looks: dict[Look, LookBrief] = {}
    for look in LOOKS:
        ground = _ground(f"{look}.ground", values, places, problems)
        art = {role: values.get(f"{look}.{role}", values.get(f"light.{role}")) for role in ROLES}
        fallback = looks["light"].ground if look == "dark" else Colour(255, 255, 255)
        backdrop = values.get(f"{look}.backdrop", values.get("light.backdrop"))
        is_own_backdrop = backdrop is not None and (look == "light" or "dark.backdrop" in values)
        is_given = ground is not None or (look == "dark" and not is_own_backdrop and looks["light"].is_ground_given)
        looks[look] = LookBrief(
            ground or fallback,
            art["mark"] or "",
            art["imprint"],
            backdrop,
            _disc(look, values, places, problems),
            is_ground_given=is_given or backdrop is None,
            ground_name=_colour_name(values.get(f"{look}.ground", values.get("light.ground"))),
        )
    return looks


def _colour_name(text: str | None) -> str | None:
    return text.strip().lower() if text is not None and text.strip().isalpha() else None


def _first_grounds(
    values: Mapping[str, Any], places: Mapping[str, Place], problems: list[RiveltError]
) -> dict[Look, Colour]:
    light = _ground("handoff.first_ground", values, places, problems)
    dark = _ground("handoff.dark_first_ground", values, places, problems)
    found: dict[Look, Colour | None] = {"light": light, "dark": dark or light}
    return {look: colour for look, colour in found.items() if colour is not None}


def _disc(
    look: Look, values: Mapping[str, Any], places: Mapping[str, Place], problems: list[RiveltError]
) -> Colour | None:
    key = f"{look}.disc" if f"{look}.disc" in values else "light.disc"
    return None if values.get(key) == NO_DISC else _ground(key, values, places, problems)


def _ground(
    key: str, values: Mapping[str, Any], places: Mapping[str, Place], problems: list[RiveltError]
) -> Colour | None:
    if key not in values:
        return None
    try:
        colour = Colour.parse(values[key])
    except ValueError as error:
        hint = 'Use a CSS colour: "#F3EBDD", "navy", "rgb(19 33 43)", "oklch(0.24 0.03 240)".'
        problems.append(BadInput(f"`{key}`: {error}", place=places.get(key), hint=hint))
        return None
    if not colour.is_opaque:
        message = f"`{key}` must be opaque: the systems paint it on nothing; found {values[key]!r}"
        problems.append(BadInput(message, place=places.get(key), hint=f'Use "{Colour(*colour[:3]).hex}".'))
    return colour


def _targets(
    wanted: list[str] | None, known: tuple[str, ...], places: Mapping[str, Place], problems: list[RiveltError]
) -> tuple[str, ...] | None:
    if wanted is None:
        return None
    at = places.get("app.targets", Place(""))
    problems.extend(_unknown(target, "target", known, at) for target in wanted if target not in known)
    return tuple(dict.fromkeys(wanted))


def _project_folder(folder: Path, text: str, at: Place | None) -> Path:
    """The project's folder: inside the brief's folder, or one that holds it."""
    project = resolved(folder / text)
    home = resolved(folder)
    if not (project.is_relative_to(home) or home.is_relative_to(project)):
        message = f"`app.project` leads out of the brief's folder: {text}"
        raise BadInput(message, place=at, hint="Keep the brief in the project, or in a folder above it.")
    if not project.is_dir():
        raise BadInput(
            f"`app.project` is not a folder: {text}", place=at, hint="Give the folder of the native projects."
        )
    return project
