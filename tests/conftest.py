"""What every test may use: the real command, trees as dicts, and the demo laid out fresh."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from rivelt.demo.layout import sample_files


@dataclass(frozen=True)
class Run:
    """How a `rivelt` command ended."""

    code: int
    out: str
    err: str

    @property
    def json(self) -> Any:
        return json.loads(self.out)


Command = Callable[..., Run]


@pytest.fixture
def rivelt(tmp_path: Path) -> Command:
    """The real command in a process of its own: `rivelt("apply", "--dry-run", cwd=...)`."""

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
    """The sample app, with startup images for one iPhone and one iPad and not for all: what every test can afford."""
    files = dict(sample_files())
    files["rivelt.toml"] = files["rivelt.toml"].replace(b'screens = "all"', b'screens = ["iPhone 15", "iPad 10.9"]')
    return files


@pytest.fixture
def sample(tmp_path: Path) -> Path:
    """The sample app, laid out and not yet applied."""
    return write_tree(tmp_path / "skerryline", quick_sample())


@pytest.fixture(scope="session")
def applied(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The sample app, applied once for all tests that only look."""
    from rivelt import job

    root = write_tree(tmp_path_factory.mktemp("applied"), quick_sample())
    job.apply(job.changes_of(job.prepare(job.load_brief(root))))
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
        "gradle": "// com.android.application\n",
    }
    return {paths[name]: content for name, content in {**plain, **changes}.items()}


@pytest.fixture(scope="session")
def stubs(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """The stub frameworks that the resource compiler links against."""
    from aapt import frameworks

    return frameworks(tmp_path_factory.mktemp("stubs"))
