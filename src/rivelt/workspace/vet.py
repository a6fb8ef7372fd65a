"""What must be true of every change before the first one is made."""

from __future__ import annotations

import os
import stat
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from rivelt.disk.folder import Status, identity
from rivelt.disk.tree import LeadsOut, NotAFolder, Tree, Walked, folded, in_tool_folder
from rivelt.errors import BadInput, Place, Refused, RiveltError
from rivelt.values import replace
from rivelt.workspace.change import Change

_WRITABLE = 0o222
_ANOTHER_PLACE = "Give another place, or rename what is there."


class Vetted(Struct, frozen=True):
    """Changes that can be made: their paths without links. `made_folders` do not exist yet, the outermost first."""

    changes: tuple[Change, ...]
    made_folders: tuple[str, ...]


def vetted(tree: Tree, changes: Sequence[Change]) -> Vetted:
    """Return changes with the paths that they really have.

    Raises:
        BadInput: a path leads out of the project or into a folder of a tool, or something else is in its place.
        Refused: a file is not what the plan saw, or two changes are of one file.
    """
    made: dict[str, None] = {}
    real: dict[str, Change] = {}
    names: dict[str, str] = {}
    for change in changes:
        try:
            with tree.walked(change.path) as found:
                _vet(tree, change, found)
                if change.after is not None:
                    made |= dict.fromkeys(found.missing_folders)
                path = found.path
        except (OSError, ValueError) as error:
            raise _blamed(error, change.path) from error
        if path in real and real[path].after != change.after:
            message = f"{change.path} is the same file as {path}, and would have another content"
            raise Refused(message, place=Place(change.path), hint="Links make them one file; give each its own.")
        other = names.setdefault(folded(path), path)
        if other != path:
            raise _differs_in_case(change.path, other)
        real[path] = change if path == change.path else replace(change, path=path)
    return Vetted(tuple(real.values()), tuple(made))


def _blamed(error: OSError | ValueError, path: str) -> RiveltError:
    if isinstance(error, LeadsOut):
        hint = "A link leads out of it. Replace it by a folder of its own."
        return BadInput("Rivelt writes only to files inside the project", place=Place(path), hint=hint)
    if isinstance(error, NotAFolder):
        return BadInput(str(error.strerror), place=Place(str(error.filename)), hint=_ANOTHER_PLACE)
    reason = error.strerror if isinstance(error, OSError) else "its name is not one that files can have"
    return BadInput(f"cannot be written: {reason}", place=Place(path), hint="Nothing was changed.")


def _vet(tree: Tree, change: Change, found: Walked) -> None:
    at = Place(change.path)
    if in_tool_folder(change.path) or in_tool_folder(found.path):
        raise BadInput(
            "Rivelt does not write to the folders of tools, such as .git", place=at, hint="Give another place."
        )
    status = found.folder.status(found.rest[0])
    if status is None:
        if found.is_link:
            raise BadInput("a broken link is in the way", place=at, hint="Remove the link.")
        _refuse_case(change.path, found)
    elif stat.S_ISDIR(status.st_mode):
        raise BadInput("Rivelt writes only to files; a folder is here", place=at, hint=_ANOTHER_PLACE)
    if identity(found.folder.own_status())[0] != identity(tree.folder.own_status())[0]:
        message = "is on another disk than the project's folder, so that it cannot be changed in one step"
        raise BadInput(message, place=at, hint="Run Rivelt in the folder that is mounted there.")
    if _content(found, status) != change.before:
        raise Refused(f"{change.path} was changed while the plan was made", hint="Run the command again.")
    if status is not None:
        _refuse_read_only(tree.root / found.path, status, change.path)


def _content(found: Walked, status: Status | None) -> bytes | None:
    if status is None or len(found.rest) > 1:
        return None
    return found.folder.read(found.rest[0], most=max(status.st_size, 1))


def _refuse_case(path: str, found: Walked) -> None:
    """Refuse a new name that differs from one that is there in case alone: on other machines they are one file."""
    wanted = folded(found.rest[0])
    for name in found.folder.names():
        if name != found.rest[0] and folded(name) == wanted:
            raise _differs_in_case(path, "/".join((*found.above, name)))


def _differs_in_case(path: str, other: str) -> Refused:
    message = f"{path} and {other} differ in case alone: on Windows and macOS they are one file"
    return Refused(message, place=Place(path), hint="Rename what is there, or choose another name in the brief.")


def refuse_read_only(root: Path, path: str) -> None:
    """Refuse a file that its owner has protected against writing, even from a user who may write anything.

    Raises:
        BadInput: it is read-only.
    """
    try:
        with Tree.opened(root) as tree:
            status, real = tree.status(path), tree.real(path)
    except (OSError, ValueError) as error:
        raise _blamed(error, path) from error
    if status is not None:
        _refuse_read_only(root / real, status, path)


def _refuse_read_only(target: Path, status: Status, path: str) -> None:
    if not (status.st_mode & _WRITABLE and os.access(target, os.W_OK)):
        raise BadInput("the file is read-only", place=Place(path), hint="Make it writable; nothing was changed.")
