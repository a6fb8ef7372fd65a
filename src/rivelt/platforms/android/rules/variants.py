"""Rules on the variants of an app: that all are known, and that nothing is kept for one that does not exist."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.platforms.android.native.effective import variants_of_site
from rivelt.platforms.android.native.variants import unused_sets
from rivelt.platforms.android.rules import BOOK
from rivelt.platforms.android.site import AndroidSite
from rivelt.rules.rulebook import Said, Subject, broken, unknown


@BOOK.rule("AND19")
def every_source_set_is_built(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """A source set with resources that no variant is built from is a forgotten flavour, or a misspelt folder."""
    site = subject.site
    variants = variants_of_site(subject.project, site)
    first = variants.every[0].name
    if site.source_set != "main" or (site.variants and first not in site.variants):
        return  # it is reported once for a module
    if variants.problem is not None:
        yield unknown(f"not all variants are known: {variants.problem.message}", variants.problem.place)
        return
    for folder in unused_sets(subject.project, site.module, variants):
        name = folder.rpartition("/")[2]
        hint = f"Declare a flavour or a build type {name}, or rename the folder; there are: {', '.join(variants.source_sets)}."
        yield broken(f"nothing is built from {folder}: no variant has a source set {name}", hint, Place(folder))
