"""Android's own framework as a judge: packages linked by the resource compiler, asked at several API levels.

`fetch` beside this file brings the framework. One process answers all questions of a test run.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import socket
import subprocess
import time
import zipfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import IO, Any

import aapt

HERE = Path(__file__).parent
JARS = Path(os.environ.get("RIVELT_ANDROID") or Path.home() / ".cache" / "rivelt" / "android")
COMPILED_AGAINST = "14-robolectric-10818077"
"""The framework that packages are linked against: its table is the newest that the resource compiler of the tests reads."""

RELEASES = {23: "6", 28: "9", 30: "11", 31: "12", 33: "13", 34: "14", 35: "15", 36: "16"}
"""The release of the system that has each API level."""
LEVELS = tuple(RELEASES)
DRAWN_FROM = 28
"""The lowest of them with graphics of its own."""
PACKAGE = "example.app"


@dataclass(frozen=True)
class Java:
    """A Java development kit, and its version."""

    home: Path
    version: int

    def __call__(self, tool: str) -> str:
        return str(self.home / "bin" / tool)


def java() -> Java | None:
    """Return the newest development kit of this machine from version 17 on; None without one."""
    homes = [Path(os.environ["JAVA_HOME"])] if "JAVA_HOME" in os.environ else []
    compiler = shutil.which("javac")
    homes += [Path(compiler).resolve().parent.parent] if compiler else []
    homes += Path("/usr/lib/jvm").glob("*")
    found = [
        Java(home, int(version))
        for home in homes
        if (home / "bin" / "javac").exists() and (version := _version(home)).isdecimal() and int(version) >= 17
    ]
    return max(found, key=lambda one: (one.version, -len(str(one.home))), default=None)


def _version(home: Path) -> str:
    release = home / "release"
    lines = release.read_text().splitlines() if release.exists() else []
    named = next((line for line in lines if line.startswith("JAVA_VERSION=")), "")
    return named.partition("=")[2].strip('"').partition(".")[0]


def missing() -> str | None:
    """Return why the framework cannot be asked here; None when it can."""
    if java() is None:
        return "no Java development kit of version 17 or later"
    if not (JARS / "version").exists():
        return "the Android framework is not here: run tests/android_framework/fetch"
    return None


def levels() -> tuple[int, ...]:
    """Return the API levels that this machine's Java runs: the newest wants Java 21."""
    kit = java()
    assert kit is not None
    return LEVELS if kit.version >= 21 else LEVELS[:-1]


@dataclass(frozen=True)
class Phone:
    """The configuration of a device: sizes in dp as it is held, `mode` as in `Configuration.uiMode` (1: a phone)."""

    night: bool = False
    density: int = 480
    width: int = 360
    height: int = 800
    locale: str = "en-US"
    mode: int = 1
    round: bool = False


@dataclass(frozen=True)
class Drawing:
    """A drawable ("@drawable/mark", "?android:attr/windowBackground") to be drawn at a size in px, and where to.

    `at`: at which time of its motion, in ms; below 0 as it is before it moves.
    """

    value: str
    width: int
    height: int
    png: str
    at: int = -1


@dataclass(frozen=True)
class Question:
    """What one device makes of one package: `values` are references, resolved in a theme ("@style/Launch")."""

    apk: str
    level: int
    device: Phone = field(default_factory=Phone)
    theme: str = ""
    values: Sequence[str] = ()
    drawings: Sequence[Drawing] = ()
    package: str = PACKAGE


class Framework:
    """The process that answers, shared by all workers of a test run through a folder. It is started by the first question."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._socket: socket.socket | None = None
        self._lines: IO[str] | None = None

    def ask(self, questions: Sequence[Question]) -> list[Any]:
        """Return the answers in the order of the questions: `values` by reference, and `drawn` in the order of the drawings."""
        answers: dict[int, Any] = {}
        for level in sorted({question.level for question in questions}):
            chosen = [index for index, question in enumerate(questions) if question.level == level]
            found = self._answers(level, [asdict(questions[index]) for index in chosen])
            answers |= dict(zip(chosen, found, strict=True))
        return [answers[index] for index in range(len(questions))]

    def _answers(self, level: int, questions: list[dict[str, Any]]) -> list[Any]:
        if self._socket is None:
            self._socket = socket.create_connection(("127.0.0.1", self._port()))
            self._lines = self._socket.makefile("r", encoding="utf-8")
        assert self._lines is not None
        self._socket.sendall(f"{level}\t{json.dumps(questions)}\n".encode())
        line = self._lines.readline()
        answers = json.loads(line) if line else None
        assert answers is not None, (self._folder / "log").read_text()[-3000:]
        return list(answers)

    def _port(self) -> int:
        """The port of the process, which the first worker starts."""
        self._folder.mkdir(parents=True, exist_ok=True)
        port, log = self._folder / "port", self._folder / "log"
        try:
            (self._folder / "starting").touch(exist_ok=False)
            self._start(port, log)
        except FileExistsError:
            pass  # another worker has
        deadline = time.monotonic() + 300
        while not port.exists():
            assert time.monotonic() < deadline, log.read_text()[-3000:]
            time.sleep(0.1)
        return int(port.read_text())

    def _start(self, port: Path, log: Path) -> None:
        kit = java()
        assert kit is not None
        classes = self._folder / "classes"
        path = f"{JARS / 'framework'}/*:{level_jar(COMPILED_AGAINST)}"
        sources = [str(source) for source in sorted((HERE / "src").rglob("*.java"))]
        compiled = [kit("javac"), "-nowarn", "--release", "17", "-d", str(classes), "-cp", path, *sources]
        done = subprocess.run(compiled, capture_output=True, text=True)
        assert done.returncode == 0, done.stderr
        options = (
            "-XX:TieredStopAtLevel=1",
            "-Drobolectric.offline=true",
            f"-Drobolectric.dependency.dir={JARS / 'levels'}",
            f"-Drobolectric.enabledSdks={','.join(map(str, levels()))}",
            "-Drobolectric.alwaysIncludeVariantMarkersInTestName=true",
        )
        command = [kit("java"), *options, "-cp", f"{classes}:{path}", "Harness", str(port)]
        # It outlives the worker that starts it, and ends by itself.
        behind = f'exec < /dev/null > "{log}" 2>&1; "$@" &'
        subprocess.run(["sh", "-c", behind, "sh", *command], check=True, start_new_session=True)

    def close(self) -> None:
        """Leave the process."""
        if self._socket is not None and self._lines is not None:
            self._lines.close()
            self._socket.close()


def level_jar(release: str) -> Path:
    """Return the jar of one release of the platform ("6", or the jar's full version)."""
    pattern = re.compile(rf"android-all-instrumented-{re.escape(release)}\b")
    return next(jar for jar in (JARS / "levels").iterdir() if pattern.match(jar.name))


class Linker:
    """Packages made of trees of resources, linked against the real platform's table."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._platform = folder / "platform.apk"
        self._made = 0

    def link(self, files: Mapping[str, str | bytes], manifest: str = "", *, min_sdk: int = 21) -> str:
        """Return the path of a package made of a `res` folder ("drawable/a.xml" -> content).

        Raises:
            AssertionError: the resource compiler refuses it.
        """
        if not self._platform.exists():
            self._folder.mkdir(parents=True, exist_ok=True)
            with zipfile.ZipFile(level_jar(COMPILED_AGAINST)) as jar, zipfile.ZipFile(self._platform, "w") as out:
                for name in ("AndroidManifest.xml", "resources.arsc"):
                    out.writestr(name, jar.read(name))
        self._made += 1
        work = self._folder / str(self._made)
        write_tree(work / "res", files.items())
        text = manifest or f'<manifest xmlns:android="{aapt.NAMESPACE}" package="{PACKAGE}"><application/></manifest>'
        (work / "AndroidManifest.xml").write_text(text)
        aapt.run("compile", "--dir", work / "res", "-o", work / "res.zip")
        package = work / "app.apk"
        levels_ = ("--min-sdk-version", min_sdk, "--target-sdk-version", 35)
        inputs = ("--manifest", work / "AndroidManifest.xml", "-I", self._platform, work / "res.zip")
        aapt.run("link", "-o", package, *levels_, "--auto-add-overlay", *inputs)
        return str(package)


def write_tree(root: Path, files: Iterable[tuple[str, str | bytes]]) -> None:
    """Write files below a folder."""
    for name, content in files:
        path = root / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content.encode() if isinstance(content, str) else content)
