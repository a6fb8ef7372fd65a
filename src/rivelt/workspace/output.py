"""Pictures, plates, pages, briefs and the demo onto disk: what a person asked for by name, outside of any plan.

The last folder and the file that are named are never followed if they are links; folders above them are, where they stay below the folder
that the person gave or stands in.
"""

from __future__ import annotations

import itertools
import os
import shlex
import stat
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path

from rivelt.disk.folder import is_link
from rivelt.disk.tree import LeadsOut, NotAFolder, Spot, Tree, in_tool_folder
from rivelt.errors import BadInput, Place, Refused
from rivelt.plan.model import Recipe
from rivelt.progress import Progress, no_progress


def write_png(out: Path, data: bytes) -> Path:
    """Write a PNG file.

    Raises:
        BadInput: `out` is not the name of a PNG file, or cannot be written.
    """
    if out.suffix.lower() != ".png":
        raise BadInput(f"the picture is a PNG file; {out.name} is not one's name", hint=f"Name it {out.stem}.png")
    return write_file(out, data)


def write_file(out: Path, data: bytes) -> Path:
    """Write a file, in one step over an earlier one. Its folder must be there.

    Raises:
        BadInput: it cannot be written, or is a link.
    """
    write_files(out, {"": data})
    return out


def write_files(out: Path, files: Mapping[str, bytes], *, is_new: bool = False) -> None:
    """Write files below a folder, each by its POSIX path in it; "" is `out` itself.

    Args:
        out: a folder, or a file.
        files: the contents by path.
        is_new: never write over a file that is there.

    Raises:
        BadInput: one cannot be written, is a link, or the folder that `out` is to be in does not exist.
        Refused: it is there, and `is_new` is given.
    """
    if not os.path.lexists(out.parent):
        raise BadInput(
            f"there is no folder {out.parent}", hint=f"Make it first: mkdir -p {shlex.quote(str(out.parent))}"
        )
    try:
        with _anchored(out) as (tree, base):
            for path, content in files.items():
                _write(tree, f"{base}/{path}" if path else base, content, is_new=is_new)
    except LeadsOut as error:
        hint = "Give the place itself, not a link to it."
        raise BadInput("a link leads elsewhere", place=Place(str(out)), hint=hint) from error
    except FileExistsError as error:
        raise Refused(f"{out} exists already", hint="Give another file with --out.") from error
    except NotAFolder as error:
        at = Place(str(error.filename))
        raise BadInput(str(error.strerror), place=at, hint="Give another place with --out.") from error
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or error
        raise BadInput(
            f"cannot be written: {reason}", place=Place(str(out)), hint="Give another file with --out."
        ) from error


def remove_files(out: Path, paths: Iterable[str]) -> None:
    """Remove files below a folder that a person named, as far as they are there; links are not followed, folders stay."""
    with _anchored(out) as (tree, base):
        for path in paths:
            with suppress(OSError, ValueError), tree.at(f"{base}/{path}") as spot:
                if spot.status is not None and stat.S_ISREG(spot.status.st_mode):
                    spot.folder.remove_file(spot.name)


@contextmanager
def _anchored(out: Path) -> Iterator[tuple[Tree, str]]:
    """Open the folder that a person stands in or named, and give the path of `out` below it."""
    out = Path(os.path.normpath(out))
    parts = list(out.parts)
    if out.is_absolute():
        anchor = next(above for above in out.parents if above.is_dir())
        parts = list(out.relative_to(anchor).parts)
    else:
        anchor = Path()
        while parts and parts[0] == "..":
            anchor /= parts.pop(0)
    if not parts:
        raise NotAFolder(str(out))
    with Tree.opened(anchor) as tree:
        yield tree, "/".join(parts)


def _write(tree: Tree, path: str, content: bytes, *, is_new: bool) -> None:
    if in_tool_folder(path):
        raise OSError(0, "the folders of tools, such as .git, are not written to")
    with tree.walked(path) as found:
        if found.is_link:
            raise OSError(0, "it is a link")
    with tree.at(path, make=True) as spot:
        status = spot.status
        if status is not None and (is_link(status) or not stat.S_ISREG(status.st_mode)):
            raise OSError(0, "something else is in its place")
        staged = f".rivelt-{os.urandom(8).hex()}"
        try:
            spot.folder.create(staged, content, like=status)
            _place(spot, staged, is_new=is_new)
        except BaseException:
            with suppress(OSError):
                spot.folder.remove_file(staged)
            raise


def _place(spot: Spot, staged: str, *, is_new: bool) -> None:
    if is_new:
        spot.folder.give(staged, spot.folder, spot.name)
    else:
        spot.folder.move(staged, spot.folder, spot.name)


def write_plates(
    plates: Iterable[tuple[str, Recipe]],
    out: Path | Callable[[bytes], object],
    *,
    is_small: bool,
    on_progress: Progress = no_progress,
) -> dict[str, int]:
    """Render plates, each by its path, and write them to `out`: a folder, a ZIP file (named .zip), or what takes the bytes of one.

    Returns:
        The bytes of each image, by its path in `out`.

    Raises:
        BadInput: the art turns out to be broken, or `out` cannot be written.
    """
    from rivelt.pixels.archive import zipped
    from rivelt.pixels.render import render_all

    made = list(plates)
    done, different = itertools.count(1), len({recipe for _, recipe in made})
    recipes = (recipe for _, recipe in made)
    rendered = render_all(recipes, is_small=is_small, on_done=lambda: on_progress(next(done), different))
    files = {path: rendered[recipe] for path, recipe in made}
    if callable(out):
        out(zipped(files))
    elif out.suffix.lower() == ".zip":
        write_file(out, zipped(files))
    else:
        write_files(out, files)
    return {path: len(content) for path, content in files.items()}
