"""Briefs read, built in memory, and begun: a file or a dict becomes a `Brief` whose problems are all known."""

from __future__ import annotations

import copy
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rivelt.brief import model
from rivelt.brief.find import narrowed, shown_path
from rivelt.brief.model import FILE_NAME
from rivelt.disk.tree import AnyPath, resolved
from rivelt.editions import Opened
from rivelt.errors import BadInput, Place, Refused, RiveltError
from rivelt.platforms import TARGETS, platform_tables
from rivelt.project.files import DISK, Files
from rivelt.project.ignore import repository_top
from rivelt.values import replace

if TYPE_CHECKING:
    from rivelt.art.files import ArtFiles
    from rivelt.brief.starter import Starter

_LARGEST_BRIEF = 1_000_000  # bytes


class Brief(model.Brief, frozen=True):
    """Everything the person decides, every default filled in, every colour and key understood; see `rivelt.brief.model.Brief`."""

    @classmethod
    def from_dict(cls, table: Mapping[str, Any], *, folder: AnyPath = ".", name: str = FILE_NAME) -> Brief:
        """Return a brief built in memory, to be given to `rivelt.open`.

        Args:
            table: what a `rivelt.toml` would hold, as dicts: {"light": {"ground": "#F3EBDD", "mark": "art/mark.svg"}}. Paths may be
                `pathlib` paths, lists may be tuples. Editions stand under "edition", by name.
            folder: the folder that its paths are relative to, which must exist.
            name: the name of the file that it stands for: several briefs of one project need different ones.

        Raises:
            BadInput: it has a problem; `Problems` when it has several.
        """
        home = resolved(Path(folder))
        files = _files_of(home, DISK)
        return _public(_understood(_plain(table), home / name, files))

    def to_dict(self) -> dict[str, Any]:
        """Return what a `rivelt.toml` would hold, as dicts, so that `from_dict` gives the same brief."""
        return copy.deepcopy(dict(self.source))


def _plain(value: Any) -> Any:
    """A value as TOML would have it."""
    if isinstance(value, Mapping):
        return {str(key): _plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    return os.fspath(value) if isinstance(value, os.PathLike) else value


def _understood(table: Mapping[str, Any], path: Path, files: ArtFiles) -> model.Brief:
    from rivelt.brief.load import understand

    return understand(
        table,
        path,
        shown_path=shown_path(path),
        platform_tables=platform_tables(),
        places={},
        read=files.data,
        judge=judged,
        art=lambda brief: _art_problems(brief, files),
        files=files.source,
    )


def _art_problems(brief: model.Brief, files: ArtFiles) -> Iterable[RiveltError]:
    """What is wrong with the art of a brief that has other problems; its project is not known to be valid yet."""
    from rivelt.art.read import art_problems

    project = files.source.real(brief.folder / brief.app.project)
    if project.is_relative_to(brief.folder) or brief.folder.is_relative_to(project):
        files.allow(project)
    return art_problems(brief, files)


def _public(brief: model.Brief) -> Brief:
    """A brief, and its editions, as what `import rivelt` offers."""
    values = {name: getattr(brief, name) for name in brief.__struct_fields__}
    return Brief(**{**values, "editions": tuple(map(_public, brief.editions))})


def _files_of(home: Path, files: Files) -> ArtFiles:
    from rivelt.art.files import ArtFiles

    return ArtFiles(home, repository_top(home) or home, files=files)


def opened(file: Path, only: Iterable[str], files: Files = DISK) -> Opened:
    """Read a brief with its editions.

    Args:
        file: the brief, resolved.
        only: the targets that are wanted; all of the brief's when empty.
        files: where it is, with its art and its project.

    Raises:
        BadInput: it has problems, or does not want such a target; `Problems` for several.
    """
    art = _files_of(file.parent, files)
    return _narrowed(_read(file, bytes_of(file, files), art), art, only)


def in_memory(brief: Brief, only: Iterable[str]) -> Opened:
    """Return a brief that was built in memory as `opened` returns that of a file.

    Raises:
        BadInput: it does not want such a target, or its backdrop cannot be used.
    """
    return _narrowed(brief, _files_of(brief.folder, DISK), only)


def _narrowed(brief: model.Brief, files: ArtFiles, only: Iterable[str]) -> Opened:
    files.allow(brief.project)
    wanted = tuple(only)
    made = [narrowed(_with_grounds(one, files), wanted, TARGETS) for one in (brief, *brief.editions)]
    return Opened(_public(replace(made[0], editions=tuple(made[1:]))), files)


def _with_grounds(brief: model.Brief, files: ArtFiles) -> model.Brief:
    if all(shown.is_ground_given for shown in brief.looks.values()):
        return brief
    from rivelt.art.read import with_grounds

    return with_grounds(brief, files)


def _read(file: Path, data: bytes, files: ArtFiles) -> model.Brief:
    from rivelt.brief.load import read_brief

    return read_brief(
        data,
        files.source.real(file),
        shown_path=shown_path(file),
        platform_tables=platform_tables(),
        read=files.data,
        judge=judged,
        art=lambda brief: _art_problems(brief, files),
        files=files.source,
    )


def judged(brief: model.Brief) -> Iterable[RiveltError]:
    """Return what is wrong with the table [check], for which all rules are loaded where it names some."""
    if not (brief.check.ignore or brief.check.severity):
        return ()
    from rivelt.platforms.rulebooks import brief_problems

    return brief_problems(brief)


def bytes_of(file: Path, files: Files = DISK) -> bytes:
    """Return the bytes of a brief.

    Raises:
        BadInput: it cannot be read.
    """
    try:
        return files.read(file, _LARGEST_BRIEF)
    except OSError as error:
        at = Place(shown_path(file))
        raise BadInput(f"the brief cannot be read: {error.strerror}", place=at) from error


def draft_brief(path: Path, starter: Starter) -> tuple[model.Brief, str]:
    """Return a starter brief and its text, once it is known to be a good one; nothing is written.

    Args:
        path: the file that it is for, which need not be there.
        starter: what it is filled with.

    Raises:
        BadInput: what it would say has problems, or the art cannot be used.
    """
    from rivelt.art.files import ArtFiles
    from rivelt.art.read import read_brief_art
    from rivelt.brief.starter import starter_text

    text = starter_text(starter, platform_tables())
    folder = resolved(path).parent
    files = ArtFiles(folder, repository_top(folder) or folder)
    brief = _read(path, text.encode(), files)
    files.allow(brief.project)
    read_brief_art(brief, files)
    return brief, text


def write_brief(path: Path, starter: Starter) -> model.Brief:
    """Write a starter brief, once it is known to be a good one, and the JSON Schema beside it, which editors read; never over another file.

    Raises:
        Refused: the file exists.
        BadInput: what it would say has problems, or the art cannot be used.
    """
    from rivelt.brief.schema import SCHEMA_FILE, is_shipped, shipped_schema
    from rivelt.workspace.output import write_file, write_files

    if os.path.lexists(path):
        raise Refused(f"{shown_path(path)} exists already", hint="Edit it, or give another file with --out.")
    schema = path.parent / SCHEMA_FILE
    is_ours = not os.path.lexists(schema) or is_shipped(bytes_of(schema))
    brief, text = draft_brief(path, replace(starter, schema=SCHEMA_FILE) if is_ours else starter)
    write_files(path, {"": text.encode()}, is_new=True)
    if is_ours:
        write_file(schema, f"{shipped_schema()}\n".encode())
    return brief
