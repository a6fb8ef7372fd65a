"""Draw `docs/screenshots/` anew from the demo: the proof sheets, and what the main commands print on a terminal.

Usage: python docs/make_screenshots.py    (needs the project installed: pip install -e .)
"""

from __future__ import annotations

import os
import pty
import shutil
import signal
import subprocess
import sys
import tempfile
from importlib.util import find_spec
from pathlib import Path

from rich.color import ColorType
from rich.text import Text

from rivelt.pixels.canvas import rasterised
from rivelt.pixels.encode import png
from rivelt.pixels.type import text_svg
from rivelt.units import PixelSize

OUT = Path(__file__).parent / "screenshots"
COLUMNS = 132
SIZE, LINE, PAD = 11.0, 17.0, 28.0
CELL = SIZE * 0.60205  # the advance of DejaVu Sans Mono
PAPER, INK, DIM, SCALE = "#FBF7EF", "#1E2A30", "#8A857A", 1.5
# The terminal's named colours, on paper.
NAMED = {"red": "#B3261E", "green": "#2F7D4F", "yellow": "#9A6A00", "cyan": "#1F6E7D", "bright_red": "#B3261E"}


def on_a_terminal(command: list[str], folder: Path) -> str:
    """What a command prints on a terminal of `COLUMNS` columns, escape sequences included."""
    ours, theirs = pty.openpty()
    env = {**os.environ, "TERM": "xterm-256color", "COLUMNS": str(COLUMNS), "LINES": "60"}
    env.pop("NO_COLOR", None)
    process = subprocess.Popen(
        [sys.executable, "-m", "rivelt", *command],
        cwd=folder,
        stdout=theirs,
        stderr=subprocess.DEVNULL,
        env=env,
    )
    os.close(theirs)
    seen = b""
    try:
        while chunk := os.read(ours, 65536):
            seen += chunk
    except OSError:  # the command has ended and closed its side
        pass
    process.wait()
    os.close(ours)
    return seen.decode().replace("\r\n", "\n")


def drawn(command: str, printed: str) -> bytes:
    """A terminal as a PNG."""
    whole = [Text.from_ansi(f"$ rivelt {command}"), *map(Text.from_ansi, printed.rstrip("\n").split("\n"))]
    lines = [part for line in whole for part in line.divide(range(COLUMNS, len(line.plain), COLUMNS))]
    width, height = PAD * 2 + COLUMNS * CELL, PAD * 2 + LINE * len(lines)
    parts = [f'<rect width="{width + 2}" height="{height + 2}" fill="{PAPER}"/>']
    for row, line in enumerate(lines):
        y = PAD + LINE * (row + 0.75)
        for start, end, colour in _spans(line, is_command=row == 0):
            text = line.plain[start:end]
            if text.strip():
                parts.append(text_svg(text, PAD + start * CELL, y, SIZE, colour, "mono"))
    size = PixelSize(round(width * SCALE), round(height * SCALE))
    view = f'viewBox="0 0 {width} {height}" preserveAspectRatio="none"'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="{size.width}" height="{size.height}" {view}>{"".join(parts)}</svg>'
    return png(rasterised(svg, size).flatten())


def _spans(line: Text, *, is_command: bool) -> list[tuple[int, int, str]]:
    """Runs of one colour."""
    colours = ["#C2402B" if is_command else INK] * len(line.plain)
    for span in line.spans:
        style = span.style
        colour = None if isinstance(style, str) else style.color
        shown = DIM if not isinstance(style, str) and style.dim else None
        if colour is not None:
            shown = NAMED.get(colour.name, colour.get_truecolor().hex if colour.type is not ColorType.DEFAULT else INK)
        for index in range(span.start, min(span.end, len(colours))):
            colours[index] = shown or colours[index]
    runs: list[tuple[int, int, str]] = []
    for index, ink in enumerate(colours):
        if runs and runs[-1][2] == ink:
            runs[-1] = (runs[-1][0], index + 1, ink)
        else:
            runs.append((index, index + 1, ink))
    return runs


def photograph(page: Path, out: Path) -> None:
    """A page in a browser window of 1280 x 800; without Chromium the old picture stays."""
    program = shutil.which("chromium")
    if program is None:
        print(f"no Chromium: {out.name} is not made anew")
        return
    with tempfile.TemporaryDirectory() as profile:
        flags = ["--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--window-size=1280,800"]
        command = [program, *flags, f"--user-data-dir={profile}", f"--screenshot={out}", page.as_uri()]
        subprocess.run(command, check=True, capture_output=True)


def photograph_live(folder: Path, out: Path) -> None:
    """The live page with something set, in a window of 1280 x 800; without Playwright or Chromium the old picture stays."""
    program = shutil.which("chromium")
    if program is None or find_spec("playwright") is None:
        print(f"no browser to drive: {out.name} is not made anew")
        return
    from playwright.sync_api import sync_playwright

    command = [sys.executable, "-m", "rivelt", "proof", "--live", "--no-browser"]
    with subprocess.Popen(command, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
        address = process.stdout.readline().strip() if process.stdout is not None else ""
        with sync_playwright() as driver:
            browser = driver.chromium.launch(executable_path=program, args=["--no-sandbox", "--disable-gpu"])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(address)
            page.get_by_text("up to date").wait_for(timeout=60_000)
            page.get_by_label("light ground, as a CSS colour").fill("#CFE3EE")
            page.get_by_label("light ground, as a CSS colour").press("Enter")
            page.get_by_text("not written yet", exact=True).wait_for(timeout=60_000)
            page.get_by_role("button", name="Write to the brief").scroll_into_view_if_needed()
            page.screenshot(path=out)
            browser.close()
        process.send_signal(signal.SIGINT)


def draw_since(folder: Path, out: Path) -> None:
    """What a change of the ground and of the mark's size does to Android and iOS, against a commit."""
    git = ["git", "-c", "user.name=Ada", "-c", "user.email=ada@example.org"]
    for arguments in (["init", "-q", "-b", "main"], ["add", "-A"], ["commit", "-q", "-m", "Launch screens"]):
        subprocess.run([*git, *arguments], cwd=folder, check=True)
    brief = folder / "rivelt.toml"
    before = brief.read_text()
    brief.write_text(before.replace("#F3EBDD", "#CFE3EE").replace('mark_size = "fit"', "mark_size = 120"))
    only = ["--only", "android", "--only", "ios", "--edition", "main"]
    on_a_terminal(["apply", *only], folder)
    on_a_terminal(["proof", "--since", "main", *only, "--out", "since.png"], folder)
    shutil.copy(folder / "since.png", out)
    subprocess.run([*git, "checkout", "-q", "."], cwd=folder, check=True)


def draw_motion(folder: Path, out: Path) -> None:
    """A mark that is drawn, on Android."""
    brief = folder / "rivelt.toml"
    before = brief.read_text()
    brief.write_text(before.replace("[windows]", '[android]\nmotion = "draw"\n\n[windows]', 1))
    on_a_terminal(["proof", "--only", "android", "--edition", "main", "--out", "motion.png"], folder)
    shutil.copy(folder / "motion.png", out)
    brief.write_text(before)


def main() -> None:
    """Make every picture."""
    OUT.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        (OUT / "demo.png").write_bytes(drawn("demo", on_a_terminal(["demo"], folder)))
        demo = folder / "skerryline-demo"
        shutil.copy(demo / "proof.png", OUT / "proof.png")
        photograph(demo / "proof.html", OUT / "page.png")
        draw_since(shutil.copytree(demo, folder / "since"), OUT / "since.png")
        photograph_live(demo, OUT / "live.png")
        on_a_terminal(["replay", "recordings/launch-faulty.mp4", "--out", "replay.png"], demo)
        shutil.copy(demo / "replay.png", OUT / "replay.png")
        on_a_terminal(["undo"], demo)
        on_a_terminal(["proof", "--now", "--out", "before.png"], demo)
        shutil.copy(demo / "before.png", OUT / "proof-before.png")
        (OUT / "check.png").write_bytes(drawn("check", on_a_terminal(["check"], demo)))
        on_a_terminal(["measure", "--chart", "chart.png"], demo)
        shutil.copy(demo / "chart.png", OUT / "measure-chart.png")
        for name, command in {
            "survey": "survey",
            "measure": "measure",
            "plates": "plates --out plates",
            "apply": "apply",
            "explain": "explain AND08",
            "remove": "remove --edition festival",
            "undo": "undo",
        }.items():
            (OUT / f"{name}.png").write_bytes(drawn(command, on_a_terminal(command.split(), demo)))
        draw_motion(demo, OUT / "motion.png")
        table = ["fleet", "fleet/brands.csv", "--brief", "fleet/brands.toml", "--out", str(folder / "results")]
        on_a_terminal([*table, "--make", "check"], demo)
        shutil.copy(folder / "results/fleet.png", OUT / "fleet.png")


if __name__ == "__main__":
    main()
