"""From what a page links to the files of the project."""

from __future__ import annotations

import os.path
import re
from urllib.parse import unquote

from rivelt.patterns import regex
from rivelt.platforms.web.native.served import file_at, served
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent

STARTUP = "apple-touch-startup-image"
"""The link type of startup images."""

_PLACEHOLDER = regex(r"^(?:%[^%/]+%|\{\{.*?\}\}|\{%.*?%\}|<%.*?%>|<\?.*?\?>|\$\{.*?\}|\$[A-Z_]+|@[A-Za-z_.]+)")
_ORIGIN = regex(r"^(?:[a-z][a-z0-9+.-]*:|//)", re.IGNORECASE)
_BUILT = regex(
    r"(?:^|/)(?:dist|out|\.next|\.nuxt|\.output|\.svelte-kit|coverage|storybook-static|bower_components)/"
    r"|(?:^|/)src/main/assets/|(?:^|/)ios/(?:.*/)?(?:public|www)/"
)


def is_built(path: str) -> bool:
    """Whether a file was put there by a build, or copied into a native project."""
    return _BUILT.search(path) is not None


def resolve(project: Project, page: str, href: str) -> str | None:
    """Return the file that a link of a page means; None when there is none in the project.

    A link from the root of the server, or one that begins with a template's placeholder, means the nearest file with that path, in the
    page's folder, one above it, or a folder of static files beside it.
    """
    text = re.split(r"[?#]", href.strip(), maxsplit=1)[0]
    if not text or _ORIGIN.match(text):
        return None
    rest = _PLACEHOLDER.sub("", text)
    home = parent(page)
    path = join(home, *unquote(rest).split("/"))
    if rest == text and not rest.startswith("/") and path in project:
        return path
    tail = unquote(rest).lstrip("./")
    if (there := file_at(project, served(project, page), tail)) is not None:
        return there
    found = [
        known
        for known in project.find(f"*{glob_safe(tail)}")
        if (known == tail or known.endswith(f"/{tail}")) and not is_built(known)
    ]
    return min(found, key=lambda known: (_distance(home, parent(known)), known), default=None)


def glob_safe(text: str) -> str:
    """Return text for a shell pattern that means just itself."""
    return re.sub(r"([*?[])", r"[\1]", text)


def _distance(here: str, there: str) -> int:
    way = os.path.relpath(f"/{there}", f"/{here}")
    return 0 if way == "." else len(way.split("/"))


def base_of(href: str) -> str:
    """Return what a link begins with, up to and with its last slash."""
    text = re.split(r"[?#]", href.strip(), maxsplit=1)[0]
    head, slash, _ = text.rpartition("/")
    if slash:
        return head + slash
    found = _PLACEHOLDER.match(text)
    return found[0] if found else ""
