"""Which images a brief asks for, under which names."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, RiveltError, raise_all
from rivelt.patterns import regex
from rivelt.plan.names import FILE, safe_name
from rivelt.platforms.uploads.facts import upload_facts
from rivelt.platforms.uploads.options import UploadsTable
from rivelt.platforms.uploads.site import Upload
from rivelt.units import LOOKS, Look

OWN = "custom"
"""What `{target}` is for sizes of the brief's own."""

_SIZE = regex(r"\s*(\d{1,6})\s*[xX\u00d7]\s*(\d{1,6})\s*")
_FIELD = regex(r"\{([^{}]*)\}")
_KNOWN = ("target", "width", "height", "look")


def uploads(brief: Brief) -> tuple[Upload, ...]:
    """Return the images that the brief asks for, each with its name.

    Raises:
        BadInput: a size is not a size, or a name cannot be made; `Problems` for several.
    """
    options = brief.table("uploads", UploadsTable)
    sizes: list[tuple[str, int, int, float]] = [
        (name, *size) for name in options.sets for size in upload_facts().sets[name]
    ]
    sizes += [(OWN, *size) for size in _own_sizes(brief, options)]
    if not sizes:
        hint = 'Write sets = ["android", "ios"], or sizes = ["1080x1920"], under [uploads].'
        raise BadInput("no size of an upload is given", place=brief.place("uploads"), hint=hint)
    looks: tuple[Look, ...] = LOOKS if options.looks == "both" else (options.looks,)
    found: dict[str, Upload] = {}
    for target, width, height, density in sizes:
        for look in looks:
            path = _name(brief, options, {"target": target, "width": width, "height": height, "look": look})
            upload = Upload(path, target, width, height, density, look)
            if path in found and found[path] != upload:
                hint = "Give the name all of {target}, {width}, {height} and {look}."
                raise BadInput(f"two uploads would be called {path}", place=brief.place("uploads.name"), hint=hint)
            found[path] = upload
    return tuple(found.values())


def _own_sizes(brief: Brief, options: UploadsTable) -> Iterator[tuple[int, int, float]]:
    facts = upload_facts()
    problems: list[RiveltError] = []
    for number, text in enumerate(options.sizes):
        found = _SIZE.fullmatch(text)
        sides = (int(found[1]), int(found[2])) if found else (0, 0)
        if not facts.smallest <= min(sides) <= max(sides) <= facts.largest:
            hint = f'Write width x height in px, such as "1080x1920", each from {facts.smallest} to {facts.largest}.'
            problems.append(
                BadInput(f"{text!r} is not a size", place=brief.place(f"uploads.sizes[{number}]"), hint=hint)
            )
        else:
            yield (*sides, _density(*sides))
    raise_all(problems)


def _density(width: int, height: int) -> float:
    """Px per dp or point of a screen: what a list says of its size, else what a phone or tablet of this shape has."""
    facts = upload_facts()
    for sizes in facts.sets.values():
        for known in sizes:
            if known[:2] == (width, height):
                return known[2]
    short, long = sorted((width, height))
    return short / (facts.phone if long / short >= facts.phone_ratio else facts.tablet)


def _name(brief: Brief, options: UploadsTable, values: dict[str, object]) -> str:
    unknown = [field for field in _FIELD.findall(options.name) if field not in _KNOWN]
    if unknown:
        at, hint = brief.place("uploads.name"), f"There are: {', '.join(f'{{{name}}}' for name in _KNOWN)}."
        raise BadInput(f"a name of an upload cannot hold {{{unknown[0]}}}", place=at, hint=hint)
    text = _FIELD.sub(lambda found: str(values[found[1]]), options.name)
    text = text[:-4] if text.lower().endswith(".png") else text
    return "/".join(_safe(part) for part in text.split("/") if part.strip(". ")) + ".png"


def _safe(part: str) -> str:
    """A name that may begin with a digit, made safe."""
    name = safe_name(f"f{part}", FILE)[1:] if part[0].isdigit() else safe_name(part, FILE)
    return name.rstrip("-")
