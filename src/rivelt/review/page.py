"""A review as one page, which needs nothing else and no network."""

from __future__ import annotations

from itertools import groupby
from typing import TYPE_CHECKING, Any

from rivelt import __version__
from rivelt.platforms import platform
from rivelt.progress import Progress, no_progress
from rivelt.proof.collect import screen_words
from rivelt.proof.page import DRAWN, SHOWN, image_source, press_css
from rivelt.review.model import Change, Review
from rivelt.review.picture import triples
from rivelt.review.sheet import counted, notes_of
from rivelt.templating import Templates

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

_TEMPLATES = Templates("rivelt.review")
_SHOWN = 0.36  # CSS px for each dp or pt: two changes of phones beside each other
_WIDEST = 180.0  # CSS px


def draw_review_page(review: Review, on_progress: Progress = no_progress) -> str:
    """Return the page as HTML. The same review gives the same text. `on_progress` is called with how many changes are drawn."""
    scales = [_scale(change) for change in review.changes]
    drawn = triples(
        [(change, scale * DRAWN / SHOWN) for change, scale in zip(review.changes, scales, strict=True)],
        review.pictures,
        on_progress,
    )
    items = [
        (change, _item(change, scale, pictures))
        for change, scale, (_, pictures) in zip(review.changes, scales, drawn, strict=True)
    ]
    lists = [("Findings added", review.new_findings), ("Findings gone", review.gone)]
    return _TEMPLATES.render(
        "review.html.j2",
        review=review,
        version=__version__,
        css=press_css(),
        counted=counted(review),
        groups=[
            {"heading": heading, "changes": [item for _, item in its]}
            for heading, its in groupby(items, key=lambda one: _heading(one[0]))
        ],
        lists=[(title, found) for title, found in lists if found],
        weights=[(platform(target).title, weight) for target, weight in review.weights.items()],
        words=notes_of(review),
    )


def _heading(change: Change) -> str:
    return f"{platform(change.site.target).title} · {change.site.heading} · {change.state}"


def _scale(change: Change) -> float:
    """CSS px for each dp or pt."""
    return min(_SHOWN, _WIDEST / change.screen.width)


def _item(change: Change, scale: float, pictures: tuple[NDArray[np.uint8] | None, ...]) -> dict[str, Any]:
    screen = change.screen
    scenes = (change.before, change.after, None)
    shots = [
        {
            "word": word,
            "image": None if picture is None else image_source(picture),
            "ground": scene.ground.hex if scene is not None and scene.ground else None,
            "value": scene.ground_in_words if scene is not None else None,
        }
        for word, scene, picture in zip(("before", "after", "difference"), scenes, pictures, strict=True)
        if word != "difference" or picture is not None
    ]
    return {
        "system": screen.system,
        "name": screen.name,
        "words": screen_words(screen),
        "look": change.look if len(screen.looks) > 1 else "always",
        "what": ", ".join(change.in_words),
        "codes": ", ".join(code for code in change.codes_after if code not in change.codes_before),
        "width": f"{screen.width * scale:g}",
        "ratio": f"{screen.width:g} / {screen.height:g}",
        "corner": f"{screen.corner * scale:g}",
        "shots": shots,
    }
