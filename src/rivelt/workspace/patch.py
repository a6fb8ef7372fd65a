"""Changes as a patch that `git apply` takes, whatever the files hold.

https://git-scm.com/docs/diff-format and git's own `diff.c` and `base85.c`: text as unified diffs, everything else as whole literals,
deflated and in base 85 with 52 bytes to a line.
"""

from __future__ import annotations

import base64
import difflib
import hashlib
from collections.abc import Iterable, Iterator

from rivelt.patterns import regex
from rivelt.workspace.change import Change

_LINE = 52
_NO_FILE = "0" * 40
_MODE = "100644"
_PLAIN = regex(r"[ -!#-\[\]-~]+")  # ASCII without quotes and backslashes


def git_patch(changes: Iterable[Change]) -> bytes:
    """Return changes as a patch; the same changes give the same bytes.

    Files are named relative to the project; where that is not the top of a repository, `git apply --directory` says where it is.
    """
    return b"".join(part for change in sorted(changes, key=lambda one: one.path) for part in _of(change))


def _of(change: Change) -> Iterator[bytes]:
    if change.before == change.after:
        return
    old, new = _quoted(f"a/{change.path}"), _quoted(f"b/{change.path}")
    yield f"diff --git {old} {new}\n".encode()
    before, after = (_NO_FILE if side is None else _blob(side) for side in (change.before, change.after))
    if change.before is None:
        yield f"new file mode {_MODE}\n".encode()
    elif change.after is None:
        yield f"deleted file mode {_MODE}\n".encode()
    # Without a mode after the two names, that of the file stays, whatever it is.
    yield f"index {before}..{after}\n".encode()
    if any(side is not None and _is_binary(side) for side in (change.before, change.after)):
        yield b"GIT binary patch\n"
        yield from _literal(change.after or b"")
        yield from _literal(change.before or b"")
    elif change.before or change.after:
        names = ("/dev/null" if change.before is None else old, "/dev/null" if change.after is None else new)
        yield from _unified(change.before or b"", change.after or b"", *names)


def _blob(content: bytes) -> str:
    """The name of a content in a repository of git."""
    return hashlib.sha1(b"blob %d\0" % len(content) + content, usedforsecurity=False).hexdigest()


def _is_binary(content: bytes) -> bool:
    try:
        return b"\0" in content or content.decode("utf-8") is None
    except UnicodeDecodeError:
        return True


def _quoted(path: str) -> str:
    """A path as git writes it: other bytes than those of plain ASCII in octal, and then in quotes."""
    if _PLAIN.fullmatch(path) and not path.endswith(" "):
        return path
    return '"' + "".join(chr(byte) if _PLAIN.fullmatch(chr(byte)) else f"\\{byte:03o}" for byte in path.encode()) + '"'


def _unified(before: bytes, after: bytes, old: str, new: str) -> Iterator[bytes]:
    sides = [side.decode("utf-8") for side in (before, after)]
    # Lines end with a line feed alone: what else `splitlines` breaks at is text to git.
    one, other = ([f"{line}\n" for line in text.split("\n")] for text in sides)
    for lines, text in zip((one, other), sides, strict=True):
        last = lines.pop()
        if not text.endswith("\n") and text:
            lines.append(last[:-1])
    tail = {name: "\t" if " " in name else "" for name in (old, new)}  # without it, a name would end at its first space
    for line in difflib.unified_diff(one, other, old + tail[old], new + tail[new], lineterm="\n"):
        yield line.encode() if line.endswith("\n") else f"{line}\n\\ No newline at end of file\n".encode()


def _literal(content: bytes) -> Iterator[bytes]:
    import deflate

    packed = bytes(deflate.zlib_compress(content, 6))
    yield f"literal {len(content)}\n".encode()
    for start in range(0, len(packed), _LINE):
        part = packed[start : start + _LINE]
        size = len(part)
        head = chr(ord("A") + size - 1) if size <= 26 else chr(ord("a") + size - 27)
        padded = part + bytes(-size % 4)
        yield head.encode() + base64.b85encode(padded) + b"\n"
    yield b"\n"
