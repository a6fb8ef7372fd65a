"""One brand made: a pure function of its order and of what it is made from, here or on any other machine."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from functools import cached_property
from typing import Any, Literal, TypeAlias, get_args

import msgspec
from msgspec import Struct

from rivelt.brief.model import THE_BRIEF
from rivelt.documents.base import Problem
from rivelt.editions import Edition, Opened, plates_of
from rivelt.errors import BadInput, RiveltError
from rivelt.fleet.brands import Brand
from rivelt.fleet.stock import Stock
from rivelt.job import Job
from rivelt.project.snapshot import NotCarried
from rivelt.values import replace
from rivelt.workspace.compare import AsMade

Kind: TypeAlias = Literal["plates", "check", "proof", "patch", "look"]
KINDS: tuple[Kind, ...] = get_args(Kind)
"""What can be made of a brand; `look`, its small launch screens and what is measured of its mark, always is."""


class Order(Struct, frozen=True):
    """What is wanted of a brand. `is_zip`: its plates in one file. `has_project`: its project has native apps."""

    brand: Brand
    kinds: tuple[Kind, ...]
    is_zip: bool
    has_project: bool


class Part(Struct, frozen=True):
    """One kind of what was made: files by their path in the brand's folder, and values by their column in the table of results."""

    files: Mapping[str, bytes]
    values: Mapping[str, Any]


class Made(Struct, frozen=True):
    """What was made of a brand. `problems`: why something could not be. `is_short`: because a file was not sent along."""

    name: str
    parts: Mapping[Kind, Part]
    problems: tuple[Problem, ...]
    seconds: float
    is_short: bool = False


def make(order: Order, stock: Stock, art: Mapping[str, bytes] | None = None) -> Made:
    """Return what an order asks for; of a kind that cannot be made, why.

    Args:
        order: the order.
        stock: what all brands are made from.
        art: the contents of the files that the brand names, by absolute path, where they are not read from the disk.
    """
    start = time.perf_counter()
    parts: dict[Kind, Part] = {}
    problems: dict[tuple[str, str | None], Problem] = {}
    is_short = False
    bench = _Bench(order, stock, art or {})
    for kind in order.kinds:
        try:
            parts[kind] = _MAKERS[kind](bench)
        except RiveltError as error:
            is_short |= any(isinstance(part, NotCarried) for part in error.parts)
            found = map(Problem.of, error.parts)
            problems |= {(one.message, one.path): one for one in found}
    bench.put_away()
    return Made(order.brand.name, parts, tuple(problems.values()), round(time.perf_counter() - start, 3), is_short)


class _Bench:
    """One brand at work: what several kinds need is worked out once."""

    def __init__(self, order: Order, stock: Stock, art: Mapping[str, bytes]) -> None:
        self.order = order
        self._stock = stock
        self._files = stock.files(art)
        self.rendered: dict[AsMade, bytes] = {}

    @cached_property
    def job(self) -> Job:
        from rivelt.art.read import with_grounds

        brief = self.order.brand.alone
        files = self._stock.art_files(brief, self._files)
        brief = with_grounds(brief, files)
        wanted = (brief.edition or THE_BRIEF,)  # so that what other briefs and brands have made stays
        job = Job(brief.project, (Opened(brief, files),), brief.targets or (), wanted, files=self._files)
        if self.order.has_project:
            job.project = self._stock.project(job.root)
        return job

    @cached_property
    def planned(self) -> Job:
        """The job with the plates that are rendered already."""
        job = self.job
        if self.rendered:
            proposal = job.proposal
            rendered = {**self.rendered, **proposal.wanted.rendered}
            job.proposal = replace(proposal, wanted=replace(proposal.wanted, rendered=rendered))
        return job

    @cached_property
    def edition(self) -> Edition:
        return self.job.editions[0]

    def put_away(self) -> None:
        """Let those that follow have what was parsed of the project."""
        if "job" in vars(self) and self.order.has_project:
            self._stock.learn(self.job.root, self.job.project)


def _plates(bench: _Bench) -> Part:
    from rivelt.pixels.archive import zipped
    from rivelt.pixels.render import render_all

    one = bench.edition
    made = list(plates_of(one.context, one.targets))
    rendered = render_all((recipe for _, recipe in made), is_small=one.brief.app.small_files)
    bench.rendered = {(recipe, one.brief.app.small_files): data for recipe, data in rendered.items()}
    files = {path: rendered[recipe] for path, recipe in made}
    weights: dict[str, int] = {}
    for path, content in files.items():
        target = path.partition("/")[0]
        weights[target] = weights.get(target, 0) + len(content)
    values = {
        "plates": len(files),
        "bytes": sum(weights.values()),
        **{f"bytes_{target}": size for target, size in weights.items()},
    }
    if bench.order.is_zip:
        return Part({"plates.zip": zipped(files)}, values)
    return Part({f"plates/{path}": content for path, content in files.items()}, values)


def _check(bench: _Bench) -> Part:
    from rivelt.findings import SEVERITIES
    from rivelt.platforms.rulebooks import catalogue
    from rivelt.rules.books import ART
    from rivelt.rules.report import Report, counted, from_root

    job = bench.job
    if bench.order.has_project:
        report = bench.planned.check(planned=True)
    else:
        choice = job.choice(brief=bench.edition.brief)
        found = from_root(bench.edition.judged_art(choice), bench.edition.brief, job.root)
        rules = {code: rule for code, rule in catalogue().items() if code in ART.rules and choice.wants(code)}
        report = Report(tuple(found), rules, is_planned=True, root=job.root)
    values = {
        **counted(report.findings),
        "unknown": len(report.unknown),
        "worst": min((*report.findings, *report.unknown), key=lambda one: SEVERITIES.index(one.severity)).severity
        if report.findings or report.unknown
        else None,
        "codes": " ".join(dict.fromkeys(finding.code for finding in report.findings)),
    }
    data = msgspec.json.format(msgspec.json.encode(report.document), indent=2)
    return Part({"check.json": data + b"\n"}, values)


def _proof(bench: _Bench) -> Part:
    from rivelt.proof.write import draw_sheet_bytes

    proof = bench.planned.prove()
    unknown = sum(bool(scene.unknowns) for _, scene in proof.scenes)
    return Part({"proof.png": draw_sheet_bytes(proof)}, {"screens": len(proof.scenes), "screens_unknown": unknown})


def _patch(bench: _Bench) -> Part:
    from rivelt.workspace.patch import git_patch

    changes = bench.planned.passed.to_write()
    if changes.left_alone:
        site, reason = next(iter(changes.left_alone.items()))
        raise BadInput(f"{site.label} is left alone: {reason.message}", place=reason.place, hint=reason.hint)
    return Part(
        {"apply.patch": git_patch(changes.files)},
        {"changes": len(changes.files), "manual_steps": len(changes.manual_steps)},
    )


def _look(bench: _Bench) -> Part:
    from rivelt.fleet.screens import launch_screens

    files, source = launch_screens(bench.job, bench.edition, has_project=bench.order.has_project)
    return Part(files, {**dict(_measures(bench.edition)), "shown_from": source})


def _measures(one: Edition) -> Iterator[tuple[str, Any]]:
    """What is measured of the mark: how well it stands out in each look, and how much of its circle it fills."""
    from rivelt.layout.fit import allowed_diameter
    from rivelt.layout.report import mark_contrast

    context, brief = one.context, one.brief
    for look, shown in brief.looks.items():
        yield f"ground_{look}", shown.ground.hex
        contrast = mark_contrast(context, look) if context.has("mark") else None
        if contrast is not None:
            yield f"contrast_{look}", round(contrast.median, 2)
            yield f"readable_{look}", round(contrast.share, 3)
    masks = context.masks["light"]
    if context.has("mark"):
        mask = min(masks, default=None)
        scale = context.mark_scale("light", mask)
        yield "mark_dp", round(context.art["light", "mark"].extent.bounds.size.longer * scale, 1)
        if mask is not None:
            reach = context.art["light", "mark"].reach(brief.layout.centre or "circle")
            wanted = 2 * reach.radius * context.mark_scale("light")
            yield "fit", round(wanted / allowed_diameter(mask, brief.layout.clearance), 3)


_MAKERS: Mapping[Kind, Callable[[_Bench], Part]] = {
    "plates": _plates,
    "check": _check,
    "proof": _proof,
    "patch": _patch,
    "look": _look,
}
