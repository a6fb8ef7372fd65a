"""Our choice of resources against the configurations that Android's own compiler reads from folder names."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from aapt import DENSITIES, run
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources
from rivelt.project.project import Project

SUFFIXES = st.tuples(
    st.sampled_from(["", "sw320dp", "sw600dp", "sw720dp"]),
    st.sampled_from(["", "w400dp", "w820dp"]),
    st.sampled_from(["", "land", "port"]),
    st.sampled_from(["", "night", "notnight"]),
    st.sampled_from(["", "mdpi", "xhdpi", "xxxhdpi", "anydpi"]),
    st.sampled_from(["", "v23", "v29", "v31", "v33"]),
).map(lambda parts: "-".join(part for part in parts if part))
DEVICES = st.builds(
    Device,
    version=st.sampled_from([21, 28, 31, 34]),
    is_night=st.booleans(),
    density=st.sampled_from([160, 240, 480]),
    width=st.sampled_from([360, 411, 800]),
    height=st.sampled_from([640, 891, 1280]),
)


def chosen(configurations: dict[str, str], device: Device) -> str | None:
    """Android's rule as one comparison: of what fits, the best in the first kind of qualifier, then in the next.

    https://developer.android.com/guide/topics/resources/providing-resources#BestMatch
    """
    best: tuple[tuple[float, ...], str] | None = None
    for configuration, value in configurations.items():
        parts = configuration.split("-") if configuration else []
        numbers = {
            kind: int(found[1])
            for kind in ("sw", "w", "v")
            for part in parts
            if (found := re.fullmatch(rf"{kind}(\d+)(?:dp)?", part))
        }
        level = numbers.get("v", 0)
        fits = numbers.get("sw", 0) <= min(device.width, device.height) and numbers.get("w", 0) <= device.width
        fits = fits and level <= device.version and ("land" if device.height >= device.width else "port") not in parts
        if not fits or ("notnight" if device.is_night else "night") in parts:
            continue
        dpi = next((DENSITIES[part] for part in parts if part in DENSITIES), 160)
        nearness = 1.0 if "anydpi" in parts else -dpi if dpi >= device.density else dpi - 10_000.0
        has_night = float("night" in parts or "notnight" in parts)
        rank = (
            numbers.get("sw", 0),
            numbers.get("w", 0),
            float("port" in parts or "land" in parts),
            has_night,
            nearness,
            float(level),
        )
        if best is None or rank > best[0]:
            best = (rank, value)
    return best[1] if best else None


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    suffixes=st.lists(SUFFIXES, min_size=1, max_size=7, unique=True), devices=st.lists(DEVICES, min_size=4, max_size=8)
)
def test_the_best_match_on_random_folders(suffixes: list[str], devices: list[Device]) -> None:
    folders = {suffix: f"values-{suffix}" if suffix else "values" for suffix in suffixes}
    colours = {suffix: f"#ff{index:06x}" for index, suffix in enumerate(suffixes)}
    files = {
        f"res/{folders[s]}/c.xml": f'<resources><color name="c">{colours[s]}</color></resources>'.encode()
        for s in suffixes
    }
    with tempfile.TemporaryDirectory() as temporary:
        root = Path(temporary)
        for path, data in files.items():
            (root / path).parent.mkdir(parents=True)
            (root / path).write_bytes(data)
        run("compile", "--dir", root / "res", "-o", root / "res.zip")
        (root / "m.xml").write_text(
            '<manifest xmlns:android="http://schemas.android.com/apk/res/android" package="a.b"/>'
        )
        run("link", "-o", root / "a.apk", "--manifest", root / "m.xml", root / "res.zip")
        dump = run("dump", "resources", root / "a.apk")
    compiled = {found[1]: found[2] for found in re.finditer(r"\n\s+\(([^)]*)\) (#[0-9a-f]{8})", dump)}
    assert len(compiled) == len(suffixes)
    resources = Resources.of_folder(Project.of_files(files), "res")
    for device in devices:
        ours = resources.best("color", "c", device)
        assert (ours.node.text if ours and ours.node else None) == chosen(compiled, device), (suffixes, device)
