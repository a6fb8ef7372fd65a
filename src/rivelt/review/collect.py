"""A review worked out: the scenes of two states paired, those that are the same left out, and the rest measured."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING, NamedTuple

from rivelt.cores import threads
from rivelt.errors import BadInput, RiveltError
from rivelt.picture import ImageFile
from rivelt.progress import Progress, no_progress
from rivelt.review.compare import difference, is_same
from rivelt.review.model import Change, Review, State, Weight
from rivelt.rules.likeness import added, gone
from rivelt.scene.model import Screen
from rivelt.units import Look
from rivelt.values import replace

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.job import Job
    from rivelt.pixels.pictures import Pictures
    from rivelt.proof.model import Proof
    from rivelt.review.earlier import Earlier
    from rivelt.rules.report import Report
    from rivelt.scene.model import Scene
    from rivelt.scene.site import Site


class Wanted(NamedTuple):
    """What is to be shown. `now`: only the project as it is, not as apply would leave it. The others: see `rivelt.job.Job.prove`."""

    screens: tuple[str, ...] = ()
    all_screens: bool = False
    now: bool = False


class _Pair(NamedTuple):
    """One screen in one look of two states of a project."""

    site: Site
    before: Scene | None
    after: Scene | None


def review(
    work: Job, before: Earlier, wanted: Wanted, *, since: str, at: str = "", on_progress: Progress = no_progress
) -> Review:
    """Return what is different on the screens of a project.

    Args:
        work: the later state.
        before: the earlier one.
        wanted: the screens, and whether as apply would leave the project too.
        since: what the person calls the earlier state.
        at: the same for the later state; "" for the working tree.
        on_progress: called with how many screens are compared.

    Raises:
        BadInput: nothing can be shown of the later state, and nothing was there before.
    """
    states: dict[State, tuple[Proof | None, Proof | None]] = {}
    unproved: dict[str, None] = {}
    asked: dict[State, Wanted] = {"as it is": wanted._replace(now=True)}
    if not wanted.now and any(job is not None and _is_unsettled(job) for job in (work, before.job)):
        asked["as apply would leave it"] = wanted
    for state, its in asked.items():
        later = _proof_after(work, before.job, its)
        try:
            states[state] = (_prove(before.job, its) if before.job is not None and before.job.sites else None, later)
        except RiveltError as error:
            unproved |= {f"{since}, {state}, cannot be shown: {_told(one)}": None for one in error.parts}
    pictures = work.now.pictures
    pairs = {state: _paired(*proofs) for state, proofs in states.items()}
    different = _different(pairs, pictures, on_progress)
    changes = tuple(
        _codes(change, states[change.state]) for its in different.values() for change in its if change is not None
    )
    reports, unjudged = _reports(work, before.job, since)
    images = _images(before.job), _images(work)
    repacked, elsewhere = _other_images(*images, changes, pictures)
    reasons, earlier = (
        dict.fromkeys(
            reason for state in pairs.values() for pair in state.values() for reason in _unknowns(getattr(pair, which))
        )
        for which in ("after", "before")
    )
    return Review(
        work.name,
        since,
        at,
        changes,
        same=sum(not any(its) for its in different.values()),
        repacked=repacked,
        elsewhere=elsewhere,
        unknown=(*unproved, *unjudged, *(reason for reason in reasons if reason not in earlier)),
        still_unknown=tuple(reason for reason in reasons if reason in earlier),
        weights=_weights(*images),
        added=added(reports[0], reports[1], since, _is_there(work)) if reports else None,
        gone=gone(reports[0], reports[1], _is_there(work)) if reports else (),
        notes=(*before.notes, *_blocked(states)),
        pictures=pictures,
        root=work.root,
    )


def _is_unsettled(job: Job) -> bool:
    """Whether apply would change something on a screen, or cannot say."""
    try:
        return job.has_brief and job.planned is not job.now
    except RiveltError:
        return True


def _prove(job: Job, wanted: Wanted) -> Proof:
    return job.prove(now=wanted.now, screens=wanted.screens, all_screens=wanted.all_screens)


def _proof_after(work: Job, before: Job | None, wanted: Wanted) -> Proof | None:
    """The proof of the later state; None where nothing is there any more.

    Raises:
        BadInput: nothing can be shown of it, and nothing was there before.
    """
    try:
        return _prove(work, wanted)
    except BadInput:
        if before is None or not before.sites or work.sites:
            raise
        return None


def _told(error: RiveltError) -> str:
    return f"{error.place}: {error.message}" if error.place is not None else error.message


def _unknowns(scene: Scene | None) -> tuple[str, ...]:
    return scene.unknowns if scene is not None else ()


# Pairs

_Key = tuple[int, Screen, Look]


def _paired(before: Proof | None, after: Proof | None) -> dict[_Key, _Pair]:
    """The scenes of two proofs by the site (a number), the screen and the look."""
    first, second = _by_site(before), _by_site(after)
    found: dict[_Key, _Pair] = {}
    for number, (old, new) in enumerate(_site_pairs(list(first), list(second))):
        scenes = first.get(old, {}) if old is not None else {}, second.get(new, {}) if new is not None else {}
        site = new or old
        for screen, look in dict.fromkeys((*scenes[1], *scenes[0])):
            if site is not None:
                key = screen, look
                found[number, screen, look] = _Pair(site, scenes[0].get(key), scenes[1].get(key))
    return found


def _by_site(proof: Proof | None) -> dict[Site, dict[tuple[Screen, Look], Scene]]:
    found: dict[Site, dict[tuple[Screen, Look], Scene]] = {}
    for site, scene in proof.scenes if proof is not None else ():
        found.setdefault(site, {})[scene.screen, scene.look] = scene
    return found


_LIKENESSES: tuple[Callable[[Site], Hashable], ...] = (
    lambda site: (site.target, site.name, site.edition, site.variants),
    lambda site: (site.target, site.name, site.variants),
    lambda site: (site.target, site.edition, site.variants),
    lambda site: (site.target, site.name),
    lambda site: (site.target, site.edition),
    lambda site: site.target,
)
"""By what a site is known again, from its whole name to what is left where its folder was renamed or a brief came."""


def _site_pairs(before: Sequence[Site], after: Sequence[Site]) -> list[tuple[Site | None, Site | None]]:
    """Each later site with the one that it was; and those that are gone."""
    old = list(before)
    partners: dict[Site, Site] = {}
    for likeness in _LIKENESSES:
        left = [site for site in after if site not in partners]
        for site in left:
            same = [one for one in old if likeness(one) == likeness(site)]
            rivals = [one for one in left if likeness(one) == likeness(site)]
            if len(same) == 1 and len(rivals) == 1:
                partners[site] = same[0]
                old.remove(same[0])
    return [*((partners.get(site), site) for site in after), *((site, None) for site in old)]


# Differences


def _different(
    pairs: Mapping[State, Mapping[_Key, _Pair]], pictures: Pictures, on_progress: Progress
) -> dict[_Key, tuple[Change | None, ...]]:
    """What is different, by site, screen and look: in each state, where that says more than the state before."""
    keys = list(dict.fromkeys(key for state in pairs.values() for key in state))
    found: dict[_Key, tuple[Change | None, ...]] = {}
    with ThreadPoolExecutor(threads()) as pool:
        jobs = [pool.submit(_changes, {state: its.get(key) for state, its in pairs.items()}, pictures) for key in keys]
        for number, (key, job) in enumerate(zip(keys, jobs, strict=True), start=1):
            found[key] = job.result()
            on_progress(number, len(keys))
    return found


def _changes(states: Mapping[State, _Pair | None], pictures: Pictures) -> tuple[Change | None, ...]:
    found: list[Change | None] = []
    told: list[_Pair] = []
    for state, pair in states.items():
        change = _change(state, pair, pictures) if pair is not None else None
        if change is not None and pair is not None and any(_is_told(pair, other, pictures) for other in told):
            change = None
        if change is not None and pair is not None:
            told.append(pair)
        found.append(change)
    return tuple(found)


def _change(state: State, pair: _Pair, pictures: Pictures) -> Change | None:
    if pair.before is None or pair.after is None:
        return Change(pair.site, state, pair.before, pair.after)
    if is_same(pair.before, pair.after):
        return None
    found = difference(pair.before, pair.after, pictures)
    return None if found is None else Change(pair.site, state, pair.before, pair.after, found)


def _is_told(pair: _Pair, other: _Pair, pictures: Pictures) -> bool:
    """Whether two states go from the same picture to the same picture, so that one of them is enough."""
    return all(
        (one is None and two is None)
        or (one is not None and two is not None and (is_same(one, two) or difference(one, two, pictures) is None))
        for one, two in ((pair.before, other.before), (pair.after, other.after))
    )


def _codes(change: Change, proofs: tuple[Proof | None, Proof | None]) -> Change:
    """A change with the codes of what is wrong on both of its screens."""
    before, after = (
        proof.codes_of(scene) if proof is not None and scene is not None else ()
        for proof, scene in zip(proofs, (change.before, change.after), strict=True)
    )
    return replace(change, codes_before=before, codes_after=after)


# Findings, images, and what is left alone


def _reports(work: Job, before: Job | None, since: str) -> tuple[tuple[Report, Report] | None, tuple[str, ...]]:
    """What the rules say of both states as they are, None where there is nothing to judge; and why the earlier one is unknown."""
    try:
        later = work.check()
    except BadInput:
        return None, ()
    nothing = replace(later, results=())
    try:
        is_empty = before is None or not (before.sites or before.has_brief)
        return (later, nothing if before is None or is_empty else before.check()), ()
    except RiveltError as error:
        return None, tuple(f"{since} cannot be judged: {_told(one)}" for one in error.parts)


def _is_there(work: Job) -> Callable[[str], bool]:
    return lambda path: work.files.is_there(work.root / path)


class _Image(NamedTuple):
    target: str
    image: ImageFile


def _images(job: Job | None) -> dict[str, _Image]:
    """The bitmaps of the launch screens of a project as it is: those that Rivelt made, and those that a screen shows."""
    found: dict[str, _Image] = {}
    if job is None:
        return found
    evidence = job.now
    for site in evidence.sites:
        if site.blocked is not None or not site.exists:
            continue
        shown = (picture.source for scene in evidence.scenes(site) for picture in scene.pictures)
        for path in (*evidence.made_images(site), *shown):
            if path in job.project and path not in found:
                found[path] = _Image(site.target, job.project.image(path))
    return found


def _weights(before: Mapping[str, _Image], after: Mapping[str, _Image]) -> dict[str, Weight]:
    found: dict[str, Weight] = {}
    for target in dict.fromkeys(one.target for one in (*after.values(), *before.values())):
        sizes = [[len(one.image.data) for one in its.values() if one.target == target] for its in (before, after)]
        found[target] = Weight(sum(sizes[0]), sum(sizes[1]), len(sizes[0]), len(sizes[1]))
    return found


def _other_images(
    before: Mapping[str, _Image], after: Mapping[str, _Image], changes: Sequence[Change], pictures: Pictures
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Images that were written anew: those whose pixels are the same, and those that differ and that no changed screen shows."""
    shown = {picture.source for change in changes for picture in change.scene.pictures}
    repacked, elsewhere = [], []
    for path, (_, image) in after.items():
        old = before.get(path)
        if old is None or old.image.data == image.data:
            continue
        if _pixels(old.image, pictures) is not None and _are_equal(old.image, image, pictures):
            repacked.append(path)
        elif path not in shown:
            elsewhere.append(path)
    return tuple(sorted(repacked)), tuple(sorted(elsewhere))


def _are_equal(one: ImageFile, other: ImageFile, pictures: Pictures) -> bool:
    first, second = _pixels(one, pictures), _pixels(other, pictures)
    return first is not None and second is not None and first.shape == second.shape and bool((first == second).all())


def _pixels(image: ImageFile, pictures: Pictures) -> NDArray[np.uint8] | None:
    if image.size is None:
        return None
    try:
        return pictures.at(image, image.size)
    except BadInput:
        return None


def _blocked(states: Mapping[State, tuple[Proof | None, Proof | None]]) -> Iterator[str]:
    told = {
        f"not shown: {site.label}: {error.message}": None
        for _, after in states.values()
        if after is not None
        for site, error in after.blocked.items()
    }
    yield from told
