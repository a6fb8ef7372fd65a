"""Play the launches of the demo as recordings: a sound one, and one with a flash and a second launch screen.

Usage: python docs/make_recordings.py    (needs the project installed: pip install -e '.[replay]')
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import rivelt
from rivelt.demo.layout import sample_files
from rivelt.recordings.device import (
    Part,
    app_picture,
    blank_picture,
    home_picture,
    mark_picture,
    play,
    scene_picture,
)
from rivelt.units import PixelSize, Rect

OUT = Path(__file__).parents[1] / "src" / "rivelt" / "demo" / "skerryline" / "recordings"
SIZE = PixelSize(618, 1372)  # Android 14's 412 x 915 dp at 1.5 px each


def main() -> None:
    """Make both."""
    OUT.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as temporary:
        root = Path(temporary)
        for path, content in sample_files().items():
            target = root / path
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(content)
        job = rivelt.open(root, only=["android"], editions=["main"])
        scenes = [scene for _, scene in job.prove().scenes if scene.screen.system.startswith("Android 14")]
        (light,) = [scene for scene in scenes if scene.look == "light"]
        launch = scene_picture(light, SIZE, job.planned.pictures)
    start = [Part("home", 500, home_picture(SIZE, 4)), Part("opening", 280), Part("launch", 640, launch)]
    app = app_picture(SIZE, "#F3EBDD", 2)
    second = mark_picture(SIZE, "#1F6E7D", "#F3EBDD", Rect(0.33, 0.44, 0.34, 0.12))
    wrong = [Part("flash", 100, blank_picture(SIZE, "#13212B")), Part("second", 420, second)]
    for name, parts in (
        ("launch.mp4", [*start, Part("first", 700, app, fade=150)]),
        ("launch-faulty.mp4", [*start, *wrong, Part("first", 700, app)]),
    ):
        (OUT / name).write_bytes(play(parts, SIZE, seed=1).data)


if __name__ == "__main__":
    main()
