"""The rules of uploads."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.platforms.uploads.rules import BOOK
from rivelt.platforms.uploads.site import UploadsSite
from rivelt.rules.rulebook import Said, Subject, broken


@BOOK.rule("UPL01")
def every_upload_is_there(subject: Subject[UploadsSite]) -> Iterator[Said]:
    """Each size that the brief asks for is there, as an image of that size."""
    for shown in subject.every_scene:
        for reason in shown.unknowns:
            place = Place(subject.site.out)
            yield broken(reason, "Run `rivelt apply`.", place, screen=shown.screen.name, look=shown.look)
