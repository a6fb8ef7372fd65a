"""The rules of uploads."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.platforms.rules import Fault, Rulebook, Said, Subject
from rivelt.platforms.uploads.reader import scene
from rivelt.platforms.uploads.site import UploadsSite
from rivelt.project.snapshot import join

BOOK = Rulebook()


@BOOK.rule("UPL01")
def every_upload_is_there(subject: Subject) -> Iterator[Said]:
    """Each size that the brief asks for is there, as an image of that size."""
    site = subject.site
    assert isinstance(site, UploadsSite)
    for screen in site.screens:
        for look in screen.looks:
            shown = scene(subject.snapshot, site, screen, look)
            for reason in shown.unknowns:
                yield Fault(reason, "Run `rivelt apply`.", Place(join(site.out)))


CHECKS = BOOK.including()
