"""Manifests and metadata in code: edited where they are written out, else the exact lines in that syntax."""

from __future__ import annotations

import json
from collections.abc import Sequence

from rivelt.edit.source.script import Computed, Value
from rivelt.edit.splice import Splice, spliced
from rivelt.platforms.web.make.manifest import icon_entries
from rivelt.platforms.web.make.plates import Icon, Startup
from rivelt.platforms.web.native.in_code import CodeManifest


def with_launch_in_code(
    manifest: CodeManifest, colour: str, icons: Sequence[Icon], *, theme: bool | None
) -> tuple[bytes, list[str]]:
    """Return a source with the ground and our icons in its manifest, and the lines that a person has to write.

    Args:
        manifest: the manifest.
        colour: the ground.
        icons: our icons, by their addresses.
        theme: whether to set `theme_color`; None sets it only if it is missing.
    """
    wanted: dict[str, Value] = {"background_color": colour}
    if theme or (theme is None and "theme_color" not in manifest.value):
        wanted["theme_color"] = colour
    splices: list[Splice] = []
    lines: list[str] = []
    for key, value in wanted.items():
        known = manifest.value.get(key)
        if isinstance(known, Computed):
            lines.append(f"{key}: {json.dumps(value)},")
        elif known != value:
            splices.append(manifest.source.with_property(manifest.node, key, value))
    array = manifest.source.pairs(manifest.node).get("icons")
    known_icons = manifest.value.get("icons")
    entries: list[Value] = [
        dict(entry) for entry in icon_entries(icons) if not isinstance(known_icons, list) or entry not in known_icons
    ]
    if entries and array is None:
        splices.append(manifest.source.with_property(manifest.node, "icons", entries))
    elif entries and array is not None and array.type == "array":
        splices.append(manifest.source.with_items(array, entries))
    elif entries:
        lines += ["icons: [", *(f"  {manifest.source.written(entry)}," for entry in entries), "],"]
    return _in_turn(manifest.data, splices), lines


def _in_turn(data: bytes, splices: list[Splice]) -> bytes:
    """The source with several new properties at the same spot, each with its comma."""
    spots: dict[tuple[int, int], list[bytes]] = {}
    for splice in splices:
        spots.setdefault((splice.start, splice.end), []).append(splice.text)
    return spliced(
        data,
        (
            Splice(start, end, b"".join(texts) if start == end and b"," in texts[0] else b",".join(texts))
            for (start, end), texts in spots.items()
        ),
    )


def metadata_lines(startups: Sequence[Startup]) -> tuple[str, ...]:
    """Return the startup images as a framework's `metadata` names them, by their addresses from the server's root."""
    images = [f'    {{ url: "/{one.plate.path}", media: {json.dumps(one.media)} }},' for one in startups]
    return ("appleWebApp: {", "  capable: true,", "  startupImage: [", *images, "  ],", "},")
