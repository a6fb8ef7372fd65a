"""From the text of `rivelt.toml` to a `Brief`, or to every problem it has, each with its place."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any, TypeVar, get_type_hints

import msgspec
from msgspec import Struct, field

from rivelt.brief.faults import description, faults, nearest
from rivelt.brief.model import (
    DERIVE,
    EDITION_NAME,
    NO_DISC,
    REQUIRED,
    ROLES,
    TABLES,
    THE_BRIEF,
    AppTable,
    Brief,
    CheckTable,
    LayoutTable,
    LookBrief,
    PlatformOptions,
    Token,
)
from rivelt.brief.places import key_places, value_place
from rivelt.brief.tokens import token_colour
from rivelt.colour import Colour
from rivelt.edit.toml import read_toml
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.project.files import DISK, Files
from rivelt.units import LOOKS, Look
from rivelt.values import replace

T = TypeVar("T", bound=msgspec.Struct)
_DISCS = ("light.disc", "dark.disc")
_LIGHT_KEYS = TABLES["light"].__struct_fields__


class _Reading(Struct):
    """One reading of a brief's file: what it may hold, where things stand, what is wrong, and how a file that it names is read."""

    path: Path
    shown_path: str
    tables: Mapping[str, type[msgspec.Struct]]
    platforms: Mapping[str, type[PlatformOptions]]
    read: Callable[[str], bytes] | None
    judge: Callable[[Brief], Iterable[RiveltError]] | None
    problems: list[RiveltError] = field(default_factory=list)

    def raise_all(self) -> None:
        """Raise each problem once, in the order of their lines: what is wrong in the brief is wrong in each of its editions too."""
        once = {(problem.message, problem.place): problem for problem in self.problems}
        raise_all(sorted(once.values(), key=lambda problem: (problem.place or Place("")).line or 0))


def read_brief(
    data: bytes,
    path: Path,
    *,
    shown_path: str,
    platform_tables: Mapping[str, type[PlatformOptions]],
    read: Callable[[str], bytes] | None = None,
    judge: Callable[[Brief], Iterable[RiveltError]] | None = None,
    art: Callable[[Brief], Iterable[RiveltError]] | None = None,
    files: Files = DISK,
) -> Brief:
    """Understand a brief and its editions.

    Args:
        data: the bytes of the file.
        path: the file's absolute path; its folder is what relative paths in it start from.
        shown_path: the path as messages show it.
        platform_tables: the targets that exist, each with what its table may hold.
        read: returns the bytes of a file that the brief names by its path; without it, design tokens are a problem.
        judge: yields what else is wrong with the values of the brief, or of an edition, such as rules that do not exist.
        art: yields what is wrong with its art; asked only where something else is wrong, so that all of it is reported at once.
        files: where its project is.

    Raises:
        BadInput: it cannot be read, or has a problem; `Problems` when it has several.
    """
    table = read_toml(data, shown_path, hint='Text needs quotes: ground = "#F3EBDD".')
    places = key_places(data.decode("utf-8-sig"), shown_path)
    return understand(
        table,
        path,
        shown_path=shown_path,
        platform_tables=platform_tables,
        places=places,
        read=read,
        judge=judge,
        art=art,
        files=files,
    )


def understand(
    table: Mapping[str, Any],
    path: Path,
    *,
    shown_path: str,
    platform_tables: Mapping[str, type[PlatformOptions]],
    places: Mapping[str, Place],
    read: Callable[[str], bytes] | None = None,
    judge: Callable[[Brief], Iterable[RiveltError]] | None = None,
    art: Callable[[Brief], Iterable[RiveltError]] | None = None,
    files: Files = DISK,
) -> Brief:
    """Understand a brief that has been read; `table`: its content, `places`: see `key_places`. The others, and the errors: see `read_brief`."""
    reading = _Reading(path, shown_path, {**TABLES, **platform_tables}, platform_tables, read, judge)
    whole, table = table, dict(table)
    given = table.pop("edition", {})
    values, brief = _understood(reading, table, places)
    overlays = _overlays(reading, given, places)
    editions = [_edition(reading, table, places, name, overlay) for name, overlay in overlays.items()]
    if reading.problems and art is not None:
        reading.problems += [problem for found in (brief, *editions) for problem in art(found)]
    reading.raise_all()
    app = _table(AppTable, "app", values)
    project = _project_folder(files, path.parent, app.project, value_place(places, "app.project"))
    made = [replace(found, name=found.app.name or project.name, project=project) for found in (brief, *editions)]
    return replace(made[0], editions=tuple(made[1:]), source=whole)


def _understood(
    reading: _Reading, table: Mapping[str, Any], places: Mapping[str, Place]
) -> tuple[Mapping[str, Any], Brief]:
    """The valid values of a table by dotted key, and the brief that they make; its project is filled in later."""
    problems = reading.problems
    values = _validated(table, reading.tables, places, reading.shown_path, problems)
    problems.extend(_missing(table, places, reading.shown_path))
    token_files = _resolve_tokens(reading, values, places)
    looks = _looks(values, places, problems)
    for key in ("mark", "imprint", "backdrop"):
        if values.get(f"dark.{key}") and not values.get(f"light.{key}"):
            hint = f"Give [light] its {key} too: a screen cannot lose it when the look changes."
            at = value_place(places, f"dark.{key}")
            problems.append(BadInput(f"`dark.{key}` stands alone", place=at, hint=hint))
    if "light.mark" not in values and (disc := next((key for key in _DISCS if key in values), None)):
        hint = "Give [light] a mark, or take the disc out."
        at = value_place(places, disc)
        problems.append(BadInput(f"`{disc}` needs a mark to stand under, and the brief has none", place=at, hint=hint))
    for role in ROLES:
        if values.get(f"light.{role}") == DERIVE:
            at = value_place(places, f"light.{role}")
            problems.append(
                BadInput(f"`light.{role}` cannot be derived", place=at, hint="Give [light] a file of its own.")
            )
    check = _table(CheckTable, "check", values)
    _refuse_unknown_budgets(check, tuple(reading.platforms), places, problems)
    made = Brief(
        path=reading.path,
        name="",
        project=reading.path.parent,
        token_files=token_files,
        targets=_targets(values.get("app.targets"), tuple(reading.platforms), places, problems),
        looks=looks,
        app=_table(AppTable, "app", values),
        layout=_table(LayoutTable, "layout", values),
        check=check,
        first_grounds=_first_grounds(values, places, problems),
        options={target: _table(kind, target, values) for target, kind in reading.platforms.items()},
        places=places,
        source=table,
    )
    for options in made.options.values():
        problems.extend(options.problems(made))
    if reading.judge is not None:
        problems.extend(reading.judge(made))
    return values, made


def _overlays(reading: _Reading, given: object, places: Mapping[str, Place]) -> dict[str, Mapping[str, Any]]:
    """The editions by name, each with the tables that it gives."""
    found: dict[str, Mapping[str, Any]] = {}
    at = places.get("edition", Place(reading.shown_path))
    if not isinstance(given, dict):
        hint = "Write [edition.NAME], with the keys that differ."
        reading.problems.append(BadInput("`edition` must hold tables", place=at, hint=hint))
        return {}
    for name, tables in given.items():
        where = places.get(f"edition.{name}", at)
        if not isinstance(tables, dict):
            hint = f"Write [edition.{name}] on a line of its own."
            reading.problems.append(BadInput(f"`edition.{name}` must be a table", place=where, hint=hint))
        elif not EDITION_NAME.fullmatch(name) or name == THE_BRIEF:
            hint = f"Use letters, digits, _ and -, beginning with a letter; not {THE_BRIEF}, which is the brief itself."
            reading.problems.append(BadInput(f"an edition cannot be called {name!r}", place=where, hint=hint))
        else:
            found[name] = tables
    return found


def _edition(
    reading: _Reading, table: Mapping[str, Any], places: Mapping[str, Place], name: str, overlay: Mapping[str, Any]
) -> Brief:
    """The brief with the tables of an edition laid over its own; places are the edition's where it says something."""
    head = f"edition.{name}"
    own = {key.removeprefix(f"{head}."): place for key, place in places.items() if key.startswith(f"{head}.")}
    merged = dict(table)
    for key, content in overlay.items():
        base = table.get(key)
        merged[key] = {**base, **content} if isinstance(base, dict) and isinstance(content, dict) else content
    for key in ("project", "exclude"):
        if isinstance(overlay.get("app"), dict) and key in overlay["app"]:
            hint = "Editions are of one project; for another one write another brief."
            at = own.get(f"app.{key}", places.get(head))
            reading.problems.append(BadInput(f"an edition cannot have an `app.{key}` of its own", place=at, hint=hint))
    at = places.get(head) or min(own.values(), default=Place(reading.shown_path))
    _, made = _understood(reading, merged, {**places, **own, "edition": at})
    given = frozenset(own)
    options = {target: table.for_edition(name, given) for target, table in made.options.items()}
    return replace(made, edition=name, given=given, options=options)


def _resolve_tokens(reading: _Reading, values: dict[str, Any], places: Mapping[str, Place]) -> tuple[str, ...]:
    """Put the colours of design tokens in the place of their names, and return the files that they are in."""
    files: dict[str, None] = {}
    for key, value in list(values.items()):
        if not isinstance(value, Token):
            continue
        del values[key]
        files[value.tokens] = None
        try:
            if reading.read is None:
                raise BadInput("design tokens cannot be read here")
            values[key] = token_colour(reading.read(value.tokens), value.tokens, value.name)
        except RiveltError as error:
            message = f"`{key}`: {error.message}"
            reading.problems.append(BadInput(message, place=value_place(places, key), hint=error.hint))
    return tuple(files)


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
            kind = "table" if isinstance(content, dict) else "key"
            problems.append(_unknown(name, kind, [*tables, "edition"], at))
            continue
        if not isinstance(content, dict):
            problems.append(
                BadInput(f"`{name}` must be a table", place=at, hint=f"Write [{name}] on a line of its own.")
            )
            continue
        hints = get_type_hints(tables[name], include_extras=True)
        for key, value in content.items():
            dotted = f"{name}.{key}"
            if key not in hints:
                known = [f"{name}.{one}" for one in hints]
                problems.append(_unknown(dotted, "key", known, places.get(dotted, at)))
                continue
            try:
                values[dotted] = msgspec.convert(value, type=hints[key], strict=True)
            except msgspec.ValidationError:
                problems.extend(faults(dotted, value, hints[key], _finder(places, at)))
    return values


def _finder(places: Mapping[str, Place], otherwise: Place) -> Callable[[str], Place]:
    return lambda name: value_place(places, name) or otherwise


def _unknown(name: str, kind: str, known: Iterable[str], at: Place) -> BadInput:
    near = nearest(name, known)
    hint = f"Did you mean `{near}`?" if near else f"Known here: {', '.join(known)}."
    return BadInput(f"unknown {kind} `{name}`", place=at, hint=hint)


def description_of(table: type[msgspec.Struct], key: str) -> str:
    """Return the words of the model for what a key of a table holds."""
    return description(get_type_hints(table, include_extras=True)[key])


def _missing(table: Mapping[str, Any], places: Mapping[str, Place], shown_path: str) -> Iterable[RiveltError]:
    light = table.get("light", {})
    if not isinstance(light, dict):
        return
    for dotted, sample in REQUIRED.items():
        key = dotted.partition(".")[2]
        if key in light or (key == "ground" and "backdrop" in light):  # it is taken from the picture's border
            continue
        if any(name not in _LIGHT_KEYS and nearest(name, _LIGHT_KEYS) == key for name in light):
            continue  # it is there, misspelt, and is reported as an unknown key
        hint = f'Add {key} = "{sample}" under [light].'
        yield BadInput(f"`{dotted}` is missing", place=places.get("light", Place(shown_path)), hint=hint)


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
            art["mark"],
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
        problems.append(BadInput(f"`{key}`: {error}", place=value_place(places, key), hint=hint))
        return None
    if not colour.is_opaque:
        message = f"`{key}` must be opaque: the systems paint it on nothing; found {values[key]!r}"
        at, hint = value_place(places, key), f'Use "{Colour(*colour[:3]).hex}".'
        problems.append(BadInput(message, place=at, hint=hint))
    return colour


def _targets(
    wanted: list[str] | None, known: tuple[str, ...], places: Mapping[str, Place], problems: list[RiveltError]
) -> tuple[str, ...] | None:
    if wanted is None:
        return None
    for number, target in enumerate(wanted):
        if target not in known:
            at = value_place(places, f"app.targets[{number}]") or Place("")
            problems.append(_unknown(target, "target", known, at))
    return tuple(dict.fromkeys(wanted))


def _refuse_unknown_budgets(
    check: CheckTable, known: tuple[str, ...], places: Mapping[str, Place], problems: list[RiveltError]
) -> None:
    for target in check.most_bytes:
        at = places.get(f"check.most_bytes.{target}") or places.get("check.most_bytes", Place(""))
        if target not in known:
            problems.append(_unknown(target, "target", known, at))


def _project_folder(files: Files, folder: Path, text: str, at: Place | None) -> Path:
    """The project's folder: inside the brief's folder, or one that holds it."""
    project, home = files.real(folder / text), files.real(folder)
    if not (project.is_relative_to(home) or home.is_relative_to(project)):
        message = f"`app.project` leads out of the brief's folder: {text}"
        raise BadInput(message, place=at, hint="Keep the brief in the project, or in a folder above it.")
    if not files.is_folder(project):
        raise BadInput(
            f"`app.project` is not a folder: {text}", place=at, hint="Give the folder of the native projects."
        )
    return project
