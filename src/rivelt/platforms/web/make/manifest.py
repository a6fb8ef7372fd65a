"""The web app manifest, edited: its colours and icons."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rivelt.edit.jsontext import JsonDocument, JsonNode
from rivelt.edit.splice import Splice, spliced
from rivelt.platforms.web.make.plates import Icon


def with_launch(manifest: JsonDocument, colour: str, icons: Sequence[Icon], ours: str) -> bytes:
    """The manifest with the ground as its two colours, and our icons.

    An icon of the person's gives way to one of ours of the same size and purpose; the others stay. `ours`: the folder of our icons.
    """
    splices: list[Splice] = []
    splices += manifest.set_member("background_color", colour, ("display", "start_url", "theme_color"))
    splices += manifest.set_member("theme_color", colour, ("display", "start_url", "background_color"))
    if icons:
        splices += _icons(manifest, icons, ours)
    return spliced(manifest.data, splices)


def _icons(manifest: JsonDocument, icons: Sequence[Icon], ours: str) -> list[Splice]:
    wanted = [
        {"src": icon.plate.path, "sizes": f"{icon.side}x{icon.side}", "type": "image/png", "purpose": icon.purpose}
        for icon in icons
    ]
    array = manifest.root.members.get("icons")
    known = array.items if array is not None else []
    present = [item.value for item in known if item.value in wanted]
    kept = [item for item in known if item.value in wanted or not _gives_way(item, wanted, ours)]
    return manifest.set_items("icons", kept, [icon for icon in wanted if icon not in present])


def _gives_way(item: JsonNode, wanted: Sequence[Mapping[str, str]], ours: str) -> bool:
    if not isinstance(item.value, dict):
        return False
    if str(item.value.get("src", "")).startswith(f"{ours}/icon-"):
        return True
    sizes = str(item.value.get("sizes", "")).lower().split()
    purposes = str(item.value.get("purpose") or "any").lower().split()
    covered = {(icon["sizes"], icon["purpose"]) for icon in wanted}
    return bool(sizes) and all((size, purpose) in covered for size in sizes for purpose in purposes)
