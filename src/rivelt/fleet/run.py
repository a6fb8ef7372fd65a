"""A run: the brands of a table made, as far as they are not there already, and what came of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any, Literal, Protocol, TypeAlias

from msgspec import Struct, field

from rivelt.brief.find import brief_file
from rivelt.disk.tree import resolved
from rivelt.documents.base import Problem
from rivelt.documents.fleet import BrandItem, FleetDocument, FleetSummary
from rivelt.errors import BadInput, RiveltError, raise_all
from rivelt.fleet.brands import BaseBrief, Brand, Brands, brands_of
from rivelt.fleet.make import KINDS, Kind, Order
from rivelt.fleet.pool import Here, Pool, usual_processes
from rivelt.fleet.stock import Stock, carried
from rivelt.fleet.store import Record, Shelf
from rivelt.fleet.table import Table, read_table
from rivelt.platforms import signs
from rivelt.progress import Progress, no_progress
from rivelt.project.files import DISK
from rivelt.project.ignore import repository_top
from rivelt.project.project import Project
from rivelt.rules.art import READABLE_SHARE
from rivelt.values import replace

Wish: TypeAlias = Literal["plates", "check", "proof", "patch", "apply"]
WISHES: tuple[Wish, ...] = ("plates", "check", "proof", "patch", "apply")
"""What a person can ask for."""

_OF_PROJECT: frozenset[Wish] = frozenset({"check", "proof", "patch"})
_NEEDS_PROJECT: frozenset[Wish] = frozenset({"proof", "patch", "apply"})
RESULTS = "fleet"
"""What the files of results are called, before their endings."""

Status: TypeAlias = Literal["made", "kept", "failed", "bad"]


class Wanted(Struct, frozen=True):
    """What is asked for.

    `table`: the file. `brief`: what rows are laid over; the nearest where it is None. `out`: the folder of results. `wishes`: what is
    made of each brand. `only`: the targets. `is_zip`: plates in one file a brand. `processes`: how many work at once; one for each core
    where it is None. `scheduler`: the address of a cluster, or None. `is_strict`: a bad row refuses the whole run.
    """

    table: Path
    out: Path
    wishes: tuple[Wish, ...]
    brief: Path | None = None
    only: tuple[str, ...] = ()
    is_zip: bool = False
    processes: int | None = None
    scheduler: str | None = None
    is_strict: bool = False


class Runner(Protocol):
    """Where brands are made."""

    def run(self, orders: Iterable[Order]) -> Iterator[Record]:
        """Yield the record of each brand when it is made."""


class Outcome(Struct):
    """What came of a run.

    `table`, `brands`: what was asked for. `records`: of each good brand, as far as it was made. `kept`: those that were there already.
    `failures`: why a brand could not be applied. `applied`: how many files of the project were changed. `out`: the folder of results. `notes`: what was left out.
    """

    table: Table
    brands: Brands
    out: Path
    wishes: tuple[Wish, ...]
    records: dict[str, Record] = field(default_factory=dict)
    kept: set[str] = field(default_factory=set)
    failures: dict[str, tuple[Problem, ...]] = field(default_factory=dict)
    values: dict[str, dict[str, Any]] = field(default_factory=dict)
    applied: int = 0
    notes: tuple[str, ...] = ()

    def problems_of(self, brand: Brand) -> tuple[Problem, ...]:
        """Return why something of a brand could not be made."""
        record = self.records.get(brand.name)
        return (*(record.problems if record is not None else ()), *self.failures.get(brand.name, ()))

    def values_of(self, brand: Brand) -> dict[str, Any]:
        """Return the values of a brand in the table of results, by column."""
        record = self.records.get(brand.name)
        found = {} if record is None else {**record.values, "seconds": record.seconds}
        return {**found, **self.values.get(brand.name, {})}

    @property
    def items(self) -> list[BrandItem]:
        """Every row of the table, in its order."""
        made = {
            brand.row: BrandItem(
                brand=brand.name,
                row=brand.row,
                status=self._status(brand),
                values=self.values_of(brand),
                problems=list(self.problems_of(brand)),
            )
            for brand in self.brands.good
        }
        for number, name in self.brands.bad.items():
            its = [one for one in self.brands.problems if one.place is not None and one.place.line == number]
            problems = [Problem.of(one) for one in its]
            made[number] = BrandItem(
                brand=name or f"row {number}", row=number, status="bad", values={}, problems=problems
            )
        return [made[number] for number in sorted(made)]

    def _status(self, brand: Brand) -> Status:
        if brand.name not in self.records or self.problems_of(brand):
            return "failed"
        return "kept" if brand.name in self.kept else "made"

    def document(self, written: Sequence[str] = ()) -> FleetDocument:
        """Return it as `rivelt fleet --json` prints it; `written`: the files of results, relative to the folder."""
        items = self.items
        count = Counter(item.status for item in items)
        return FleetDocument(
            root=str(self.out),
            summary=FleetSummary(
                brands=len(items),
                made=count["made"],
                kept=count["kept"],
                failed=count["failed"],
                bad=count["bad"],
                with_findings=sum(has_findings(item.values) for item in items),
                unreadable_dark=sum(is_unreadable(item.values, "dark") for item in items),
                bytes=sum(int(item.values.get("bytes", 0)) for item in items),
            ),
            brands=items,
            problems=[Problem.of(one) for one in self.brands.problems],
            notes=list(self.notes),
            written=list(written),
            applied=self.applied,
        )


def has_findings(values: Mapping[str, Any]) -> bool:
    """Return whether a rule is broken or unknown for a brand."""
    return any(values.get(name) for name in ("errors", "warnings", "notes", "unknown"))


def is_unreadable(values: Mapping[str, Any], look: str) -> bool:
    """Return whether too little of a mark's outline stands out from its ground in a look."""
    share = values.get(f"readable_{look}")
    return isinstance(share, int | float) and share < READABLE_SHARE


def run(wanted: Wanted, on_progress: Progress = no_progress) -> Outcome:
    """Make the brands of a table; what is there already as it would be made stays.

    Args:
        wanted: what is asked for.
        on_progress: called as brands are made.

    Raises:
        BadInput: the table or the brief cannot be read, no row is good, or a bad one refuses all; `Problems` for several.
    """
    file = resolved(brief_file(wanted.brief))
    out = resolved(wanted.out)
    _refuse_overwriting(wanted, out)
    table = read_table(wanted.table)
    base = BaseBrief(file, wanted.only)
    brands = brands_of(table, base, for_one_project="apply" in wanted.wishes)
    if brands.problems and (wanted.is_strict or not brands.good):
        raise_all(list(brands.problems))
    homes = (file.parent, repository_top(file.parent) or file.parent)
    stock = Stock(homes, out)
    roots = _projects(wanted, brands, stock)
    left_out = {resolved(base.file.parent / name) for brand in brands.good for name in brand.inputs}
    left_out |= {file, resolved(wanted.table)}
    digests = {root: _digest(project, root, left_out) for root, project in roots.items()}
    shelf = Shelf(out, digests, is_zip=wanted.is_zip)
    outcome = Outcome(table, brands, out, wanted.wishes, notes=tuple(_notes(base)))
    kinds: tuple[Kind, ...] = tuple(kind for kind in KINDS if kind == "look" or kind in wanted.wishes)
    waiting = _Waiting(brands.good, kinds, shelf, roots, outcome, is_zip=wanted.is_zip)
    total = len(brands.good)
    with closing(_Running(wanted, stock, shelf, brands, roots)) as running:
        by_name = {brand.name: brand for brand in brands.good}
        for record in running.run(waiting):
            outcome.records[record.name] = shelf.current(by_name[record.name], kinds, record)
            on_progress(len(outcome.records), total)
    if "apply" in wanted.wishes:
        from rivelt.fleet.apply import apply_brands

        apply_brands(outcome, stock)
    return outcome


class _Waiting:
    """The orders, one after the other: of brands that are not there yet."""

    def __init__(
        self,
        brands: Sequence[Brand],
        kinds: tuple[Kind, ...],
        shelf: Shelf,
        roots: Mapping[Path, object],
        outcome: Outcome,
        *,
        is_zip: bool,
    ) -> None:
        self._brands = brands
        self._kinds = kinds
        self._shelf = shelf
        self._roots = roots
        self._outcome = outcome
        self._is_zip = is_zip

    def __iter__(self) -> Iterator[Order]:
        for brand in self._brands:
            record = self._shelf.record(brand.name)
            missing = self._shelf.missing(brand, self._kinds, record)
            if missing:
                has_project = brand.brief.project in self._roots
                yield Order(brand, missing, is_zip=self._is_zip, has_project=has_project)
            else:
                # What else could not be made of it once is not asked for now.
                current = self._shelf.current(brand, self._kinds, record)
                self._outcome.records[brand.name] = replace(current, problems=())
                self._outcome.kept.add(brand.name)


class _Running:
    """Where the brands of a run are made, until it is closed."""

    def __init__(
        self, wanted: Wanted, stock: Stock, shelf: Shelf, brands: Brands, roots: Mapping[Path, Project]
    ) -> None:
        self._wanted = wanted
        self._stock = stock
        self._shelf = shelf
        self._brands = brands
        self._roots = roots
        self._cluster: Any = None

    def run(self, orders: Iterable[Order]) -> Iterator[Record]:
        """Yield the record of each brand when it is made."""
        yield from self._runner().run(orders)

    def _runner(self) -> Runner:
        if self._wanted.scheduler is not None:
            from rivelt.fleet.cluster import Cluster

            art = {brand.brief.folder / name for brand in self._brands.good for name in brand.inputs}
            sent = carried(self._stock, self._roots, art)
            self._cluster = Cluster(self._wanted.scheduler, self._stock, sent, self._shelf)
            return self._cluster  # type: ignore[no-any-return]
        processes = min(self._wanted.processes or usual_processes(), max(1, len(self._brands.good)))
        if processes == 1:
            return Here(self._stock, self._shelf)
        return Pool(self._stock, self._shelf, processes)

    def close(self) -> None:
        """Let go of a cluster."""
        if self._cluster is not None:
            self._cluster.close()


def _projects(wanted: Wanted, brands: Brands, stock: Stock) -> dict[Path, Project]:
    """The projects that have native apps, where something is made that depends on them.

    Raises:
        BadInput: no project has native apps, and something that is asked for needs one.
    """
    from rivelt.job import Job

    found: dict[Path, Project] = {}
    if not _OF_PROJECT & set(wanted.wishes) and "apply" not in wanted.wishes:
        return found
    problems: dict[Path, RiveltError] = {}
    for root in dict.fromkeys(brand.brief.project for brand in brands.good):
        job = Job(root, ())
        job.project = stock.project(root)
        if job.all_sites:
            found[root] = job.project
        elif needy := [wish for wish in wanted.wishes if wish in _NEEDS_PROJECT]:
            hint = f"Give the folder that holds {signs()} as app.project; or leave it out of --make."
            problems[root] = BadInput(f"there is no native project in {root}, which {needy[0]} needs", hint=hint)
    if problems and not found:
        raise next(iter(problems.values()))
    return found


def _notes(base: BaseBrief) -> Iterator[str]:
    if base.editions:
        yield f"the editions of {base.shown} are not made, only the brands of the table: {', '.join(base.editions)}"


def _digest(project: Project, root: Path, left_out: set[Path]) -> str:
    inside = {path.relative_to(root).as_posix() for path in left_out if path.is_relative_to(root)}
    return project.digest(lambda path: path in inside)


def _refuse_overwriting(wanted: Wanted, out: Path) -> None:
    if resolved(wanted.table) in {out / f"{RESULTS}{ending}" for ending in (".csv", ".parquet")}:
        raise BadInput("the results would be written over the table", hint="Give another folder with --out.")
    if not DISK.is_folder(out.parent):
        import shlex

        message = f"there is no folder {wanted.out.parent}"
        raise BadInput(message, hint=f"Make it first: mkdir -p {shlex.quote(str(wanted.out.parent))}")
