"""Where a brief is, and which of its targets are wanted."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

from rivelt.brief.model import FILE_NAME, Brief
from rivelt.disk.tree import resolved
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.project.files import DISK, Files
from rivelt.values import replace

_ART = (".svg", ".png", ".jpg", ".jpeg", ".webp")


def find_brief(start: Path, files: Files = DISK) -> Path | None:
    """Return the brief in a folder or the nearest one above it, or None; what cannot be read, such as a circle of links, is one too."""
    folder = files.real(start)
    return next((path for above in (folder, *folder.parents) if _is_there(path := above / FILE_NAME, files)), None)


def _is_there(path: Path, files: Files) -> bool:
    return files.is_there(path) and not files.is_folder(path)


def brief_file(path: Path | None, files: Files = DISK) -> Path:
    """Return the file of a brief: a file, the one in or above a folder, or (None) the one in or above the current folder.

    Raises:
        BadInput: there is none.
    """
    if path is not None and not files.is_there(path):
        raise BadInput(
            "there is no such brief", place=Place(str(path)), hint="Write one with: rivelt brief --mark FILE"
        )
    if path is not None and _is_there(path, files) and path.suffix.lower() != ".toml":
        art = f"; to measure art: rivelt measure {path}" if path.suffix.lower() in _ART else ""
        raise BadInput(f"{path} is not a brief", hint=f"Give a {FILE_NAME}, or the folder of a project{art}")
    file = path if path is not None and _is_there(path, files) else find_brief(path or Path.cwd(), files)
    if file is None:
        where = "this folder" if path is None else str(path)
        hint = "Write one with: rivelt brief --mark FILE --ground COLOUR"
        raise BadInput(f"there is no {FILE_NAME} in {where} or above it", hint=hint)
    return file


def narrowed(brief: Brief, only: Sequence[str], known: Sequence[str]) -> Brief:
    """Return the brief narrowed to some of its targets; all of them when `only` is empty.

    Raises:
        BadInput: the brief does not want one of them.
    """
    left_out = [target for target in only if brief.targets is not None and target not in brief.targets]
    if left_out:
        at, hint = brief.place("app.targets"), "Add it there, or leave `targets` out: then the survey decides."
        raise BadInput(f"the brief's targets do not hold {left_out[0]}", place=at, hint=hint)
    return replace(brief, targets=tuple(target for target in known if target in only)) if only else brief


def refuse_unknown(targets: Sequence[str], known: Sequence[str]) -> None:
    """Refuse targets that do not exist.

    Raises:
        BadInput: there is one; `Problems` for several.
    """
    problems: list[RiveltError] = []
    for target in targets:
        if target not in known:
            near = difflib.get_close_matches(target, known, n=1)
            hint = f"Did you mean {near[0]}?" if near else f"There are: {', '.join(known)}."
            problems.append(BadInput(f"there is no target {target}", hint=hint))
    raise_all(problems)


def shown_path(path: Path) -> str:
    """Return a path as messages show it: relative to the current folder where that is shorter."""
    try:
        return resolved(path).relative_to(Path.cwd()).as_posix()
    except ValueError:
        return str(path)


def placed_in(root: Path, briefs: Iterable[str]) -> Callable[[str], str]:
    """Return a function that makes the path of a place relative to a project.

    Args:
        root: the project's folder.
        briefs: the briefs that a place may be in, relative to the project. Their places hold the path that messages show; all other
            paths are relative to the project already.
    """
    shown = {shown_path(root / brief): brief for brief in briefs if brief}
    return lambda path: shown.get(path, path)
