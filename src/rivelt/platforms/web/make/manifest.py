"""The web app manifest, edited: its colours and icons."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rivelt.edit.jsontext import JsonDocument, JsonNode
from rivelt.edit.splice import Splice, spliced
from rivelt.platforms.web.make.plates import Icon


def with_launch(
    manifest: JsonDocument, colour: str, icons: Sequence[Icon], ours: str, *, replaces_icons: bool, theme: bool | None
) -> bytes:
    """Return the manifest with the ground as its background, and as its theme and with our icons where they are wanted.

    Args:
        manifest: the manifest.
        colour: the ground.
        icons: our icons.
        ours: the folder of our icons, as the manifest names it.
        replaces_icons: whether icons of the person's give way to ours of the same size and purpose; the others stay in any case.
        theme: whether to set `theme_color`; None sets it only if it is missing.
    """
    splices: list[Splice] = []
    splices += manifest.set_member("background_color", colour, ("display", "start_url", "theme_color"))
    if theme or (theme is None and "theme_color" not in manifest.value):
        splices += manifest.set_member("theme_color", colour, ("display", "start_url", "background_color"))
    if icons:
        splices += _icons(manifest, icons, ours, replaces=replaces_icons)
    return spliced(manifest.data, splices)


def replaced_icons(manifest: JsonDocument, icons: Sequence[Icon], ours: str) -> list[str]:
    """Return the files of the icons of the person's that give way to ours."""
    wanted, array = icon_entries(icons), manifest.root.members.get("icons")
    known = array.items if array is not None else []
    gone = [item.value for item in known if item.value not in wanted and _gives_way(item, wanted, ours)]
    return [str(icon.get("src")) for icon in gone if not str(icon.get("src", "")).startswith(f"{ours}/")]


def icon_entries(icons: Sequence[Icon]) -> list[dict[str, str]]:
    """Return icons as a manifest lists them."""
    return [
        {"src": icon.plate.path, "sizes": f"{icon.side}x{icon.side}", "type": "image/png", "purpose": icon.purpose}
        for icon in icons
    ]


def _icons(manifest: JsonDocument, icons: Sequence[Icon], ours: str, *, replaces: bool) -> list[Splice]:
    wanted = icon_entries(icons)
    array = manifest.root.members.get("icons")
    known = array.items if array is not None else []
    present = [item.value for item in known if item.value in wanted]
    kept = [item for item in known if item.value in wanted or not _gives_way(item, wanted if replaces else [], ours)]
    return manifest.set_items("icons", kept, [icon for icon in wanted if icon not in present])


def _gives_way(item: JsonNode, wanted: Sequence[Mapping[str, str]], ours: str) -> bool:
    if not isinstance(item.value, dict):
        return False
    if str(item.value.get("src", "")).startswith(f"{ours}/icon-"):
        return True
    sizes = str(item.value.get("sizes", "")).lower().split()
    purposes = str(item.value.get("purpose") or "any").lower().split()
    covered = {(icon["sizes"], icon["purpose"]) for icon in wanted}
    return bool(sizes and covered) and all((size, purpose) in covered for size in sizes for purpose in purposes)
