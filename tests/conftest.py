"""What every test may use: the real command, trees as dicts, and the demo laid out fresh."""

from __future__ import annotations

import io
import json
import os
import re
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from hypothesis import settings

from rivelt.demo.layout import sample_files
from rivelt.documents.schema import schemas
from rivelt.picture import Art
from rivelt.plan.model import Recipe

settings.register_profile("rivelt", deadline=None)
settings.load_profile("rivelt")


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter, config: pytest.Config) -> None:
    """Say that slow tests were left out, if they were."""
    if config.option.markexpr == "not slow":
        terminalreporter.write_line("Slow tests were left out; run all tests with: pytest -m ''")


@dataclass(frozen=True)
class Run:
    """How a `rivelt` command ended."""

    code: int
    out: str
    err: str

    @property
    def json(self) -> Any:
        """What was printed under --json, which must be all of it and as its published schema has it, without a key more."""
        found = json.loads(self.out)
        return valid(found) if isinstance(found, dict) and "schema" in found else found


def valid(document: dict[str, Any]) -> dict[str, Any]:
    """A document, once it is known to be valid."""
    _validator(document["schema"]).validate(document)
    return document


@cache
def _validator(name: str) -> Any:
    return jsonschema.Draft202012Validator(schemas(is_strict=True)[name])


Command = Callable[..., Run]


def run_here(arguments: tuple[object, ...], cwd: Path, env: Mapping[str, str]) -> Run:
    """Run a command in this process, its streams captured, its folder and environment as given."""
    from rivelt.cli import output
    from rivelt.cli.main import run

    before = Path.cwd()
    out, err = (io.TextIOWrapper(io.BytesIO(), encoding="utf-8", newline="") for _ in range(2))
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        for name, value in {"COLUMNS": "200", **env}.items():
            patch.setenv(name, value)
        os.chdir(cwd)
        try:
            output.begin()
            code = run([str(argument) for argument in arguments])
        finally:
            os.chdir(before)
    said, told = (_text(stream) for stream in (out, err))
    assert "Traceback" not in told, told
    return Run(code, said, told)


def _text(stream: io.TextIOWrapper) -> str:
    stream.flush()
    assert isinstance(stream.buffer, io.BytesIO)
    return stream.buffer.getvalue().decode()


@pytest.fixture
def rivelt(tmp_path: Path) -> Command:
    """The real command: `rivelt("apply", "--dry-run", cwd=...)`."""

    def call(*arguments: object, cwd: Path = tmp_path, env: Mapping[str, str] | None = None) -> Run:
        return run_here(arguments, cwd, env or {})

    return call


@pytest.fixture
def process(tmp_path: Path) -> Command:
    """The real command in a process of its own, for what only a process can show."""

    def call(*arguments: object, cwd: Path = tmp_path, env: Mapping[str, str] | None = None) -> Run:
        done = subprocess.run(
            [sys.executable, "-m", "rivelt", *map(str, arguments)],
            cwd=cwd,
            env={**os.environ, "COLUMNS": "200", **(env or {})},
            capture_output=True,
            text=True,
            encoding="utf-8",
            timeout=120,
        )
        assert "Traceback" not in done.stderr, done.stderr
        return Run(done.returncode, done.stdout, done.stderr)

    return call


@pytest.fixture(scope="session", autouse=True)
def _made_once(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Measure each piece of art, and render each recipe, once for the whole run; draw proofs at a quarter of their scale."""
    from rivelt.art import measure
    from rivelt.pixels import render
    from rivelt.proof import chart, frames, page, sheet, style
    from rivelt.review import sheet as review_sheet

    store = tmp_path_factory.getbasetemp().parent / "plates"
    store.mkdir(exist_ok=True)
    measured: dict[tuple[str, str, bool], measure.MeasuredArt] = {}
    plain_measured, plain_render = measure.measured, render.render

    def measure_once(art: Art, *, trim: bool = True) -> measure.MeasuredArt:
        key = (art.digest, art.name, trim)
        if key not in measured:
            measured[key] = plain_measured(art, trim=trim)
        return measured[key]

    def render_once(recipe: Recipe, *, is_small: bool = False, **named: Any) -> bytes:
        file = store / f"{recipe.digest}{'-small' if is_small else ''}"
        if not file.exists():
            beside = file.with_name(f"{file.name}-{os.getpid()}-{threading.get_ident()}")
            beside.write_bytes(plain_render(recipe, is_small=is_small, **named))
            beside.replace(file)
        return file.read_bytes()

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(measure, "measured", measure_once)
        patch.setattr(render, "render", render_once)
        for module in (style, sheet, chart, frames, review_sheet):
            patch.setattr(module, "PIXELS_PER_UNIT", 0.5)
        patch.setattr(page, "DRAWN", 0.28)
        yield


def write_tree(root: Path, files: Mapping[str, str | bytes]) -> Path:
    """Write files below a folder; their paths are POSIX."""
    for path, content in files.items():
        target = root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(content.encode() if isinstance(content, str) else content)
    return root


def read_tree(root: Path) -> dict[str, bytes]:
    """Every file below a folder, hidden ones too."""
    return {path.relative_to(root).as_posix(): path.read_bytes() for path in sorted(root.rglob("*")) if path.is_file()}


def quick_sample() -> dict[str, bytes]:
    """The sample app without its edition, with startup images for one iPhone and one iPad and small uploads: what every test can afford."""
    files = {path: data for path, data in sample_files().items() if "festival" not in path}
    files["rivelt.toml"] = files["rivelt.toml"].partition(b"\n[edition.")[0]
    build = "android/app/build.gradle.kts"
    files[build] = re.sub(rb"(?s)\n    flavorDimensions.*?\n    \}\n\}", b"}", files[build])
    assert b"season" not in files[build]
    for usual, quick in (
        (b'screens = "all"', b'screens = ["iPhone 15", "iPad 10.9"]'),
        (b'"1080x1920", "2048x2732"', b'"360x640", "512x683"'),
    ):
        assert usual in files["rivelt.toml"]
        files["rivelt.toml"] = files["rivelt.toml"].replace(usual, quick)
    return files


@pytest.fixture
def sample(tmp_path: Path) -> Path:
    """The sample app, laid out and not yet applied."""
    return write_tree(tmp_path / "skerryline", quick_sample())


@pytest.fixture(scope="session")
def applied(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The sample app, applied once for all tests that only look."""
    import rivelt

    root = write_tree(tmp_path_factory.mktemp("applied"), quick_sample())
    rivelt.apply(rivelt.open(root).changes())
    return root


MARK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="80">'
    '<rect width="100" height="80" rx="4" fill="#1F6E7D"/></svg>'
)
BRIEF = '[app]\nname = "Tern"\n\n[light]\nground = "#F3EBDD"\nmark = "mark.svg"\n'
MANIFEST = """<manifest xmlns:android="http://schemas.android.com/apk/res/android" package="example.tern">
    <application android:theme="@style/Tern">
        <activity android:name=".Main">
            <intent-filter>
                <action android:name="android.intent.action.MAIN"/>
                <category android:name="android.intent.category.LAUNCHER"/>
            </intent-filter>
        </activity>
    </application>
</manifest>
"""
STYLES = """<resources>
    <style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">#FFFFFF</item></style>
</resources>
"""


def small_android(**changes: str | bytes) -> dict[str, str | bytes]:
    """A small Android project with a brief; keyword arguments replace files by their short name."""
    paths = {
        "brief": "rivelt.toml",
        "mark": "mark.svg",
        "manifest": "app/src/main/AndroidManifest.xml",
        "styles": "app/src/main/res/values/styles.xml",
        "gradle": "app/build.gradle",
    }
    plain = {
        "brief": BRIEF,
        "mark": MARK,
        "manifest": MANIFEST,
        "styles": STYLES,
        "gradle": "// com.android.application\nandroid { compileSdk 35 }\n",
    }
    return {paths[name]: content for name, content in {**plain, **changes}.items()}


@pytest.fixture(scope="session")
def attribute_levels(tmp_path_factory: pytest.TempPathFactory, stubs: tuple[Path, Path]) -> dict[str, int]:
    """The API level that brought each system attribute."""
    from aapt import levels_of_attributes

    return levels_of_attributes(tmp_path_factory.mktemp("levels"), stubs[0])


@pytest.fixture(scope="session")
def stubs(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """The stub frameworks that the resource compiler links against."""
    from aapt import frameworks

    return frameworks(tmp_path_factory.mktemp("stubs"))
